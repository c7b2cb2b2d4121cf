"""What tests of reviews share: a link, and what is said and decided through it."""

import json


def made(client, shot, **more):
    """A review link's path, as it is told when it is made."""
    sent = {"shots": [shot.pk], "for_whom": "Ms Kettle", "days": "14", "password": "", **more}
    answer = client.post(f"/productions/{shot.production.pk}/reviews/new", sent)
    assert answer.status_code == 200, answer.content.decode()[-2000:]
    return "/review/" + answer.content.decode().split("/review/")[1].split("/")[0] + "/"


def say(visitor, link, **told):
    return visitor.post(f"{link}remarks", json.dumps(told), content_type="application/json")


def decide(visitor, link, **told):
    return visitor.post(f"{link}decide", json.dumps(told), content_type="application/json")
