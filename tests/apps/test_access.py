import time

from django.core import signing
from django.test import Client
from django.urls import get_resolver
from django.utils import timezone

from tests.apps.test_people import member, signed_in
from tests.pictures import encoded, mouths
from tinfork.apps.cast.models import Page
from tinfork.apps.common.storage import keep_bytes
from tinfork.apps.jobs.models import Job
from tinfork.apps.people.invitations import invite
from tinfork.apps.reading.actions.layout import hang_background
from tinfork.apps.reference.models import Reference
from tinfork.apps.review.models import Comparison, Remark, ReviewLink
from tinfork.apps.sound.models import Reel

PUBLIC = {"healthy"}


def remark_of(shot):
    picture = keep_bytes(b"RIFF", ".webp")
    return Remark.objects.get_or_create(shot=shot, text="wider", name="Kettle", picture=picture, end_us=40_000)[0]


def comparison_of(shot):
    film = keep_bytes(b"film of two", ".mp4")
    return Comparison.objects.get_or_create(shot=shot, before=version_of(shot), film=film, frames=2)[0]


def review_of(shot):
    return ReviewLink.objects.get_or_create(production=shot.production, digest="x")[0]


def addresses(shot):
    """Every address of ours with things of one studio in it."""
    chart = shot.character.mouth.charts.get()
    drawing = chart.drawings.first()
    sheet = page_of(chart)
    job = Job.objects.filter(shot=shot).first()
    chart.face.name = keep_bytes(b"<svg xmlns='http://www.w3.org/2000/svg'/>", ".svg")
    chart.save()
    if not shot.background:
        hang_background(shot=shot, key=keep_bytes(b"<svg xmlns='http://www.w3.org/2000/svg'/>", ".svg"), by=None)
    return {
        "production": f"/productions/{shot.production.pk}/",
        "shot": f"/shots/{shot.pk}/",
        "desk": f"/shots/{shot.pk}/desk",
        "handover": f"/shots/{shot.pk}/handover",
        "shot_why": f"/shots/{shot.pk}/why?character={shot.character.pk}&frame=1",
        "shot_changes": f"/shots/{shot.pk}/changes?since=0",
        "shot_versions": f"/shots/{shot.pk}/versions",
        "shot_version": f"/shots/{shot.pk}/versions/{version_of(shot).pk}",
        "handover_file": f"/shots/{shot.pk}/handover/csv",
        "handover_preview": f"/shots/{shot.pk}/handover/preview?as=csv",
        "handover_all": f"/productions/{shot.production.pk}/handover",
        "shot_background": f"/shots/{shot.pk}/background",
        "at_the_set": f"/shots/{shot.pk}/set",
        "shot_import": f"/shots/{shot.pk}/import",
        "small_drawings": f"/cast/{shot.character.pk}/drawings.json",
        "plain_head": f"/cast/{shot.character.pk}/head.svg",
        "production_edit": f"/productions/{shot.production.pk}/edit",
        "reviews": f"/productions/{shot.production.pk}/reviews",
        "remarks": f"/shots/{shot.pk}/remarks",
        "remark_picture": f"/remarks/{remark_of(shot).pk}/picture",
        "comparison": f"/comparisons/{comparison_of(shot).pk}/",
        "comparison_film": f"/comparisons/{comparison_of(shot).pk}/film",
        "shot_moving": f"/shots/{shot.pk}/moving.webp",
        "activity": f"/productions/{shot.production.pk}/activity",
        "board": f"/productions/{shot.production.pk}/board",
        "people": f"/studios/{shot.production.studio.pk}/",
        "production_dials": f"/productions/{shot.production.pk}/dials.json",
        "shot_sound": f"/shots/{shot.pk}/sound",
        "shot_sound_document": f"/shots/{shot.pk}/sound.json",
        "shot_mix": f"/shots/{shot.pk}/mix",
        "shot_peaks": f"/shots/{shot.pk}/peaks/0",
        "production_shots": f"/productions/{shot.production.pk}/shots",
        "takes": f"/productions/{shot.production.pk}/takes",
        "record": f"/productions/{shot.production.pk}/record?shot={shot.pk}",
        "script": f"/productions/{shot.production.pk}/script",
        "pronunciations": f"/productions/{shot.production.pk}/pronunciations",
        "take": f"/takes/{take_of(shot).pk}/",
        "take_sound": f"/takes/{take_of(shot).pk}/sound",
        "take_peaks": f"/takes/{take_of(shot).pk}/peaks/0",
        "reel_film": f"/reels/{reel_of(shot).pk}/film",
        "reference": f"/shots/{shot.pk}/reference",
        "reference_film": f"/references/{reference_of(shot).pk}/film",
        "face": f"/cast/{shot.character.pk}/face",
        "character_edit": f"/cast/{shot.character.pk}/edit",
        "character_export": f"/cast/{shot.character.pk}/export.zip",
        "chart": f"/cast/charts/{chart.pk}/",
        "set_export": f"/cast/charts/{chart.pk}/export.zip",
        "chart_board": f"/cast/charts/{chart.pk}/board",
        "chart_proposal": f"/cast/charts/{chart.pk}/proposal",
        "chart_check": f"/cast/charts/{chart.pk}/check",
        "chart_place": f"/cast/charts/{chart.pk}/place",
        "chart_face": f"/cast/charts/{chart.pk}/face",
        "chart_starter": f"/cast/charts/{chart.pk}/starter",
        "chart_starter_zip": f"/cast/charts/{chart.pk}/starter.zip?drawings=3",
        "page": f"/cast/pages/{sheet.pk}/",
        "page_boxes": f"/cast/pages/{sheet.pk}/boxes?gap=9",
        "page_picture": f"/cast/pages/{sheet.pk}/picture",
        "drawing": f"/cast/drawings/{drawing.pk}/",
        "drawing_picture": f"/cast/drawings/{drawing.pk}/picture",
        "drawing_thumb": f"/cast/drawings/{drawing.pk}/thumb",
        "job": f"/jobs/{job.pk}/",
    }


