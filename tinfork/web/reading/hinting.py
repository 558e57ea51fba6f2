"""Which words may be said in a production that no recogniser knows: its names."""

import itertools
from collections.abc import Iterable, Sequence

from tinfork.core.speech import words
from tinfork.core.speech.pronounce import in_dictionary
from tinfork.web.lexicon.models import Entry
from tinfork.web.productions.models import Character, Production
from tinfork.web.script.models import Script

_MOST_HINTS = 40
_MOST_SCRIPTS = 20


def hints_for(production: Production, cast: Iterable[Character]) -> Sequence[str]:
    """Return the names of the cast, the words of the lexicon, and what is written with a capital in the production's
    scripts and is in no dictionary; the likeliest first."""
    lexicon = Entry.objects.filter(production=production).order_by("-pk").values_list("word", flat=True)
    scripts = Script.objects.filter(scene__production=production).order_by("-pk")[:_MOST_SCRIPTS]
    lines = (line for script in scripts for line in script.value.lines if not line.heard)
    written = (token.text for line in lines for token in words.tokens(line.text, production.language))
    names = (word for word in written if word[:1].isupper() and word[1:].islower() and not in_dictionary(word))
    every = itertools.chain((one.name for one in cast), lexicon[:_MOST_HINTS], names)
    return tuple(itertools.islice(dict.fromkeys(every), _MOST_HINTS))
