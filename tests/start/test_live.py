"""What the live process tells a page, before anything is sent."""

from tinfork.site.live import Hall


def test_a_stream_tells_the_newest_revision_once_and_of_its_own_shot_only():
    hall = Hall()
    with hall.ear(7, user=1) as ear:
        hall.say(7, 3)
        hall.say(7, 5)
        hall.say(8, 9)
        assert ear.told() == "event: changed\ndata:5\n\n"
        assert ear.told() == ": here\n\n"
        assert not ear.woken.is_set()


def test_what_was_said_of_a_shot_is_asked_for_whatever_revision_a_page_has():
    hall = Hall()
    with hall.ear(7, user=1) as ear:
        hall.say(7, 3)
        hall.say(7, 0)
        assert ear.told() == "event: changed\ndata:\n\n"


def test_a_stream_that_is_closed_hears_nothing_and_makes_room():
    hall = Hall()
    with hall.ear(7, user=1) as ear:
        pass
    hall.say(7, 3)
    assert not ear.woken.is_set()
    assert not hall.is_full(1)
