"""Makes the stock phrase with a free synthesiser and reads it: python -m tinfork.web.tracks.make_stock"""

import json
import subprocess
import tempfile
from pathlib import Path

import soundfile

from tinfork.core.plain import plain
from tinfork.core.sound.recording import READ_RATE, Recording, resampled
from tinfork.core.speech.read import read

from .stock import READING, SOUND, TEXT

_VOICE = "slt"


def make() -> None:
    """Speak the phrase, read it, and write both."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "phrase.wav"
        subprocess.run(["flite", "-voice", _VOICE, "-t", TEXT, "-o", str(path)], check=True)
        samples, rate = soundfile.read(path, dtype="float32")
    soundfile.write(SOUND, samples, rate, subtype="PCM_16")
    heard = Recording(resampled([samples], rate, READ_RATE), len(samples) / rate, rate)
    (line,) = read(heard, TEXT).lines
    READING.write_text(json.dumps({"seconds": heard.seconds, "line": plain(line)}, ensure_ascii=False, indent=1))


if __name__ == "__main__":
    make()
