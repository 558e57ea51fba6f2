"""Who looks on, and what each is told: one connection to the database hears what is announced, and passes it on to all
open pages. It lives in one process; what it knows is whoever is connected now."""

import asyncio
import json
import logging
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass, field
from typing import Any, TypeAlias

import psycopg
from django.db import connection as django_connection
from psycopg.conninfo import make_conninfo

from tinfork.web.announcing import CHANNEL

_LOG = logging.getLogger(__name__)
_SECONDS_AGAIN = 2.0
_SECONDS_TO_SETTLE = 0.8
"""Whoever goes from page to page is not said to leave in between."""

_MOST_UNREAD = 200

Told: TypeAlias = dict[str, Any]
AGAIN: Told = {"kind": "again"}
"""Something may have been missed: whatever is shown is to be asked for anew."""


@dataclass(eq=False)
class Onlooker:
    """An open page. production, scene: what it shows, 0 for none; view: which view it is; name: of whom. doing: what
    they did last in the scene."""

    person: int
    name: str
    production: int = 0
    scene: int = 0
    view: str = ""
    doing: str = ""
    told: "asyncio.Queue[Told]" = field(default_factory=lambda: asyncio.Queue(_MOST_UNREAD))

    def concerned(self, told: Told) -> bool:
        """Return whether it is to be told something."""
        if "person" in told:
            return bool(told["person"] == self.person)
        if "scene" in told and self.scene:
            return bool(told["scene"] == self.scene)
        return bool(self.production) and told.get("production") == self.production

    def tell(self, told: Told) -> None:
        """Put something into what it has yet to hear; where that is too much already, all is to be asked for anew."""
        if self.told.full():
            while not self.told.empty():
                self.told.get_nowait()
            told = AGAIN
        self.told.put_nowait(told)


class Hub:
    """Everybody who looks on."""

    def __init__(self) -> None:
        self._all: set[Onlooker] = set()
        self._tasks: set[asyncio.Task[None]] = set()
        self._listening = False
        self._hears = asyncio.Event()
        self._unsettled: set[int] = set()

    async def join(self, one: Onlooker) -> None:
        """Let a page look on from now on: nothing that is announced after this is missed, unless the database is
        away."""
        self._all.add(one)
        if not self._listening:
            self._listening = True
            self._begin(self._listen())
        self._moved(one.production)
        with suppress(TimeoutError):
            await asyncio.wait_for(self._hears.wait(), _SECONDS_AGAIN)

    def leave(self, one: Onlooker) -> None:
        """A page looks on no longer."""
        self._all.discard(one)
        self._moved(one.production)

    def _begin(self, work: Any) -> None:
        task = asyncio.ensure_future(work)
        self._tasks.add(task)
        task.add_done_callback(self._tasks.discard)

    def hear(self, told: Told) -> None:
        """Pass on what was announced."""
        for one in self._all:
            if one.concerned(told):
                one.tell(told)
        if told["kind"] == "edit":
            self._doing(told)

    def _doing(self, told: Told) -> None:
        own = [one for one in self._all if one.scene == told["scene"] and one.person == told.get("by")]
        for one in own:
            one.doing = str(told.get("verb", ""))
        if own:
            self._moved(own[0].production)

    def _moved(self, production: int) -> None:
        """Somebody came, went, or does something else: those of the production are told who is there, a little
        later."""
        if production and production not in self._unsettled:
            self._unsettled.add(production)
            self._begin(self._settle(production))

    async def _settle(self, production: int) -> None:
        await asyncio.sleep(_SECONDS_TO_SETTLE)
        self._unsettled.discard(production)
        told = {"kind": "present", "who": list(self.present(production))}
        for one in self._all:
            if one.production == production:
                one.tell(told)

    def present(self, production: int) -> Iterator[Told]:
        """Yield who is in which scene of a production, each once."""
        found = {(one.person, one.scene): one for one in self._all if one.production == production and one.scene}
        for one in sorted(found.values(), key=lambda one: (one.scene, one.name)):
            yield {
                "person": one.person,
                "name": one.name,
                "scene": one.scene,
                "view": one.view,
                "doing": one.doing,
            }

    async def _listen(self) -> None:
        """Hear what is announced, for ever; where the database is away, again when it is back."""
        while True:
            try:
                await self._hear_all()
            except psycopg.Error as amiss:
                _LOG.warning("nothing is heard of changes for now: %s", type(amiss).__name__)
            await asyncio.sleep(_SECONDS_AGAIN)

    async def _hear_all(self) -> None:
        async with await psycopg.AsyncConnection.connect(_database(), autocommit=True) as connection:
            await connection.execute(f"LISTEN {CHANNEL}")
            if self._hears.is_set():
                for one in self._all:
                    one.tell(AGAIN)
            self._hears.set()
            async for heard in connection.notifies():
                self.hear(json.loads(heard.payload))


def _database() -> str:
    known = django_connection.get_connection_params()
    given = {name: known[name] for name in ("host", "port", "user", "password", "dbname") if name in known}
    return make_conninfo("", **given, keepalives_idle=30)


HUB = Hub()
