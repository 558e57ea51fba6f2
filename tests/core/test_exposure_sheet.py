"""The exposure sheet: what stands on each row, and its files read again."""

import csv
import io
from dataclasses import replace
from fractions import Fraction

import numpy as np
import pypdf
import pytest
from odf.opendocument import load
from odf.table import TableCell, TableRow
from odf.text import P

from tests.core.test_handing_over import START, role, shot_at, tone
from tinfork.core.errors import HandoverError
from tinfork.core.formats import sheet_csv, sheet_ods, sheet_pdf
from tinfork.core.formats.sheet_pdf import Print
from tinfork.core.shot.sheet import COLUMNS, rows

__all__ = ["tone"]


@pytest.fixture
def shot(tone):
    """Two characters, of whom the second begins a frame later."""
    rate = Fraction(24)
    other = role(rate, "Pock", (("rest", 1), ("open", 2), ("press", 1), ("rest", 22)))
    return shot_at(rate, tone, role(rate), replace(other, reading=replace(other.reading, lines=())))


def test_each_row_says_what_begins_on_its_frame(shot):
    found = list(rows(shot, {5: "lips!", 25: "out"}))
    assert [row.number for row in found] == list(range(START, START + 26))
    assert [(row.frame, row.words) for row in found if any(row.words)] == [(5, ("Mah", ""))]
    assert " ".join(row.ipa for row in found if row.ipa) == "m ɑ"
    assert [row.frame for row in found if row.line] == [5]
    assert [row.number for row in found if row.second] == [120]
    marit = {row.frame: row.cells[0].drawing for row in found if row.cells[0].drawing is not None}
    assert marit == {0: "rest", 5: "press", 7: "open", 11: "", 13: "ah/o?", 16: "open", 20: "rest"}
    assert {row.frame: row.note for row in found if row.note} == {5: "lips!", 25: "out"}
    assert found[0].timecode == "00:00:04:05"


def test_on_twos_the_drawing_that_is_seen_longer_stands_in_the_row(shot):
    found = list(rows(shot, {4: "a", 5: "b"}, step=2))
    assert [row.number for row in found][:3] == [START, START + 2, START + 4]
    assert found[2].note == "a / b"
    assert found[2].words == ("Mah", "")
    pock = {row.frame: row.cells[1].drawing for row in found if row.cells[1].drawing is not None}
    assert pock == {0: "open", 2: "press", 4: "rest"}
    with pytest.raises(HandoverError, match="every two"):
        list(rows(shot, step=3))


def test_as_csv_and_as_ods_it_says_the_same(shot, tmp_path):
    found = list(rows(shot, {3: "=cmd"}))
    table = list(csv.reader(io.StringIO(sheet_csv.text(shot, found))))
    assert table[0] == [*("frame", "timecode", "words Marit", "words Pock", "IPA", "Marit", "Pock", "acting", "notes")]
    assert len(table) == 27
    assert table[12] == [str(START + 11), "00:00:04:16", "", "", "", "(nothing)", "", "", ""]
    assert table[4][8] == "'=cmd", "no spreadsheet takes it for a formula"
    sheet_ods.write(tmp_path / "sheet.ods", shot, found)
    read = load(str(tmp_path / "sheet.ods"))
    again = [
        ["".join(str(p) for p in cell.getElementsByType(P)) for cell in row.getElementsByType(TableCell)]
        for row in read.getElementsByType(TableRow)
    ]
    assert again[1:3] == table[1:3]
    assert again[4][8] == "=cmd"
    assert len(again) == 27
    some = list(csv.reader(io.StringIO(sheet_csv.text(shot, found, ["words", "notes"]))))
    assert some[0] == ["frame", "words Marit", "words Pock", "notes"]
    alone = replace(shot, roles=shot.roles[:1])
    assert sheet_csv.header(alone, ["words"]) == ["frame", "words"]


@pytest.mark.parametrize("paper", ["A4", "Letter"])
def test_printed_it_has_its_pages_with_their_numbers(shot, tmp_path, paper):
    path = tmp_path / "sheet.pdf"
    peaks = sheet_pdf.peaks_of(np.sin(np.linspace(0, 900, 52_000)).astype(np.float32), 2000.0)
    assert peaks.shape == (26, 2)
    sheet_pdf.write(
        path, shot, list(rows(shot, {3: "look left"})), Print(paper, 12, "The Salt Ferry", "version 7"), COLUMNS, peaks
    )
    read = pypdf.PdfReader(path)
    assert len(read.pages) == 3
    assert [round(float(side)) for side in read.pages[0].mediabox[2:]] == {"A4": [595, 842], "Letter": [612, 792]}[
        paper
    ]
    texts = [page.extract_text() for page in read.pages]
    assert all(f"page {n} of 3" in text for n, text in enumerate(texts, 1))
    for said in (
        "The Salt Ferry · Fog",
        "version 7",
        "Marit says",
        "Mah",
        "ah/o?",
        "look left",
        "IPA",
        "Pock",
        str(START),
    ):
        assert said in texts[0] + texts[1], said
    assert str(START + 25) in texts[2]
    assert str(START) not in texts[1]


LONG = "She warns the goat, then looks back at the lighthouse and waits for the bell to ring a second time"


def test_what_is_written_goes_on_down_the_rows_and_nothing_is_cut(shot, tmp_path):
    path = tmp_path / "sheet.pdf"
    cut = " ".join(f"word{number}" for number in range(60))
    notes = {1: LONG, 10: LONG, 11: cut, 12: "next page"}
    named = replace(shot, name="The ferry that nobody wanted to wait for in the fog of a very long November morning")
    sheet_pdf.write(path, named, list(rows(named, notes)), Print("A4", 40, "The Salt Ferry", "version 7"))
    texts = [" ".join(page.extract_text().split()) for page in pypdf.PdfReader(path).pages]
    assert texts[0].count("…") == 2
    assert all(word in texts[0] for word in (*LONG.split(), *named.name.split()))
    assert "word59" not in texts[0]
    assert len(texts) == 2
    assert f"frame {START + 10}, notes: {LONG}" in texts[1]
    assert f"frame {START + 11}, notes: {cut}" in texts[1]
    assert f"frame {START + 1}, notes" not in texts[1]


def test_a_page_that_cannot_be_is_said():
    with pytest.raises(HandoverError, match="A4 or Letter"):
        Print("A0")
    with pytest.raises(HandoverError, match="12 to 60 rows"):
        Print(per_page=5)
