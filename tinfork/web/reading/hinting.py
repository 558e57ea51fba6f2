"""How sound is listened to in a production: in which languages, and for which words that no recogniser knows."""

import itertools
from collections.abc import Collection, Iterable, Sequence
from typing import Any

from tinfork.core.speech import words
from tinfork.core.speech.pronounce import in_dictionary
from tinfork.core.speech.unscripted import Listening
from tinfork.web.lexicon.models import whole_lexicon
from tinfork.web.productions.models import Character, Production
from tinfork.web.script.models import Script

_MOST_HINTS = 40
_MOST_SCRIPTS = 20


def listening_for(
    production: Production,
    cast: Sequence[Character],
    language: str,
    also: Collection[str] = (),
    names: Iterable[str] = (),
    **more: Any,
) -> Listening:
    """Return how a sound of a production is listened to. language: the usual one; also: others that may be spoken;
    names: what may be said besides what the production knows; more: what else Listening has."""
    hints = dict.fromkeys((*names, *hints_of(production, cast)))
    return Listening(language, tuple(also), tuple(hints), whole_lexicon(production), **more)


def hints_of(production: Production, cast: Iterable[Character]) -> Sequence[str]:
    """Return the names of the cast, the words of the lexicon, and what is written with a capital in the production's
    scripts and is in no dictionary; the likeliest first."""
    lexicon = production.lexicon.order_by("-pk").values_list("word", flat=True)
    scripts = Script.objects.filter(scene__production=production).order_by("-pk")[:_MOST_SCRIPTS]
    lines = (line for script in scripts for line in script.value.lines if not line.heard)
    written = (token.text for line in lines for token in words.tokens(line.text, production.language))
    names = (word for word in written if word[:1].isupper() and word[1:].islower() and not in_dictionary(word))
    every = itertools.chain((one.name for one in cast), lexicon[:_MOST_HINTS], names)
    return tuple(itertools.islice(dict.fromkeys(every), _MOST_HINTS))
