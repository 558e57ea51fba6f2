"""The engine on the command line, without a database."""

import argparse
import json
import os
import re
import shutil
import sys
import tempfile
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from dataclasses import replace
from fractions import Fraction
from pathlib import Path
from typing import NoReturn

from .core.errors import TinForkError
from .core.exposure import curves, plan
from .core.exposure.pins import AnchoredPin
from .core.exposure.track import Pin, Settings
from .core.following import carrying
from .core.following.following import follow, read_plain
from .core.following.ways import OtherRate, OtherSounds
from .core.formats import chart_folder, reading_json, registry, timing_in
from .core.formats.options import Field, Options, fields_of, taken
from .core.mouths.builds import FaceStyle
from .core.mouths.chart import Chart, built_in
from .core.mouths.draw import mouth
from .core.mouths.face import built_in_face
from .core.shot import stage
from .core.shot.shot import Role, Shot
from .core.sound import recording
from .core.sound.recording import READ_RATE
from .core.sound.survey import survey
from .core.speech import read, unscripted
from .core.speech.espeak import check_language
from .core.speech.reading import Reading
from .core.timebase import frame_time, parse_rate

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
    plan_command = commands.add_parser("plan", help="plan the mouths of a reading, as JSON")
    plan_command.add_argument("reading", metavar="READING.json", type=Path, help="what tinfork read printed")
    _planning(plan_command)
    plan_command.add_argument("--out", metavar="FILE", type=Path, help="write here instead of standard output")
    plan_command.set_defaults(run=_plan)
    follow_command = commands.add_parser("follow", help="a reading as it lies in another version of its sound, as JSON")
    follow_command.add_argument("reading", metavar="READING.json", type=Path, help="what tinfork read or plan printed")
    follow_command.add_argument("old", metavar="OLD-SOUND", type=Path, help="the sound that was read")
    follow_command.add_argument("new", metavar="NEW-SOUND", type=Path, help="its new cut, or another take")
    follow_command.add_argument("--language", default="en", help="en, es, fr, de, sv … (default en)")
    _planning(follow_command)
    follow_command.add_argument("--out", metavar="FILE", type=Path, help="write here instead of standard output")
    follow_command.set_defaults(run=_follow)
    render_command = commands.add_parser("render", help="make a file of a reading and its sound")
    render_command.add_argument("reading", metavar="READING.json", type=Path, help="what tinfork read or plan printed")
    render_command.add_argument("sound", metavar="SOUND", type=Path, help="the sound that was read")
    _making(render_command)
    _planning(render_command)
    render_command.set_defaults(run=_render)
    convert_command = commands.add_parser("convert", help="make a file of the exposures of another program")
    convert_command.add_argument("exposures", metavar="FILE", type=Path, help="OpenTimelineIO, CSV or JSON")
    convert_command.add_argument("--from", dest="rate", default="24", help="its frames per second, where it has none")
    convert_command.add_argument("--fps", default="", help="frames per second of what is made (default its own)")
    convert_command.add_argument("--chart", metavar="FOLDER|ZIP", type=Path, help="the drawings its names stand for")
    convert_command.add_argument(
        "--match",
        metavar="NAME=DRAWING",
        action="append",
        default=[],
        help="what a name stands for; may come often",
    )
    convert_command.add_argument("--sound", metavar="SOUND", type=Path, help="the sound that goes with it")
    _making(convert_command)
    convert_command.set_defaults(run=_convert)
    return parser


def _making(command: argparse.ArgumentParser) -> None:
    command.add_argument("--as", dest="kind", required=True, metavar="FORMAT", help=", ".join(registry.FORMATS))
    command.add_argument("--size", default="600x720", help="width x height in pixels, even (default 600x720)")
    command.add_argument("--background", default="", help="a colour such as #f4f1ea (default none)")
    command.add_argument("--mouth", action="store_true", help="mouths alone instead of the face")
    command.add_argument("--name", default="", help="the character's name (default the file's)")
    command.add_argument("--start", type=int, default=0, help="number of the first frame (default 0)")
    for name, (field, kinds) in _options().items():
        kind = int if field.kind == "number" else str
        about = f"{field.title.lower()}: {field.about} ({', '.join(kinds)}; default {field.default})"
        command.add_argument(f"--{name}", type=kind, help=about)
    command.add_argument("--out", metavar="FILE", type=Path, required=True, help="write here")


def _options() -> dict[str, tuple[Field, list[str]]]:
    """The options that formats have, by their names, with the formats that have them."""
    found: dict[str, tuple[Field, list[str]]] = {}
    for kind, own in registry.FORMATS.items():
        for field in fields_of(own.options):
            found.setdefault(field.name, (field, []))[1].append(kind)
    return found


def _asked(options: argparse.Namespace) -> Options:
    """What was asked of the format. TinForkError for an option that it does not have."""
    given = {name: value for name in _options() if (value := getattr(options, name)) is not None}
    known = registry.FORMATS[options.kind].options if options.kind in registry.FORMATS else Options
    foreign = given.keys() - {field.name for field in fields_of(known)}
    if foreign:
        raise TinForkError(f"“{options.kind}” has no --{min(foreign)}; leave it out.")
    return taken(known, given)


