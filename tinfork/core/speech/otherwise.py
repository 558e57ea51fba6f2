"""What is said otherwise than it is written: a script laid beside what a recogniser heard.

Both are rows of words, and where they part either may be right, or neither: a recogniser mishears. So the sound
decides, in the stretch between two words they agree on: only what fits clearly better than what is written is told.
"""

import itertools
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from difflib import SequenceMatcher

from ..sound.features import STEP_SECONDS, Singles
from ..sound.recording import Recording
from . import model, pronounce, words
from .espeak import check_language
from .hearing import Ear, Heard
from .instead import Excerpt, Instead, SpokenWord, Words, said_instead
from .read import LineToRead, model_variants
from .unscripted import HeardLine

OTHERWISE, LEFT_OUT, PUT_IN, ELSEWHERE, AGAIN = "otherwise", "left out", "put in", "elsewhere", "again"
"""Other words were said; words were not said; words were said that are not written; a line was said at another place
than it is written; a line was said once more."""

_NEIGHBOURS = 3
"""So many words on either side are searched for with what differs: where the recogniser left words out, the nearest lie
where these are said."""

_BESIDE = 3
"""Frames of 10 ms before and after a stretch that are listened to with it."""

_LONGEST = 2_000
"""Frames that are searched at the most: a longer stretch is told as it was heard."""

_FEWEST, _ALIKE = 3, 0.6
"""So many words of a line, and such a share of it, are that line said elsewhere or again."""


@dataclass(frozen=True)
class Difference:
    """Where script and recording part. kind: OTHERWISE, LEFT_OUT, PUT_IN, ELSEWHERE or AGAIN; line: its id; first and
    last: the words of the line it is about, by number, last exclusive, equal where something was put in before it;
    heard: what was heard instead; start and end: where, in seconds."""

    kind: str
    line: int
    first: int
    last: int
    heard: str
    start: float
    end: float


def differences(
    recording: Recording,
    written: Sequence[LineToRead],
    heard: Sequence[HeardLine],
    lexicon: pronounce.Lexicon | None = None,
    sound: Heard | None = None,
) -> list[Difference]:
    """Return where a script and what was heard part, in the order of the script. written: its lines, in the order they
    are spoken; sound: as the searches go by it, where it was listened to already."""
    if sound is None:
        ear = Ear(recording.samples, model.load())
        sound = ear.listen(ear.warps()[0])
    script, said = _script_words(written, lexicon), _heard_words(heard, lexicon)
    matcher = SequenceMatcher(None, [one.key for one in script], [one.key for one in said], autojunk=False)
    found = []
    for tag, i, i_end, j, j_end in matcher.get_opcodes():
        if tag != "equal" and (block := _parting(script, said, range(i, i_end), range(j, j_end), sound.scores)):
            found.append(block)
    return list(_differences_of(found, script))


@dataclass(frozen=True, eq=False)
class _Block:
    """Words that are written, by number, and what was said instead, from when to when."""

    script: Words
    written: range
    heard: Words
    start: float
    end: float

    @property
    def words_written(self) -> Words:
        """What is written."""
        return self.script[self.written.start : self.written.stop]


def _parting(script: Words, said: Words, written: range, heard: range, scores: Singles) -> _Block | None:
    """What was said instead of some words that are written, where others were heard between two that are both; None
    where what is written fits as well. The neighbours are searched for with it."""
    before = said[max(0, heard.start - _NEIGHBOURS) : heard.start]
    after = said[heard.stop : heard.stop + _NEIGHBOURS]
    begin = max(0, round(before[0].start / STEP_SECONDS) - _BESIDE) if len(before) == _NEIGHBOURS else 0
    end = round(after[-1].end / STEP_SECONDS) + _BESIDE if len(after) == _NEIGHBOURS else len(scores)
    stretch = Excerpt(scores[begin:end], begin * STEP_SECONDS, before, after)
    own, other = script[written.start : written.stop], said[heard.start : heard.stop]
    if len(stretch.scores) > _LONGEST:
        instead: Instead | None = Instead(0, len(own), tuple(other))
    else:
        instead = said_instead(stretch, own, other)
    if instead is None:
        return None
    between = (before[-1].end if before else 0.0, after[0].start if after else other[-1].end if other else 0.0)
    start, end_ = (instead.words[0].start, instead.words[-1].end) if instead.words else (between[0], max(between))
    first = written.start
    return _Block(script, range(first + instead.first, first + instead.last), instead.words, start, end_)


