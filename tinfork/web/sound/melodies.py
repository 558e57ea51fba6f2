"""The melody of sounds, measured once and kept."""

from collections.abc import Iterable
from typing import Any

import numpy as np
from django.db import IntegrityError, transaction

from tinfork.core.sound import recording
from tinfork.core.sound.arrangement import Clip
from tinfork.core.sound.melody import STEP, Melody, melody_of
from tinfork.core.sound.recording import READ_RATE
from tinfork.web.productions.models import Scene

from .listening import open_sounds
from .models import SoundFile, SoundMelody


def melody_of_channel(sound: SoundFile, channel: int) -> Melody:
    """Return the melody of a channel of a sound."""
    known = SoundMelody.objects.filter(sound=sound, channel=channel).first()
    if known is None:
        with open_sounds() as path_of:
            found = melody_of(recording.load(path_of(sound, channel)).samples, READ_RATE)
        try:
            with transaction.atomic():
                known = SoundMelody.objects.create(sound=sound, channel=channel, packed=found.packed())
        except IntegrityError:  # Somebody else asked for it at the same moment.
            known = SoundMelody.objects.get(sound=sound, channel=channel)
    return Melody.unpacked(bytes(known.packed))


def melodies_of(clips: Iterable[Clip]) -> dict[int, Melody]:
    """Return the melodies of the sounds of clips, by their source_id."""
    own = {clip.source_id: (clip.sound, clip.channel) for clip in clips}
    sounds = SoundFile.objects.in_bulk({sound for sound, _ in own.values()})
    measured = {key: melody_of_channel(sounds[key[0]], key[1]) for key in set(own.values())}
    return {source: measured[key] for source, key in own.items()}


def melody_document(scene: Scene, clips: Iterable[Clip], frames: range) -> dict[str, Any]:
    """Return what is drawn of the melody of clips on some frames of a scene: for each frame semitones over 50 Hz, 0
    where no voice is, and loudness from 0 to 100."""
    fps = float(scene.fps)
    own = list(clips)
    known = melodies_of(own)
    pitch, loud = np.zeros(len(frames), int), np.zeros(len(frames), int)
    for clip in own:
        melody = known[clip.source_id]
        for frame in range(max(clip.start, frames.start), min(clip.end, frames.stop)):
            at = (frame - clip.start + clip.offset) / fps
            here = melody.between(at, max(at + STEP, at + 1 / fps))
            voiced = here.pitch[here.pitch > 0]
            if len(voiced):
                pitch[frame - frames.start] = max(1, round(12 * np.log2(float(np.median(voiced)) / 50)))
            if len(here.loudness):
                level = max(0, round(100 * (1 + float(here.loudness.max()) / 60)))
                loud[frame - frames.start] = max(loud[frame - frames.start], level)
    return {"first": frames.start, "pitch": pitch.tolist(), "loudness": loud.tolist()}
