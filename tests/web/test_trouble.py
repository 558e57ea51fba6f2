"""When something fails on our side, a person is told what, what was kept, and what to do."""

import errno
import json

import pytest
from django.db import OperationalError

from tinfork.web.pages import productions as views


@pytest.mark.parametrize(
    ("problem", "status", "sentence"),
    [
        (OperationalError("the server closed the connection"), 503, "database is not answering"),
        (OSError(errno.ENOSPC, "No space left on device"), 507, "disk is full"),
        (ZeroDivisionError(), 500, "went wrong on our side"),
    ],
)
def test_a_failure_is_a_page_in_our_look(ferry, monkeypatch, problem, status, sentence):
    client = ferry.client(ferry.owner)
    client.raise_request_exception = False

    def broken(*_, **__):
        raise problem

    monkeypatch.setattr(views.Production.objects, "filter", broken)
    page = client.get("/")
    assert page.status_code == status
    assert sentence in page.content.decode()
    assert "css/site.css" in page.content.decode()
    answer = client.get("/", headers={"Accept": "application/json"})
    assert sentence in json.loads(answer.content)["problem"]


def test_a_database_that_is_gone_is_told_before_anything_else(ferry, monkeypatch):
    client = ferry.client(ferry.owner)
    client.raise_request_exception = False

    def gone(*_, **__):
        raise OperationalError("connection refused")

    monkeypatch.setattr("django.contrib.sessions.backends.db.SessionStore.load", gone)
    page = client.get("/")
    assert page.status_code == 503
    assert page.headers["Retry-After"] == "5"