def _planning(command: argparse.ArgumentParser) -> None:
    command.add_argument("--chart", metavar="FOLDER|ZIP", type=Path, help="the drawings to plan with")
    command.add_argument("--hold", type=int, default=2, help="least frames a mouth is shown (default 2)")
    command.add_argument("--lead", type=int, default=1, help="frames a mouth comes early, 0 to 3 (default 1)")
    command.add_argument("--detail", type=float, default=0.5, help="0 calm to 1 crisp (default 0.5)")
    command.add_argument("--fps", default="", help="frames per second (default the reading's)")


def _role(options: argparse.Namespace, name: str = "") -> tuple[Role, Fraction]:
    """A reading with its mouths and drawings, and its frame rate."""
    reading, rate = reading_json.parse(_text_of(options.reading))
    rate = parse_rate(options.fps) if options.fps else rate
    chart, drawn = _drawings(options.chart)
    settings = Settings(options.hold, options.lead, options.detail)
    exposures = plan.plan(curves.curves(reading.sounds(), reading.seconds, rate), chart, settings)
    return Role(name, tuple(exposures), chart, drawn, reading, built_in_face(FaceStyle())), rate


def _drawings(path: Path | None) -> tuple[Chart, dict[str, str]]:
    """A chart, ours where none is given, and its drawings as SVG."""
    if path:
        found = chart_folder.load(path)
        _notes(found.notes)
        return found.in_mood(), chart_folder.drawn(found)
    chart = built_in()
    return chart, {d.name: mouth(d.place, "m") for d in chart.drawings}


def _plan(options: argparse.Namespace) -> int:
    role, rate = _role(options)
    document = reading_json.document(role.reading, role.exposures, role.chart, rate)
    return _written(json.dumps(document, ensure_ascii=False, indent=1), options.out)


def _follow(options: argparse.Namespace) -> int:
    text = _text_of(options.reading)
    reading, rate = reading_json.parse(text)
    pins = [AnchoredPin(pin.frame, pin.frames, pin.drawing, 1) for pin in reading_json.pins_in(text)]
    with _libraries_silent():
        old, new = recording.load(options.old), recording.load(options.new)
    found = follow(old, new, reading.lines, read_plain(check_language(options.language)))
    fps = parse_rate(options.fps) if options.fps else rate
    carried = carrying.pins(OtherSounds(rate, {1: found.legs(float(rate), 2)}), pins)
    left = {id(pin) for pin in carried.left}
    here = [now for pin, now in zip(pins, carried.things, strict=True) if id(pin) not in left]
    there = carrying.pins(OtherRate(rate, fps), here).things
    chart, _ = _drawings(options.chart)
    after = Reading(new.seconds, new.rate, "", found.lines)
    shape = curves.curves(after.sounds(), after.seconds, fps)
    within = [Pin(pin.frame, pin.frames, pin.drawing) for pin in there if pin.frame + pin.frames <= len(shape.frames)]
    exposures = plan.plan(shape, chart, Settings(options.hold, options.lead, options.detail), within)
    gone = [f"the mouth “{pin.drawing}” on frame {pin.frame}" for pin in carried.left]
    words = {word.text for line in found.lines for word in line.words if not word.said}
    gone += [f"the word “{word}”" for word in sorted(words)]
    kept = {line.id for line in found.lines}
    gone += [f"the line “{line.text}”" for line in reading.lines if line.id not in kept]
    _notes(f"{one[:1].upper()}{one[1:]} has no place in the new sound." for one in gone)
    document = reading_json.document(after, exposures, chart, fps)
    return _written(json.dumps(document, ensure_ascii=False, indent=1), options.out)


def _render(options: argparse.Namespace) -> int:
    return _made(options, *_role(options, options.name or options.sound.stem))


def _convert(options: argparse.Namespace) -> int:
    given = timing_in.parse(_text_of(options.exposures))
    source = given.rate or parse_rate(options.rate)
    rate = parse_rate(options.fps) if options.fps else source
    rows, told = timing_in.at_rate(replace(given, rate=source), rate)
    chart, drawn = _drawings(options.chart)
    said = dict(one.partition("=")[::2] for one in options.match)
    names = timing_in.matched(given.names, chart, said)
    unknown = [name for name, drawing in names.items() if not drawing]
    if unknown:
        raise TinForkError(f"No drawing is known for “{unknown[0]}”; say --match “{unknown[0]}=DRAWING”.")
    _notes([told] if told else [])
    exposures = timing_in.exposures(rows, names)
    reading = Reading(frame_time(exposures[-1].end, rate) if exposures else 0.0, READ_RATE, "", ())
    name = options.name or options.exposures.stem
    return _made(options, Role(name, exposures, chart, drawn, reading, built_in_face(FaceStyle())), rate)


def _made(options: argparse.Namespace, role: Role, rate: Fraction) -> int:
    """Make a file of one character, with its sound where there is one."""
    size = re.fullmatch(r"(\d{1,5})x(\d{1,5})", options.size)
    if not size:
        raise TinForkError("A size is width x height in pixels, such as 600x720.")
    look = stage.Look(int(size[1]), int(size[2]), options.background, options.mouth)
    with tempfile.TemporaryDirectory() as folder, _libraries_silent():
        sound, made = Path(folder) / "sound.flac", Path(folder) / "made"
        if options.sound:
            survey(options.sound, sound)
        shot = Shot(role.name, rate, options.start, (role,), sound if options.sound else None)
        registry.write(options.kind, made, shot, registry.How(look, {options.kind: _asked(options)}))
        shutil.move(made, options.out)
    return 0


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
        reading = unscripted.read_unscripted(sound, unscripted.Listening(options.language)).reading
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