def _script_words(lines: Sequence[LineToRead], lexicon: pronounce.Lexicon | None) -> list[SpokenWord]:
    texts = [(line.id, line.text, line.language) for line in lines]
    return _spoken(texts, lexicon)


def _heard_words(lines: Sequence[HeardLine], lexicon: pronounce.Lexicon | None) -> list[SpokenWord]:
    """The words that were heard, where they were read."""
    found = _spoken([(number, one.text, one.language) for number, one in enumerate(lines)], lexicon)
    placed = []
    for number, own in itertools.groupby(found, key=lambda word: word.line):
        read = zip(own, lines[number].line.written, strict=False)
        placed += [replace(one, start=at.start, end=at.end) for one, at in read]
    return placed


def _spoken(texts: Iterable[tuple[int, str, str]], lexicon: pronounce.Lexicon | None) -> list[SpokenWord]:
    acoustic = model.load()
    rows = [
        (line, number, token)
        for line, text, language in texts
        for number, token in enumerate(words.tokens(text, check_language(language)))
    ]
    found = []
    for (line, number, token), spoken in zip(rows, pronounce.pronounce([row[2] for row in rows], lexicon), strict=True):
        if spoken:
            key = "".join(ipa for ipa, _ in spoken.variants[0])
            variants = tuple(model_variants(spoken, acoustic))
            found.append(SpokenWord(line, number, token.text, key, variants, token.language))
    return found


def _differences_of(blocks: Sequence[_Block], script: Words) -> Iterable[Difference]:
    """What the blocks come to, a line at a time."""
    of_line = {line: list(own) for line, own in itertools.groupby(script, key=lambda word: word.line)}
    gone = {line for block in blocks for line in _whole(block, of_line)}
    again: dict[_Block, int] = {}
    for block in blocks:
        line = _line_said(block, of_line)
        if line is not None:
            again[block] = line
    placed = {line for line in again.values() if line in gone}
    for block in blocks:
        text = " ".join(word.text for word in block.heard)
        start, end = block.start, block.end
        if block in again:
            line = again[block]
            kind = ELSEWHERE if line in placed else AGAIN
            yield Difference(kind, line, 0, len(of_line[line]), text, start, end)
        instead = "" if block in again else text
        for line, own in itertools.groupby(block.words_written, key=lambda word: word.line):
            numbers = [word.number for word in own]
            if line not in placed and again.get(block) != line:
                kind = OTHERWISE if instead else LEFT_OUT
                yield Difference(kind, line, numbers[0], numbers[-1] + 1, instead, start, end)
                instead = ""
        if not block.written and block not in again:
            line, number = _beside(block, script)
            yield Difference(PUT_IN, line, number, number, text, start, end)


def _whole(block: _Block, of_line: dict[int, list[SpokenWord]]) -> Iterable[int]:
    """The lines of which a block leaves out nearly all."""
    for line, words_of in itertools.groupby(block.words_written, key=lambda word: word.line):
        if len(list(words_of)) >= _ALIKE * len(of_line[line]):
            yield line


def _line_said(block: _Block, of_line: dict[int, list[SpokenWord]]) -> int | None:
    """Which line's words were heard in a block in which they are not written. In whatever order: of a line that is said
    twice the end of the first time and the beginning of the second are what is not written."""
    heard = Counter(word.key for word in block.heard)
    many = heard.total()
    here = Counter(word.line for word in block.words_written)
    best, most = None, 0.0
    for line, own in of_line.items():
        if len(own) < _FEWEST or many - here[line] < _FEWEST:
            continue
        share = (heard & Counter(word.key for word in own)).total() / max(len(own), many - here[line])
        if share >= _ALIKE and share > most:
            best, most = line, share
    return best


def _beside(block: _Block, script: Words) -> tuple[int, int]:
    """The line, and the number of its word, before which words were put in: with the word before them where they
    follow one."""
    at = block.written.start
    if at:
        return script[at - 1].line, script[at - 1].number + 1
    return (script[0].line, 0) if script else (0, 0)
