from pathlib import Path

from importlinter.cli import lint_imports

ROOT = Path(__file__).parents[2]


def test_the_engine_knows_nothing_of_the_web():
    assert lint_imports(config_filename=str(ROOT / "pyproject.toml"), no_cache=True) == 0
