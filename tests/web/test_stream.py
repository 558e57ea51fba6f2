"""What open pages are told, and for how long they may listen."""

import asyncio
import json
from contextlib import asynccontextmanager

import pytest
from asgiref.sync import async_to_sync, sync_to_async
from django.db import connections
from django.test import AsyncClient

from tinfork.web.accounts import visits
from tinfork.web.notices.models import Notice
from tinfork.web.notices.noticing import notices_of, notify, see, unseen
from tinfork.web.people.actions import remove_person
from tinfork.web.productions.models import Membership
from tinfork.web.rushes import actions as rushes
from tinfork.web.shots.changing import set_field
from tinfork.web.stream import hub, views

EDITED = pytest.mark.django_db(transaction=True)


@pytest.fixture(autouse=True)
def fresh_hub(monkeypatch):
    monkeypatch.setattr(views, "HUB", hub.Hub())
    monkeypatch.setattr(hub, "_SECONDS_TO_SETTLE", 0.05)


@asynccontextmanager
async def listening(person, query=""):
    """A page of a person that listens; a function that gives what it is told next of a kind."""
    client = AsyncClient()
    await sync_to_async(client.force_login)(person)
    answer = await client.get(f"/stream/{query}")
    assert answer.headers["Content-Type"] == "text/event-stream"
    lines = aiter(answer.streaming_content)

    async def told(kind):
        async with asyncio.timeout(10):
            async for line in lines:
                if line.startswith(b"data: ") and (found := json.loads(line[6:]))["kind"] == kind:
                    return found
        raise AssertionError(f"the stream ended without {kind}")

    await told("again")
    yield told
    await answer._iterator.aclose()  # As when the connection is gone.


def in_a_thread(work, *given):
    """Do something as another request would, in a transaction that is kept."""

    def done():
        try:
            return work(*given)
        finally:
            connections.close_all()

    return asyncio.to_thread(done)


def settle(ferry, person):
    """Change something on the desk."""
    answer = ferry.edit(person, "settings", hold=3, lead=0, detail=0.5)
    assert answer.status_code == 200


@EDITED
def test_an_edit_reaches_open_pages_of_the_scene_and_of_its_production_alone(ferry, editor):
    scene = ferry.stave.scene

    @async_to_sync
    async def story():
        async with (
            listening(ferry.owner, f"?scene={scene.pk}&view=desk") as desk,
            listening(editor, f"?production={scene.production_id}") as board,
            listening(ferry.stranger) as elsewhere,
        ):
            await in_a_thread(settle, ferry, editor)
            told = await desk("edit")
            assert told["area"] == f"stave {ferry.stave.pk}"
            assert told["version"] == ferry.stave.version + 1
            assert (await board("edit"))["scene"] == scene.pk
            await in_a_thread(notify, [ferry.stranger.pk], scene.production, "Not theirs", "/")
            with pytest.raises(TimeoutError):
                async with asyncio.timeout(0.4):
                    await elsewhere("notice")

    story()


@EDITED
def test_who_is_in_a_scene_is_told_with_what_they_do(ferry, editor):
    scene = ferry.stave.scene

    @async_to_sync
    async def story():
        async with listening(ferry.owner, f"?production={scene.production_id}") as board:
            async with listening(editor, f"?scene={scene.pk}&view=desk"):
                while not (found := (await board("present"))["who"]):
                    pass
                assert [(one["name"], one["view"], one["scene"]) for one in found] == [("editor", "desk", scene.pk)]
                await in_a_thread(settle, ferry, editor)
                while not (found := (await board("present"))["who"])[0]["doing"]:
                    pass
                assert found[0]["doing"]
            while (await board("present"))["who"]:
                pass

    story()


@EDITED
@pytest.mark.parametrize("how", ["taken out", "signed out", "production deleted"])
def test_who_may_not_see_any_more_is_told_at_once_and_hears_nothing_after(ferry, editor, how):
    scene = ferry.stave.scene
    membership = Membership.objects.get(production=scene.production, person=editor)

    def end():
        if how == "taken out":
            remove_person(ferry.owner, scene.production, membership.pk)
        elif how == "signed out":
            visits.end_others(editor)
        else:
            scene.production.delete()

    @async_to_sync
    async def story():
        async with listening(editor, f"?scene={scene.pk}") as told:
            await in_a_thread(end)
            await told("ended")
            with pytest.raises(AssertionError, match="ended"):
                await told("edit")

    if how == "production deleted":
        views_quiet = views._SECONDS_QUIET
        views._SECONDS_QUIET = 0.3
        try:
            story()
        finally:
            views._SECONDS_QUIET = views_quiet
    else:
        story()


