"""What people do to a production's lexicon, and where its words are used."""

from dataclasses import dataclass

from django.db import transaction

from tinfork.core.errors import ScriptError
from tinfork.core.formats import lexicon_csv
from tinfork.core.formats.lexicon_csv import LexiconRow
from tinfork.core.script.lines import ScriptLine
from tinfork.core.speech import words
from tinfork.web.productions.models import Production, Scene
from tinfork.web.productions.permissions import Person, check
from tinfork.web.script.languages import language_of
from tinfork.web.script.models import Script

from .models import Entry


@transaction.atomic
def save_entry(person: Person, production: Production, word: str, language: str, ipa: str) -> Entry:
    """Set how a word is said in a language, or in any with ""."""
    check(person, production, "edit")
    row = lexicon_csv.check_row(word, language, ipa)
    _keep(person, production, [row])
    return production.lexicon.get(word=row.word, language=row.language)


def _keep(person: Person, production: Production, rows: list[LexiconRow]) -> None:
    """Of rows for the same word the last is kept."""
    last = {(row.word, row.language): row for row in rows}.values()
    Entry.objects.bulk_create(
        [Entry(production=production, word=r.word, language=r.language, ipa=r.ipa, person_id=person.pk) for r in last],
        update_conflicts=True,
        unique_fields=["production", "word", "language"],
        update_fields=["ipa", "person"],
    )


@transaction.atomic
def delete_entry(person: Person, production: Production, entry: int) -> None:
    """Take an entry away; its word is said as the dictionary has it again."""
    check(person, production, "edit")
    if not production.lexicon.filter(pk=entry).delete()[0]:
        raise ScriptError("This entry is gone; reload the page.")


@transaction.atomic
def import_csv(person: Person, production: Production, text: str) -> tuple[int, list[str]]:
    """Take the good rows of a CSV; how many, and a sentence with the line number for each bad one."""
    check(person, production, "edit")
    rows, problems = lexicon_csv.parse(text)
    _keep(person, production, rows)
    return len(rows), problems


def export_csv(production: Production) -> str:
    """The lexicon as CSV."""
    return lexicon_csv.write(LexiconRow(e.word, e.language, e.ipa) for e in production.lexicon.all())


@dataclass(frozen=True)
class Use:
    """A line that has an entry's word. number: which line of its scene it is, from 1."""

    scene: Scene
    line: ScriptLine
    number: int


Uses = dict[tuple[str, str], list[Use]]


def uses(production: Production) -> Uses:
    """For each (word in lower case, language), the lines it is spoken in, scene by scene."""
    cast = list(production.characters.all())
    found: Uses = {}
    for script in Script.objects.filter(scene__production=production, scene__removed=None).select_related(
        "scene__production"
    ):
        for number, line in enumerate(script.value.lines, 1):
            language = language_of(script.scene, line, cast)
            spoken = {(w.lower(), t.language) for t in words.tokens(line.text, language) for w in t.spoken}
            for key in spoken:
                found.setdefault(key, []).append(Use(script.scene, line, number))
    return found


def uses_of(entry_word: str, language: str, known: Uses) -> list[Use]:
    """The lines one entry decides."""
    return [use for (word, code), own in known.items() if word == entry_word and language in ("", code) for use in own]
