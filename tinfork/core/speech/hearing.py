"""Sound as it is heard by those who read it: what is not the voice taken out, and the voice moved to where the usual
one lies."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..sound.bed import without_bed
from ..sound.echo import without_echo
from ..sound.features import Singles, Warp, cepstra_of, spectra, with_differences
from ..sound.rounded import straightened
from .adapt import adapted
from .align import Span
from .model import AcousticModel
from .quiet import drawn_to_silence, stands_out
from .refine import bands
from .steady import counted_once, held
from .throat import warps_of

Progress = Callable[[float], None]


@dataclass(frozen=True)
class Heard:
    """A sound as the model hears it. scores: (frames, model states); energy: as refine.bands has it; warp: how much
    higher the formants of the voice lie than usual; audible: whether anything in the sound stands out, as speech
    does."""

    scores: Singles
    energy: Singles
    warp: Warp
    audible: bool
    _features: Singles
    _held: NDArray[np.bool_]
    _acoustic: AcousticModel

    def adapted(self, spans: Sequence[Span], progress: Progress = lambda share: None) -> "Heard":
        """Return the same, heard as somebody hears it who has read some of it already."""
        features = adapted(self._features, self.scores, spans, self._acoustic)
        if features is self._features:
            return self
        scores = _scored(features, self._held, self.energy, self._acoustic, progress)
        return replace(self, scores=scores, _features=features)


class Ear:
    """A sound, 16 kHz mono, that can be heard as this or that voice's."""

    def __init__(self, samples: Singles, acoustic: AcousticModel) -> None:
        self._samples, self._acoustic = without_echo(without_bed(straightened(samples))), acoustic
        self._power = spectra(self._samples)

    def warps(self, there: NDArray[np.bool_] | None = None) -> tuple[float, ...]:
        """Return how much higher the formants of the voice lie than usual, and what else may be; there: the frames on
        which it is heard."""
        return warps_of(self._power, self._acoustic, there)

    def listen(self, warp: Warp, end: int | None = None, progress: Progress = lambda share: None) -> Heard:
        """Return the sound as the search goes by it, its voice's formants so much higher than usual; end: up to which
        of its frames."""
        static = cepstra_of(self._power, warp)
        still = held(static, self._acoustic.spread)
        features = self._acoustic.fitted(with_differences(static, still), still)
        energy = bands(self._samples, warp)
        features, still = features[:end], still[:end]
        scores = _scored(features, still, energy, self._acoustic, progress)
        return Heard(scores, energy, warp, stands_out(energy), features, still, self._acoustic)


def _scored(
    features: Singles, still: NDArray[np.bool_], energy: Singles, acoustic: AcousticModel, progress: Progress
) -> Singles:
    scores = counted_once(acoustic.scores_of(features, progress), still)
    return drawn_to_silence(scores, energy, acoustic) if stands_out(energy) else scores
