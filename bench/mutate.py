"""Bends the rules of the engine a little, one at a time, and asks their tests whether anybody notices.

A bend is an edge that takes in one more (< becomes <=), or a threshold that is a tenth larger, or by one where it is
whole. Each is tried in a copy of the engine. What no test notices is named: it is a rule without a test where it turns.
"""

import argparse
import ast
import functools
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from queue import Queue

ROOT = Path(__file__).parents[1]
SECONDS = 120
"""A bend that makes its tests run longer than this was noticed."""

RULES = {
    "timebase": ["timebase", "rule_edges"],
    "acting/blinks": ["acting_proposals"],
    "acting/bodies": ["acting_proposals"],
    "acting/framing": ["acting_proposals"],
    "acting/thoughts": ["acting_proposals"],
    "mouths/cycles": ["moving_layers"],
    "shot/flowing": ["flowing"],
    "exposure/checks": ["check_edges", "checks", "cures"],
    "exposure/easing": ["decision_edges", "easing"],
    "exposure/events": ["event_edges", "plan"],
    "exposure/habits": ["rule_edges", "habits"],
    "exposure/stillness": ["stillness", "plan"],
    "exposure/pins": ["decision_edges", "plan", "arrangement"],
    "exposure/verbs": ["decision_edges", "verbs"],
    "formats/cut_in": ["cuts"],
    "script/casting": ["script"],
    "script/cuts": ["cuts"],
    "script/revising": ["revising"],
    "script/marks": ["rule_edges", "script"],
    "sound/quality": ["quality_edges", "quality"],
}
"""The modules of the engine that hold rules of thresholds and edges, each with the tests that know them."""

ALIKE = [
    ("exposure/pins", "one.start >= end", "what is left before it is left either way"),
    ("exposure/pins", "one.start > first", "no frame is left, and what has none is not kept"),
    ("exposure/pins", "first < end", "no frame is left, and what has none is not kept"),
    ("exposure/pins", "-1", "no clip has this number, nor the next"),
    ("exposure/pins", '"left") > np.searchsorted', "what is not touched is left whole either way"),
    ("exposure/pins", "<= frame < frames}", "nobody's is the frame behind the last"),
    ("exposure/verbs", "meet > begins", "it is held until where it ends already"),
    ("exposure/verbs", "meet < end", "it begins where it does already"),
    ("exposure/verbs", "by >", "what slides nowhere was given back before"),
    ("exposure/events", "after < number and", "it goes one too far, and is past the end as well"),
    ("exposure/events", "apart >= _TOLD_APART", "no two drawings are so exactly apart"),
    ("exposure/events", "away <= _TOWARD", "no drawing is so exactly as near"),
    ("exposure/events", "apart < 2 *", "no two vowels are so exactly as far apart"),
    ("exposure/checks", "over > _OVERLAP_SECONDS", "no two lines meet for so exactly as long"),
    ("exposure/checks", "if off > 0", "what is told is off by two at least"),
    ("exposure/checks", "e.frame < first <", "what begins there leaves nothing, as none does"),
    ("exposure/checks", "end < e.end and", "what ends there leaves nothing, as none does"),
    ("acting/blinks", "at < speech.frames", "dice fall on no whole frame"),
    ("sound/quality", "levels > speech", "no loudness is a whole number"),
    ("sound/quality", "levels > (noise", "no loudness is a whole number"),
    ("sound/quality", "levels.max(initial=_FLOOR_DB) <", "no loudness is a whole number"),
    ("sound/quality", "speech >= _QUIET_DB", "no loudness is a whole number"),
    ("sound/quality", "noise < _LOUD_BED_DB", "no loudness is a whole number"),
    ("sound/quality", "height >", "no loudness is a whole number"),
    ("sound/quality", "ratio < _GRAVE_DB", "no loudness is a whole number"),
    ("sound/quality", "levels > -70", "no loudness is a whole number"),
    ("sound/quality", "ratio >= _CLEAN_DB or noise < _NO_NOISE_DB", "no loudness is a whole number"),
    ("sound/quality", "noise < -80", "no loudness is a whole number"),
    ("sound/quality", ".mean() < noise + 12", "no loudness is a whole number"),
    ("sound/quality", "levels[0] > speech - _CUT_IN_DB", "no loudness is a whole number"),
]
"""Bends that change nothing, or nothing but at one exact measured number, with the reason; they are not tried."""

_EDGES: dict[type[ast.cmpop], str] = {ast.Lt: "<=", ast.LtE: "<", ast.Gt: ">=", ast.GtE: ">"}


def _path(module: str) -> str:
    """The module's file, from the root."""
    return f"tinfork/core/{module}.py"


@functools.cache
def _lines(module: str) -> list[bytes]:
    """The module's lines; what Python says of its places counts in bytes of them."""
    return (ROOT / _path(module)).read_bytes().splitlines()


