"""The voices of characters as they were heard: kept from what was read of them, and used for what is read next."""

from collections.abc import Iterable, Mapping

from tinfork.core.speech.reading import Reading
from tinfork.web.productions.models import Character

_ENOUGH_SECONDS, _SPOKEN_SHARE = 20.0, 0.2
_SURE = 0.7


def known_voices(cast: Iterable[Character], seconds: float) -> dict[int, float]:
    """Return by characters, how many times as high as usual their formants lie: of those of whom enough was heard for
    nothing to be learned of them from a sound so long, of which a part only is theirs."""
    enough = min(_SPOKEN_SHARE * seconds, _ENOUGH_SECONDS)
    return {one.pk: one.formants for one in cast if one.formants is not None and one.formants_seconds >= enough}


def keep_voices(cast: Iterable[Character], speakers: Mapping[int, int], reading: Reading) -> None:
    """Keep what a reading says of the voices of those who speak in it, where more was heard of them than before.
    speakers: by the lines' numbers who says them."""
    for character in cast:
        own = [line for line in reading.lines if speakers.get(line.id) == character.pk]
        words = [word for line in own for word in line.words if word.said]
        seconds = sum(word.end - word.start for word in words)
        found = reading.warps.get(character.pk)
        if found is None or seconds <= character.formants_seconds:
            continue
        if sum(word.confidence for word in words) >= _SURE * len(words):
            less = Character.objects.filter(pk=character.pk, formants_seconds__lt=seconds)
            less.update(formants=found, formants_seconds=seconds)
