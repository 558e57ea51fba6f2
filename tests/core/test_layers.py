from pathlib import Path

from importlinter.cli import lint_imports

ROOT = Path(__file__).parents[2]


def test_nothing_knows_what_lies_above_it():
    assert lint_imports(config_filename=str(ROOT / "pyproject.toml"), no_cache=True) == 0
