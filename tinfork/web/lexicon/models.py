from collections.abc import Iterable

from django.conf import settings
from django.db import models

from tinfork.core.limits import MAX_NAME_CHARACTERS
from tinfork.core.speech.phones import parse_ipa
from tinfork.core.speech.pronounce import Lexicon
from tinfork.core.speech.words import Token
from tinfork.web.productions.models import Production


class Entry(models.Model):
    """How a word is said throughout a production; a person's word is final. language "" is any."""

    production = models.ForeignKey(Production, models.CASCADE, related_name="lexicon")
    word = models.CharField(max_length=MAX_NAME_CHARACTERS)
    language = models.CharField(max_length=20, blank=True)
    ipa = models.CharField(max_length=200)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    changed = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["word", "language"]
        constraints = [models.UniqueConstraint(fields=["production", "word", "language"], name="one_entry_of_a_word")]

    def __str__(self) -> str:
        return self.word


def lexicon_of(production: Production, tokens: Iterable[Token]) -> Lexicon:
    """Return what a production's lexicon says of some words, as the core takes it."""
    words = {word.lower() for token in tokens for word in token.spoken}
    return _said(production.lexicon.filter(word__in=words))


def whole_lexicon(production: Production) -> Lexicon:
    """Return all that a production's lexicon says, as the core takes it."""
    return _said(production.lexicon.all())


def _said(entries: Iterable[Entry]) -> Lexicon:
    return {(entry.word, entry.language): (parse_ipa(entry.ipa),) for entry in entries}