def changes(shot):
    """Every address that changes something."""
    chart = shot.character.mouth.charts.get()
    drawing = chart.drawings.first()
    character, one = f"/cast/{shot.character.pk}", f"/cast/charts/{chart.pk}"
    return {
        "production_edit": f"/productions/{shot.production.pk}/edit",
        "production_archive": f"/productions/{shot.production.pk}/archive",
        "shot_archive": f"/shots/{shot.pk}/archive",
        "archived_production": f"/archive/productions/{put_away_of(shot.production).pk}",
        "archived_shot": f"/archive/shots/{put_away_of(shot).pk}",
        "shot_read": f"/shots/{shot.pk}/read",
        "shot_read_again": f"/shots/{shot.pk}/read/again",
        "shot_alike": f"/shots/{shot.pk}/alike",
        "shot_sounds": f"/shots/{shot.pk}/sounds",
        "shot_settings": f"/shots/{shot.pk}/settings",
        "shot_cast": f"/shots/{shot.pk}/cast",
        "shot_sound_edit": f"/shots/{shot.pk}/sound/edit",
        "shot_voices": f"/shots/{shot.pk}/voices",
        "shot_reel": f"/shots/{shot.pk}/reel",
        "production_drop": f"/productions/{shot.production.pk}/drop",
        "take_upload": f"/productions/{shot.production.pk}/takes/upload",
        "takes_speak": f"/productions/{shot.production.pk}/takes/speak",
        "reel_upload": f"/productions/{shot.production.pk}/reels",
        "pronunciation_set": f"/productions/{shot.production.pk}/pronunciations/set",
        "script_preview": f"/productions/{shot.production.pk}/script/preview",
        "script_apply": f"/productions/{shot.production.pk}/script/apply",
        "take_edit": f"/takes/{take_of(shot).pk}/edit",
        "take_delete": f"/takes/{take_of(shot).pk}/delete",
        "take_lines": f"/takes/{take_of(shot).pk}/lines",
        "take_find": f"/takes/{take_of(shot).pk}/find",
        "take_use": f"/takes/{take_of(shot).pk}/use/1",
        "take_replace": f"/takes/{take_of(shot).pk}/replace",
        "take_send": f"/takes/{take_of(shot).pk}/send",
        "reel_delete": f"/reels/{reel_of(shot).pk}/delete",
        "reference": f"/shots/{shot.pk}/reference",
        "reference_begin": f"/shots/{shot.pk}/reference/begin",
        "reference_follow": f"/shots/{shot.pk}/reference/follow",
        "reference_stop": f"/shots/{shot.pk}/reference/stop",
        "reference_delete": f"/shots/{shot.pk}/reference/delete",
        "shot_dials": f"/shots/{shot.pk}/dials",
        "shot_edit": f"/shots/{shot.pk}/mouths",
        "handover_make": f"/shots/{shot.pk}/handover/make",
        "shot_import": f"/shots/{shot.pk}/import",
        "production_dials_in": f"/productions/{shot.production.pk}/dials/in",
        "production_pack": f"/productions/{shot.production.pk}/pack",
        "set_link": f"/shots/{shot.pk}/set/link",
        "review_new": f"/productions/{shot.production.pk}/reviews/new",
        "review_withdraw": f"/reviews/{review_of(shot).pk}/withdraw",
        "remark_new": f"/shots/{shot.pk}/remarks/new",
        "remark_settle": f"/remarks/{remark_of(shot).pk}/settle",
        "shot_decide": f"/shots/{shot.pk}/decide",
        "shot_compare": f"/shots/{shot.pk}/compare",
        "board_plan": f"/productions/{shot.production.pk}/board/plan",
        "status_rename": f"/studios/{shot.production.studio.pk}/statuses",
        "studio_rename": f"/studios/{shot.production.studio.pk}/rename",
        "invitation_new": f"/studios/{shot.production.studio.pk}/invitations",
        "invitation_withdraw": f"/invitations/{invite(shot.production.studio)[0].pk}/withdraw",
        "member_role": f"/members/{shot.production.studio.memberships.first().pk}/role",
        "member_remove": f"/members/{shot.production.studio.memberships.first().pk}/remove",
        "studio_hand_over": f"/members/{shot.production.studio.memberships.first().pk}/owns",
        "set_withdraw": f"/shots/{shot.pk}/set/withdraw",
        "handover_all_make": f"/productions/{shot.production.pk}/handover/make",
        "shot_background": f"/shots/{shot.pk}/background",
        "job_cancel": f"/jobs/{Job.objects.filter(shot=shot).first().pk}/cancel",
        "job_again": f"/jobs/{Job.objects.filter(shot=shot).first().pk}/again",
        "character_edit": f"{character}/edit",
        "character_duplicate": f"{character}/duplicate",
        "character_archive": f"{character}/archive",
        "character_delete": f"{character}/delete",
        "part_new": f"{character}/parts",
        "part_delete": f"/cast/parts/{chart.part_id}/delete",
        "part_place": f"/cast/parts/{chart.part_id}/place",
        "drawing_trace": f"/cast/drawings/{chart.drawings.first().pk}/trace",
        "face_trace": f"{character}/face/trace",
        "face_untrace": f"{character}/face/untrace",
        "chart_face_trace": f"{one}/face/trace",
        "chart_face_untrace": f"{one}/face/untrace",
        "drawing_untrace": f"/cast/drawings/{chart.drawings.first().pk}/untrace",
        "chart_drawings": f"{one}/drawings",
        "set_import": f"{one}/import",
        "chart_sounds": f"{one}/sounds",
        "chart_order": f"{one}/order",
        "chart_proposal": f"{one}/proposal",
        "chart_mend": f"{one}/mend",
        "chart_undo": f"{one}/undo",
        "chart_face_give": f"{one}/face/give",
        "chart_face_drop": f"{one}/face/drop",
        "chart_starter_take": f"{one}/starter/take",
        "set_new": f"{one}/sets",
        "set_rename": f"{one}/rename",
        "set_delete": f"{one}/delete",
        "page_new": f"{one}/page",
        "page_cut": f"/cast/pages/{page_of(chart).pk}/cut",
        "page_delete": f"/cast/pages/{page_of(chart).pk}/delete",
        "drawing": f"/cast/drawings/{drawing.pk}/",
        "drawing_replace": f"/cast/drawings/{drawing.pk}/replace",
        "drawing_delete": f"/cast/drawings/{drawing.pk}/delete",
        "drawing_register": f"/cast/drawings/{drawing.pk}/register",
    }