@dataclass(frozen=True)
class Bend:
    """A place of a module where something else would stand: bytes first to end of a line, from 0."""

    module: str
    line: int
    first: int
    end: int
    now: str

    def __str__(self) -> str:
        was = self.text[self.first : self.end].decode()
        return f"{self.module}.py:{self.line}: {was} -> {self.now}   {self.text.decode().strip()}"

    @property
    def text(self) -> bytes:
        """The line as it is."""
        return _lines(self.module)[self.line - 1]

    @property
    def alike(self) -> bool:
        """Whether it changes nothing."""
        parts = (part.encode() for module, part, _ in ALIKE if module == self.module)
        return any(0 <= self.first - self.text.find(part) < len(part) for part in parts if part in self.text)

    def put(self, folder: Path) -> None:
        """Bend it in a copy."""
        lines = list(_lines(self.module))
        lines[self.line - 1] = self.text[: self.first] + self.now.encode() + self.text[self.end :]
        (folder / _path(self.module)).write_bytes(b"\n".join(lines) + b"\n")


def bends(module: str) -> Iterator[Bend]:
    """Yield all bends of a module."""
    tree = ast.parse(b"\n".join(_lines(module)))
    for statement in tree.body:
        if isinstance(statement, ast.Assign | ast.AnnAssign) and statement.value:
            yield from _numbers(module, statement.value)
    for node in ast.walk(tree):
        if isinstance(node, ast.Compare):
            yield from _edges(module, node)
            for side in (node.left, *node.comparators):
                if isinstance(side, ast.Constant):
                    yield from _numbers(module, side)


def _numbers(module: str, value: ast.expr) -> Iterator[Bend]:
    for node in ast.walk(value):
        if isinstance(node, ast.Constant) and type(node.value) in (int, float) and node.end_col_offset:
            more = node.value + 1 if isinstance(node.value, int) else round(node.value * 1.1, 12)
            yield Bend(module, node.lineno, node.col_offset, node.end_col_offset, repr(more))


def _edges(module: str, node: ast.Compare) -> Iterator[Bend]:
    """Edges whose sides stand in one line, where the sign between them is found."""
    for left, op, right in zip((node.left, *node.comparators), node.ops, node.comparators, strict=False):
        now = _EDGES.get(type(op))
        if now is None or left.end_lineno != right.lineno or left.end_col_offset is None:
            continue
        text = _lines(module)[right.lineno - 1]
        between = text[left.end_col_offset : right.col_offset]
        first = left.end_col_offset + next(i for i, letter in enumerate(between) if letter in b"<>")
        yield Bend(module, right.lineno, first, first + (2 if text[first + 1 : first + 2] == b"=" else 1), now)


def is_noticed(bend: Bend, folder: Path) -> bool:
    """Return whether a test fails when something is bent in a copy of the engine; it is put back after."""
    file = folder / _path(bend.module)
    kept = file.read_bytes()
    bend.put(folder)
    tests = [f"tests/core/test_{name}.py" for name in RULES[bend.module]]
    command = [sys.executable, "-B", "-m", "pytest", "-q", "-x", "--no-header", *tests]
    environment = os.environ | {"PYTHONPATH": str(folder)}
    try:
        done = subprocess.run(command, cwd=folder, env=environment, capture_output=True, timeout=SECONDS, check=False)
        return done.returncode != 0
    except subprocess.TimeoutExpired:
        return True
    finally:
        file.write_bytes(kept)


def copied(folder: Path) -> Path:
    """Return a copy of what the tests of the engine need."""
    for name in ("tinfork", "tests"):
        shutil.copytree(ROOT / name, folder / name, ignore=shutil.ignore_patterns("__pycache__", "browser"))
    (folder / "tests" / "browser").mkdir(exist_ok=True)
    for name in ("__init__.py", "application.py"):
        shutil.copy(ROOT / "tests" / "browser" / name, folder / "tests" / "browser" / name)
    shutil.copy(ROOT / "pyproject.toml", folder)
    return folder


def main() -> None:
    """Try a sample of the bends, the same for the same seed, and name those that nobody noticed."""
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("--count", type=int, default=100, help="how many bends are tried")
    asked.add_argument("--seed", type=int, default=1)
    asked.add_argument("--all", action="store_true", help="every bend there is")
    asked.add_argument("modules", nargs="*", help="only of these, as exposure/checks")
    given = asked.parse_args()
    every = [bend for module in given.modules or RULES for bend in bends(module) if not bend.alike]
    chosen = every if given.all else random.Random(given.seed).sample(every, min(given.count, len(every)))
    with tempfile.TemporaryDirectory() as shared, ThreadPoolExecutor(2) as pool:
        free: Queue[Path] = Queue()
        for number in range(2):
            free.put(copied(Path(shared) / str(number)))

        def tried(bend: Bend) -> bool:
            folder = free.get()
            try:
                return is_noticed(bend, folder)
            finally:
                free.put(folder)

        left = []
        for bend, noticed in zip(chosen, pool.map(tried, chosen), strict=True):
            if not noticed:
                left.append(bend)
                print(bend, flush=True)
    print(f"{len(chosen) - len(left)} of {len(chosen)} bends noticed ({len(every)} there are)")


if __name__ == "__main__":
    main()
