"""Mailing by the worker, so that a slow mail server makes nobody wait."""

import logging

from django.conf import settings
from django.db import close_old_connections
from procrastinate import RetryStrategy
from procrastinate.contrib.django import app

from tinfork.apps.news.mailing import send_daily, send_one

log = logging.getLogger("tinfork.news")
_AGAIN = RetryStrategy(max_attempts=6, wait=60, linear_wait=300)


@app.task(queue="upkeep", retry=_AGAIN)
def mail_now(news: int) -> None:
    """Mail one piece of news."""
    close_old_connections()
    send_one(news)


@app.periodic(cron="0 6 * * *")
@app.task(queue="upkeep", queueing_lock="mail_daily")
def mail_daily(timestamp: int) -> None:
    """Send the daily mails."""
    close_old_connections()
    if settings.HAS_MAIL and (sent := send_daily()):
        log.info("mailed the news of the day to %s people", sent)