def put_away_of(item):
    """Another of its kind, in the archive."""
    kin = {"production": item.production} if hasattr(item, "production") else {"studio": item.studio}
    return type(item).everything.get_or_create(**kin, name="away", archived_at=timezone.now())[0]


def take_of(shot):
    return shot.soundtrack.takes.get()


def version_of(shot):
    """A version of it by name."""
    document = shot.soundtrack.document
    return shot.soundtrack.versions.get_or_create(name="before", defaults={"document": document})[0]


def reel_of(shot):
    """A story reel that can be seen."""
    key = keep_bytes(b"film", ".webm")
    return Reel.objects.get_or_create(production=shot.production, name="reel", film=key, duration_us=1_000_000)[0]


def reference_of(shot):
    """A film beside the shot."""
    key = keep_bytes(b"film of a face", ".webm")
    return Reference.objects.get_or_create(shot=shot, name="me", film=key, duration_us=1_000_000)[0]


def page_of(chart):
    """A page to be cut up, in the chart's studio."""
    key = keep_bytes(encoded(mouths()[14]), ".png")
    return Page.objects.get_or_create(chart=chart, name="p", original=key, picture=key, width=400, height=300)[0]


#: Saying a sentence changes nothing, but is sent.
SENT = {"chart_say", "pronunciation_say"}
OWN = {
    "productions",
    "archive",
    # By a link, which nobody needs to sign in for.
    "review",
    "review_film",
    "review_remarks",
    "review_decide",
    "set_by_link",
    "set_sound",
    "production_new",
    # One's own account, and the studios one belongs to: see test_people.
    "account",
    "account_export",
    "account_delete",
    "portrait",
    "news",
    "news_mailing",
    "studio_new",
    "studio_switch",
    "studio_leave",
    "join",
    "production_unpack",
    "cast",
    "jobs",
    "help",
    "help_chapter",
    "tour",
    "tour_leave",
    "sample",
    "job_result",
    "character",
    "character_new",
    "character_import",
}


