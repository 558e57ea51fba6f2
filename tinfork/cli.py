"""The engine on the command line, without a database."""

import argparse
import json
import os
import sys
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import NoReturn

from .core.errors import TinForkError
from .core.exposure import curves, plan
from .core.exposure.track import Settings
from .core.formats import chart_folder, reading_json
from .core.mouths.chart import built_in
from .core.sound import recording
from .core.speech import read, unscripted
from .core.timebase import parse_rate

REFUSED = 2


def main(arguments: list[str] | None = None) -> int:
    """Run a command; returns the exit status. Bad input is one sentence on standard error and status 2."""
    try:
        options = _parser().parse_args(arguments)
        run: Callable[[argparse.Namespace], int] = options.run
        return run(options)
    except TinForkError as problem:
        return _refuse(str(problem))
    except OSError as problem:
        return _refuse(f"{problem.filename or 'The file'}: {problem.strerror or problem}.")


class _Parser(argparse.ArgumentParser):
    """Says what is wrong in one sentence, as everything here does."""

    def error(self, message: str) -> NoReturn:
        raise TinForkError(f"{message[:1].upper()}{message[1:].rstrip('.')}; see {self.prog} --help.")


@contextmanager
def _libraries_silent() -> Iterator[None]:
    """What a library writes to descriptor 2 by itself is not for people; what is wrong is told in our words."""
    sys.stderr.flush()
    kept, nowhere = os.dup(2), os.open(os.devnull, os.O_WRONLY)
    os.dup2(nowhere, 2)
    try:
        yield
    finally:
        os.dup2(kept, 2)
        os.close(kept)
        os.close(nowhere)


def _parser() -> argparse.ArgumentParser:
    parser = _Parser(prog="tinfork", description="Reads recorded dialogue and fits mouths to it.")
    commands = parser.add_subparsers(required=True, metavar="COMMAND")
    read_command = commands.add_parser("read", help="read a sound and plan its mouths, as JSON")
    read_command.add_argument("sound", metavar="SOUND", type=Path, help="a WAV, FLAC, OGG or MP3 file")
    read_command.add_argument("--text", metavar="FILE", type=Path, help="the words, one line a phrase, UTF-8")
    read_command.add_argument("--language", default="en", help="en, es, fr, de, sv … (default en)")
    read_command.add_argument("--fps", default="24", help="frames per second, such as 24 or 23.976 (default 24)")
    read_command.add_argument("--hold", type=int, default=2, help="least frames a mouth is shown (default 2)")
    read_command.add_argument("--lead", type=int, default=1, help="frames a mouth comes early, 0 to 3 (default 1)")
    read_command.add_argument("--detail", type=float, default=0.5, help="0 calm to 1 crisp (default 0.5)")
    read_command.add_argument("--chart", metavar="FOLDER|ZIP", type=Path, help="the drawings to plan with")
    read_command.add_argument("--out", metavar="FILE", type=Path, help="write here instead of standard output")
    read_command.set_defaults(run=_read)
    chart_command = commands.add_parser("chart", help="measure the drawings of a mouth chart, as JSON")
    chart_command.add_argument("chart", metavar="FOLDER|ZIP", type=Path, help="PNG, WebP or SVG pictures, chart.json")
    chart_command.add_argument("--out", metavar="FILE", type=Path, help="write here instead of standard output")
    chart_command.set_defaults(run=_chart)
    return parser


def _chart(options: argparse.Namespace) -> int:
    found = chart_folder.load(options.chart)
    _notes(found.notes)
    return _written(json.dumps(chart_folder.document(found), ensure_ascii=False, indent=1), options.out)


def _read(options: argparse.Namespace) -> int:
    rate = parse_rate(options.fps)
    settings = Settings(options.hold, options.lead, options.detail)
    chart, notes = built_in(), list[str]()
    if options.chart:
        charted = chart_folder.load(options.chart)
        chart, notes = charted.in_mood(), list(charted.notes)
    script = _text_of(options.text) if options.text else None
    with _libraries_silent():
        sound = recording.load(options.sound)
    if script is None:
        reading = unscripted.read_unscripted(sound, options.language)[0]
    else:
        reading = read.read(sound, script, options.language)
    exposures = plan.plan(curves.curves(reading.sounds(), reading.seconds, rate), chart, settings)
    _notes([*notes, *reading.notes])
    document = reading_json.document(reading, exposures, chart, rate)
    return _written(json.dumps(document, ensure_ascii=False, indent=1), options.out)


def _notes(notes: Iterable[str]) -> None:
    for note in notes:
        print(f"Note: {note}", file=sys.stderr)


def _written(text: str, out: Path | None) -> int:
    if out:
        out.write_text(text + "\n", encoding="utf-8")
    else:
        sys.stdout.write(text + "\n")
    return 0


def _text_of(path: Path) -> str:
    try:
        return path.read_text(encoding="utf-8-sig")
    except UnicodeDecodeError:
        raise TinForkError(f"{path.name} is not UTF-8 text; save it as plain text in UTF-8.") from None


def _refuse(sentence: str) -> int:
    print(sentence, file=sys.stderr)
    return REFUSED


if __name__ == "__main__":
    sys.exit(main())
