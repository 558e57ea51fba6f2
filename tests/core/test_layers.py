import importlib
from pathlib import Path

import pytest
from importlinter.cli import lint_imports

ROOT = Path(__file__).parents[2]


def test_nothing_knows_what_lies_above_it():
    assert lint_imports(config_filename=str(ROOT / "pyproject.toml"), no_cache=True) == 0


@pytest.mark.parametrize("name", sorted(path.stem for path in (ROOT / "bench").glob("[a-z]*.py")))
def test_what_measures_finds_all_it_needs(name):
    importlib.import_module(f"bench.{name}")
