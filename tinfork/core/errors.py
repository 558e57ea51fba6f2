"""The one exception family of the engine. Its message is a sentence a user can act on."""


class TinForkError(Exception):
    """Something the user gave cannot be used; str() says what is wrong and what to do."""


class SoundError(TinForkError):
    """A sound file that cannot be read, or is outside the stated limits."""


class ScriptError(TinForkError):
    """Words that cannot be spoken, or a language that is not known."""


class RateError(TinForkError):
    """A frame rate that cannot be read."""


class TrackError(TinForkError):
    """A pin or exposure that does not fit its track."""


class ReadingError(TinForkError):
    """A correction that does not fit the reading."""


class DocumentError(TinForkError):
    """Something that was kept is not what it should be."""


class ChartError(TinForkError):
    """A mouth chart or one of its drawings cannot be used."""


class HandoverError(TinForkError):
    """Something that cannot be handed over as it was asked for."""


class BundleError(TinForkError):
    """A bundle of a production that cannot be brought in."""


class ActingError(TinForkError):
    """Something that does not fit a part of a face, or its lane."""