def test_every_address_of_ours_is_covered_here(read_shot):
    ours = {
        p.name
        for r in get_resolver().url_patterns
        for p in getattr(r, "url_patterns", [])
        if p.callback and "tinfork" in p.callback.__module__
    }
    assert ours == set(addresses(read_shot)) | set(changes(read_shot)) | SENT | OWN | PUBLIC


def test_members_reach_their_things_strangers_find_nothing_and_nobody_reads_without_a_session(
    read_shot, client, stranger
):
    for name, address in addresses(read_shot).items():
        assert client.get(address).status_code == 200, name
        assert stranger.get(address).status_code == 404, name
        answer = Client().get(address)
        assert answer.status_code == 302, name
        assert answer["Location"].startswith("/account/login/"), name


def test_a_link_for_a_tablet_opens_one_shot_for_a_month_and_no_longer(read_shot, client, monkeypatch):
    page = client.post(f"/shots/{read_shot.pk}/set/link")["Location"]
    visitor = Client()
    assert visitor.get(page).status_code == 200
    assert visitor.get(f"{page}sound").status_code == 200
    for bent in (page[:-2] + "x/", page.replace("/set/", "/set/x"), "/set/1/", "/set/eyJ4IjoxfQ:1:x/"):
        assert visitor.get(bent).status_code == 404
    assert visitor.get(f"/shots/{read_shot.pk}/set").status_code == 302
    later = time.time() + 31 * 24 * 3600
    monkeypatch.setattr("django.core.signing.time.time", lambda: later)
    assert visitor.get(page).status_code == 404
    monkeypatch.undo()
    type(read_shot).objects.update(archived_at=timezone.now())
    assert visitor.get(page).status_code == 404


