"""One search over all that a person may see: productions, shots, lines, notes and people, by words that begin as what
is typed (PostgreSQL's full text, without any language's endings: names and all languages are found alike)."""

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from django.contrib.postgres.search import SearchQuery, SearchVector, SearchVectorField
from django.db.models import F, Func, Q, QuerySet
from django.urls import reverse

from tinfork.web.accounts.names import name_of
from tinfork.web.productions.models import Membership, Production, Scene
from tinfork.web.productions.permissions import Person, number_of
from tinfork.web.rushes.models import Comment
from tinfork.web.script.models import Script

MOST_WORDS, MOST_CHARACTERS = 8, 200
MOST_EACH = 12
"""So many are shown of each kind."""

_MOST_SCRIPTS = 40
_SIMPLE = "simple"


@dataclass(frozen=True)
class Found:
    """Something that was found. text: it in words; place: where that is, in words."""

    text: str
    place: str
    address: str


def words_in(text: str) -> list[str]:
    """Return the words of what was typed, in small letters."""
    return re.findall(r"\w+", text[:MOST_CHARACTERS].lower())[:MOST_WORDS]


def find(person: Person, text: str) -> list[tuple[str, list[Found]]]:
    """Return what is found of each kind there is something of, with the kind's name; nothing where nothing was
    typed."""
    words = words_in(text)
    if not words:
        return []
    query = SearchQuery(" & ".join(f"'{word}':*" for word in words), config=_SIMPLE, search_type="raw")
    own = Production.objects.filter(people=number_of(person))
    kinds: dict[str, Callable[[], Iterator[Found]]] = {
        "Productions": lambda: _productions(own, query),
        "Shots": lambda: _shots(own, query),
        "Lines": lambda: _lines(own, query, words),
        "Notes": lambda: _notes(own, query),
        "People": lambda: _people(own, words),
    }
    found = ((kind, list(look())) for kind, look in kinds.items())
    return [(kind, things) for kind, things in found if things]


def _productions(own: "QuerySet[Production]", query: SearchQuery) -> Iterator[Found]:
    named = own.annotate(words=SearchVector("name", config=_SIMPLE)).filter(words=query)
    for one in named[:MOST_EACH]:
        yield Found(one.name, "", one.get_absolute_url())


def _shots(own: "QuerySet[Production]", query: SearchQuery) -> Iterator[Found]:
    there = Scene.objects.filter(production__in=own).select_related("production", "shot")
    named = there.annotate(words=SearchVector("name", "shot__number", config=_SIMPLE)).filter(words=query)
    for one in named[:MOST_EACH]:
        shot = getattr(one, "shot", None)
        number = f"{shot.number} · " if shot and shot.number else ""
        yield Found(f"{number}{one.name}", one.production.name, reverse("desk", args=[one.pk]))


def _lines(own: "QuerySet[Production]", query: SearchQuery, words: list[str]) -> Iterator[Found]:
    vector = Func(
        F("body"), template="to_tsvector('simple'::regconfig, %(expressions)s)", output_field=SearchVectorField()
    )
    there = Script.objects.filter(scene__production__in=own, scene__removed=None).select_related("scene__production")
    count = 0
    for script in there.annotate(words=vector).filter(words=query)[:_MOST_SCRIPTS]:
        scene = script.scene
        for line in script.value.lines:
            if count < MOST_EACH and _begins(words_in(line.text), words):
                count += 1
                address = f"{reverse('script', args=[scene.pk])}#line-{line.id}"
                yield Found(line.text, f"{scene.production.name} · {scene.name}", address)


def _begins(own: list[str], words: list[str]) -> bool:
    """Whether each word that is looked for begins one of some."""
    return all(any(one.startswith(word) for one in own) for word in words)


def _notes(own: "QuerySet[Production]", query: SearchQuery) -> Iterator[Found]:
    there = Comment.objects.filter(scene__production__in=own, scene__removed=None).select_related("scene__production")
    for one in there.annotate(words=SearchVector("text", "name", config=_SIMPLE)).filter(words=query)[:MOST_EACH]:
        place = f"{one.who}, frame {one.frame + one.scene.start_frame} · {one.scene.name}"
        yield Found(one.text, place, f"{reverse('rushes', args=[one.scene_id])}?frame={one.frame}")


def _people(own: "QuerySet[Production]", words: list[str]) -> Iterator[Found]:
    wanted = Q()
    for word in words:
        any_name = Q()
        for field in ("person__first_name", "person__last_name", "person__username"):
            any_name |= Q(**{f"{field}__istartswith": word}) | Q(**{f"{field}__icontains": f" {word}"})
        wanted &= any_name
    there = Membership.objects.filter(wanted, production__in=own).select_related("person", "production")
    for one in there[:MOST_EACH]:
        yield Found(name_of(one.person), f"{one.role} of {one.production}", reverse("people", args=[one.production_id]))
