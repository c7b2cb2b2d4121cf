"""A face in a film, followed: on a painted face that moves in known ways."""

import shutil

import cv2
import numpy as np
import pytest

from tinfork.core.errors import EngineError, SoundError
from tinfork.core.motion.faces import blinks, track_of
from tinfork.engines.film import open_film
from tinfork.engines.tracking.faces import EyeTracker, FaceTracker
from tinfork.engines.tracking.models import FILES, models_folder
from tinfork.engines.tracking.watching import watch
from tools.demo.stand_in_face import BLINKS, RATE, SHIPPED, SIDE, Held, paint, performance, write_film

#: How large the measured signals are for what the painter takes: per half width of an eye, pixel, whole mouth.
SIGNALS = {"turn": (1.0, 5.5), "tilt": (1.0, 2.0), "gaze_across": (0.34, 0.08), "mouth": (0.105, 0.03)}


def unheard(phase, done):
    pass


@pytest.fixture(scope="module")
def told():
    """What is found in the film that ships, and how its face was painted."""
    track, notes = watch(SHIPPED, "stand-in", unheard)
    assert notes == []
    return track, performance()


@pytest.mark.parametrize(
    ("name", "by"), {"turn": "turn", "tilt": "tilt", "gaze_across": "gaze", "mouth": "mouth"}.items()
)
def test_the_face_is_held_as_it_was_painted(told, name, by):
    track, held = told
    unit, most = SIGNALS[name]
    wanted = unit * np.array([getattr(one, by) for one in held])
    found = track.signal(name)[: len(held)]
    assert len(track.times_us) == pytest.approx(len(held), abs=1)
    assert np.abs(found - wanted).max() <= most
    assert np.corrcoef(found, wanted)[0, 1] > 0.93


def test_tilt_alone_is_told_within_two_degrees_far_out():
    tracker, eyes = FaceTracker(), EyeTracker()
    ways = [0, 0, -28, -18, -9, 9, 18, 28]
    pictures = [paint(Held(tilt=tilt)) for tilt in ways]
    faces = [eyes.face(picture, tracker.see(picture)) for picture in pictures]
    # One a second: nothing is smoothed.
    track = track_of(faces, [n * 10**6 for n in range(len(ways))])
    assert track.signal("tilt")[2:] == pytest.approx(ways[2:], abs=2)


def test_every_blink_is_found_where_it_is_and_none_more(told):
    track, _ = told
    found = [start / 1e6 for start, _ in blinks(track)]
    assert found == pytest.approx(BLINKS, abs=2 / RATE)


def test_what_is_followed_does_not_depend_on_the_copy_being_small_or_another_kind(told, tmp_path):
    track, _ = told
    copy = open_film(SHIPPED, tmp_path / "copy.webm", "copy")
    assert (copy.width, copy.height) == (360, 360)
    again, _ = watch(tmp_path / "copy.webm", "copy", unheard)
    count = min(len(track.times_us), len(again.times_us))
    assert np.abs(track.signal("tilt")[:count] - again.signal("tilt")[:count]).max() < 2
    assert len(blinks(again)) == len(BLINKS)


def film_of(pictures, target):
    """A film of some pictures, RGB of any size."""
    high, wide = pictures[0].shape[:2]
    out = cv2.VideoWriter(str(target), cv2.VideoWriter_fourcc(*"mp4v"), 30, (wide, high))
    for picture in pictures:
        out.write(cv2.cvtColor(picture, cv2.COLOR_RGB2BGR))
    out.release()
    return target


@pytest.mark.parametrize("what", ["nobody", "dark"])
def test_a_film_without_a_face_that_can_be_seen_is_refused_in_words(tmp_path, what):
    random = np.random.default_rng(1)
    if what == "nobody":
        pictures = [random.integers(0, 255, (120, 160, 3), dtype=np.uint8)] * 20
    else:
        pictures = [(paint(Held()) * 0.004).astype(np.uint8)] * 20
    with pytest.raises(SoundError, match="No face could be followed"):
        watch(film_of(pictures, tmp_path / "film.mp4"), "film", unheard)


def test_of_two_faces_the_larger_is_followed_and_it_is_said(tmp_path):
    own = [paint(Held()), paint(Held(tilt=12))]
    other = cv2.resize(paint(Held(tilt=-12)), (240, 240), interpolation=cv2.INTER_AREA)
    pictures = []
    for n in range(48):
        both = np.full((SIDE, 760, 3), 150, np.uint8)
        both[:, :SIDE] = own[n > 36]
        both[100:340, 500:740] = other
        # Now and then nobody is seen: both are found anew.
        pictures.append(both if n % 10 else np.zeros_like(both))
    track, notes = watch(film_of(pictures, tmp_path / "two.mp4"), "two", unheard)
    assert [note for note in notes if "more than one face" in note] == [
        "The film shows more than one face. The largest is followed."
    ]
    assert any("No face was found in 10%" in note for note in notes)
    assert track.signal("tilt")[-4] == pytest.approx(12, abs=1.5)


@pytest.mark.parametrize("how", ["missing", "damaged"])
def test_without_whole_models_it_is_said_what_to_do(tmp_path, monkeypatch, how):
    if how == "damaged":
        for name in FILES:
            shutil.copy(models_folder() / name, tmp_path / name)
        (tmp_path / "face_landmark.tflite").write_bytes(b"TFL3" + bytes(range(256)) * 40)
    monkeypatch.setenv("TINFORK_FACE_MODELS", str(tmp_path))
    with pytest.raises(EngineError, match=r"\./run"):
        watch(SHIPPED, "stand-in", unheard)


def test_a_film_that_breaks_off_is_refused_or_followed_as_far_as_it_goes(tmp_path):
    cut = tmp_path / "cut.webm"
    cut.write_bytes(SHIPPED.read_bytes()[:120_000])
    track, _ = watch(cut, "cut", unheard)
    assert 30 < len(track.times_us) < 240
    (tmp_path / "no.webm").write_bytes(b"no film at all")
    with pytest.raises(SoundError, match="not a film"):
        watch(tmp_path / "no.webm", "no", unheard)


def test_it_can_be_stopped_in_the_middle(tmp_path):
    class StoppedError(Exception):
        pass

    def report(phase, done):
        assert phase == "Following the face"
        if done > 0.2:
            raise StoppedError

    with pytest.raises(StoppedError):
        watch(SHIPPED, "stand-in", report)


def test_the_film_that_ships_is_what_the_painter_paints(tmp_path):
    few = performance()[70:76]
    write_film(tmp_path / "few.y4m", few, 360)
    reader, shipped = cv2.VideoCapture(str(tmp_path / "few.y4m")), cv2.VideoCapture(str(SHIPPED))
    for _ in range(70):
        shipped.read()
    for _ in few:
        (_, fresh), (_, old) = reader.read(), shipped.read()
        assert np.abs(fresh.astype(float) - old).mean() < 6