def test_a_link_that_was_withdrawn_opens_nothing_and_a_new_one_is_another(read_shot, client):
    guide = f"/shots/{read_shot.pk}/set"
    assert "Withdraw links" not in client.get(guide).content.decode()
    first = client.post(f"{guide}/link")["Location"]
    second = client.post(f"{guide}/link")["Location"]
    visitor = Client()
    assert visitor.get(first).status_code == visitor.get(second).status_code == 200
    assert "Withdraw links" in client.get(guide).content.decode()
    assert "Withdraw links" not in visitor.get(first).content.decode()
    assert client.post(f"{guide}/withdraw")["Location"] == guide
    assert visitor.get(first).status_code == visitor.get(second).status_code == 404
    assert visitor.get(f"{first}sound").status_code == 404
    third = client.post(f"{guide}/link")["Location"]
    assert visitor.get(third).status_code == 200
    assert visitor.get(first).status_code == 404
    # Links of before they could be withdrawn name the shot alone.
    assert visitor.get(f"/set/{signing.dumps(read_shot.pk, salt='at the set')}/").status_code == 404


def test_a_stranger_cannot_change_anything(read_shot, stranger):
    for name, address in changes(read_shot).items():
        assert stranger.post(address).status_code == 404, name
    chart = read_shot.character.mouth.charts.get()
    assert stranger.post(f"/cast/charts/{chart.pk}/say", {"text": "hello"}).status_code == 404


#: Who may send what, besides what animators and those above them may: the least role.
LEAST = {
    **dict.fromkeys(("remark_new", "shot_decide", "shot_compare"), "reviewer"),
    **dict.fromkeys(("status_rename", "invitation_new", "invitation_withdraw", "member_role", "member_remove"), "lead"),
    **dict.fromkeys(("studio_rename", "studio_hand_over"), "owner"),
}
ROLES = ["owner", "lead", "animator", "reviewer", "viewer"]


def test_each_role_sees_everything_and_changes_only_what_it_may(read_shot):
    everything = {**changes(read_shot), "production": f"/productions/{read_shot.production.pk}/"}
    seen = addresses(read_shot)
    for role in ROLES[1:]:
        browser = signed_in(member(read_shot.production.studio, role).user)
        for name, address in seen.items():
            assert browser.get(address).status_code == 200, (role, name)
        for name, address in everything.items():
            if ROLES.index(role) > ROLES.index(LEAST.get(name, "animator")):
                assert browser.post(address, {"name": "x"}).status_code == 403, (role, name)


def test_what_a_role_may_send_is_not_refused_for_the_role(read_shot):
    for role in ("reviewer", "lead"):
        browser = signed_in(member(read_shot.production.studio, role).user)
        for name, least in LEAST.items():
            if ROLES.index(role) <= ROLES.index(least) and name not in ("member_role", "member_remove"):
                address = changes(read_shot)[name]
                assert browser.post(address, {"name": ""}).status_code in (200, 302, 404, 422), (role, name)


def test_who_may_only_look_makes_nothing_new(viewer):
    assert viewer.get("/cast/").status_code == 200
    for address in ("/cast/new", "/cast/import"):
        assert viewer.post(address, {"name": "x"}).status_code == 404


def test_a_production_of_another_studio_cannot_take_its_character(production, stranger, client, studio):
    from tinfork.apps.cast.models import Character

    foreign = Character.objects.exclude(studio=studio).first()
    answer = client.post(f"/productions/{production.pk}/", {"name": "030", "character": foreign.pk, "first_frame": 1})
    assert answer.status_code == 422


def test_signing_up_makes_an_account_a_studio_and_its_first_characters(db):
    visitor = Client()
    answer = visitor.post(
        "/account/signup/", {"email": "new@tinfork.example", "password1": "loaf-before-tram-9", "studio": "New Bakery"}
    )
    assert answer.status_code == 302, answer.content.decode()
    page = visitor.get("/cast/").content.decode()
    assert "Odalys" in page
    assert "Brindle" in page


def test_pages_carry_a_policy_without_unsafe_parts(client, studio):
    policy = client.get("/")["Content-Security-Policy"]
    assert "default-src 'self'" in policy
    assert "unsafe" not in policy