def test_a_page_that_does_not_listen_is_told_to_ask_for_all():
    one = hub.Onlooker(1, "Ada", 1)
    for number in range(hub._MOST_UNREAD + 1):
        one.tell({"kind": "edit", "version": number})
    assert one.told.qsize() == 1
    assert one.told.get_nowait() == hub.AGAIN


def test_a_stranger_may_not_listen_to_a_scene(ferry):
    client = ferry.client(ferry.stranger)
    assert client.get(f"/stream/?scene={ferry.stave.scene_id}").status_code == 404
    assert client.get(f"/stream/?production={ferry.stave.scene.production_id}").status_code == 404


# Notices


def texts(person):
    return [one.text for one in notices_of(person)]


@pytest.fixture
def shown(ferry, editor):
    """The scene, which is the editor's, shown by them."""
    scene = ferry.stave.scene
    set_field(ferry.owner, scene.production, [scene.pk], "who", str(editor.pk))
    rushes.show_for_review(editor, scene)
    return scene


def test_whom_it_concerns_is_told_and_nobody_else(ferry, editor, shown):
    assert texts(editor) == ["A shot is yours now, says owner"]
    assert texts(ferry.owner) == texts(ferry.viewer) == ["editor shows version 1"]
    note = rushes.write(ferry.viewer, shown, rushes.Note(text="Lower the jaw", frame=4))
    assert texts(editor)[0] == "viewer notes on frame 1005: Lower the jaw"
    rushes.write(editor, shown, rushes.Note(text="Like this?", on=note.pk))
    assert texts(ferry.viewer)[0] == "editor answers on frame 1005: Like this?"
    rushes.set_done(editor, shown, note.pk, True)
    assert texts(ferry.viewer)[0] == "editor has done: Lower the jaw"
    rushes.judge(ferry.viewer, shown, 1, "changes")
    assert texts(editor)[0] == "viewer wants changes to version 1"
    assert len(texts(ferry.owner)) == 1
    assert not texts(ferry.stranger)


def test_a_notice_leads_there_is_seen_once_and_counted(ferry, editor, shown):
    rushes.write(ferry.viewer, shown, rushes.Note(text="Lower <b>the</b> jaw", frame=4))
    client = ferry.client(editor)
    page = client.get("/notices/").content.decode()
    assert 'data-unseen="2"' in page
    assert "Lower &lt;b&gt;the&lt;/b&gt; jaw" in page
    first = notices_of(editor).first()
    answer = client.post("/notices/see", {"notice": first.pk})
    assert answer.headers["Location"] == f"/scenes/{shown.pk}/rushes/?frame=4"
    assert unseen(editor) == 1
    assert 'data-unseen="0"' in client.post("/notices/see").content.decode()
    assert ferry.client(ferry.owner).post("/notices/see", {"notice": first.pk}).status_code == 404


def test_who_is_taken_out_forgets_what_the_production_told_them(ferry, editor, shown):
    membership = Membership.objects.get(production=shown.production, person=editor)
    remove_person(ferry.owner, shown.production, membership.pk)
    assert not Notice.objects.filter(person=editor).exists()
    rushes.write(ferry.viewer, shown, rushes.Note(text="Anybody?"))
    assert not texts(editor)


def test_so_many_notices_are_kept(ferry, monkeypatch):
    monkeypatch.setattr("tinfork.web.notices.noticing.MOST_KEPT", 3)
    for number in range(5):
        notify([ferry.owner.pk, None], ferry.stave.scene.production, f"{number} {'x' * 300}", "/")
    assert [text[0] for text in texts(ferry.owner)] == ["4", "3", "2"]
    assert all(len(text) == 200 and text.endswith("…") for text in texts(ferry.owner))
    see(ferry.owner, notices_of(ferry.owner).first().pk)
    assert unseen(ferry.owner) == 2
