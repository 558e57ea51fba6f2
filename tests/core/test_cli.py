import json
import subprocess
import sys
import zipfile

import numpy as np
import pytest
import soundfile

from tests.core.test_formats import check_document
from tests.speech import LINE, speak
from tinfork.cli import main
from tinfork.core.formats.timing_in import parse
from tinfork.core.mouths.draw import mouth_svg
from tinfork.core.mouths.shapes import SHAPES


@pytest.fixture(scope="module")
def line(tmp_path_factory):
    folder = tmp_path_factory.mktemp("cli")
    (folder / "line.txt").write_text(f"\n{LINE}\n\n  \nFog.\n", encoding="utf-8")
    return speak(folder / "line.wav", LINE + " Fog.")


def test_read_prints_the_document(line, capsys):
    status = main(["read", str(line), "--text", str(line.with_suffix(".txt")), "--fps", "25", "--detail", "1"])
    document = json.loads(capsys.readouterr().out)
    assert status == 0
    check_document(document)
    assert [spoken["text"] for spoken in document["lines"]] == [LINE, "Fog."]
    assert all(exposure["frames"] >= 2 for exposure in document["exposures"])


def test_read_without_a_text_and_into_a_file(line, tmp_path, capsys):
    assert main(["read", str(line), "--out", str(tmp_path / "out.json"), "--hold", "3"]) == 0
    document = json.loads((tmp_path / "out.json").read_text(encoding="utf-8"))
    check_document(document)
    assert capsys.readouterr().out == ""
    assert all(exposure["frames"] >= 3 for exposure in document["exposures"])


@pytest.mark.parametrize(
    "wrong",
    [
        ["--fps", "soon"],
        ["--hold", "0"],
        ["--lead", "7"],
        ["--detail", "2"],
        ["--language", "xx"],
        ["--text", "missing.txt"],
        ["--text", "empty.txt"],
        ["--text", "binary.txt"],
    ],
)
def test_bad_input_is_one_sentence_and_status_two(line, wrong, tmp_path, monkeypatch, capsys):
    monkeypatch.chdir(tmp_path)
    (tmp_path / "empty.txt").write_text(" \n")
    (tmp_path / "binary.txt").write_bytes(b"\xff\xfe\x00\x9f")
    text = [] if wrong[0] == "--text" else ["--text", str(line.with_suffix(".txt"))]
    assert main(["read", str(line), *text, *wrong]) == 2
    said = capsys.readouterr()
    assert said.out == ""
    assert len(said.err.strip().splitlines()) == 1
    assert said.err.strip().endswith(".")


def test_a_file_that_is_no_sound(line, capsys):
    assert main(["read", str(line.with_suffix(".txt"))]) == 2
    assert "not a sound file" in capsys.readouterr().err
    assert main(["read", str(line.with_name("nowhere.wav"))]) == 2
    assert "No such file" in capsys.readouterr().err


def run(*arguments):
    """The command as a process of its own, with all that reaches its descriptor 2."""
    return subprocess.run(
        [sys.executable, "-m", "tinfork.cli", *arguments], capture_output=True, text=True, check=False
    )


@pytest.mark.parametrize("arguments", [[], ["sing"], ["read"], ["read", "x.wav", "--hold", "many"], ["read", "--fps"]])
def test_a_command_that_cannot_be_understood_is_one_sentence(arguments, capsys):
    assert main(arguments) == 2
    said = capsys.readouterr()
    assert said.out == ""
    (sentence,) = said.err.splitlines()
    assert sentence.endswith("--help.")


def test_what_a_library_says_of_a_broken_file_is_not_said(tmp_path):
    broken = tmp_path / "broken.mp3"
    noise = np.random.default_rng(1).bytes(40_000)
    broken.write_bytes(b"".join(b"\xff\xfb\x90\x00" + noise[at : at + 413] for at in range(0, 40_000, 413)))
    done = run("read", str(broken))
    assert done.returncode == 0
    assert all(sentence.startswith("Note: ") for sentence in done.stderr.splitlines())


def test_a_reading_is_planned_and_rendered_without_a_database(line, tmp_path, capsys):
    reading, plan = tmp_path / "reading.json", tmp_path / "plan.json"
    assert main(["read", str(line), "--text", str(line.with_suffix(".txt")), "--out", str(reading)]) == 0
    assert main(["plan", str(reading), "--out", str(plan)]) == 0
    assert plan.read_text() == reading.read_text()
    assert main(["plan", str(reading), "--hold", "3", "--fps", "12"]) == 0
    planned = json.loads(capsys.readouterr().out)
    assert planned["fps"] == "12"
    assert all(exposure["frames"] >= 3 for exposure in planned["exposures"])
    charted = tmp_path / "chart"
    charted.mkdir()
    for name in ("rest", "open"):
        (charted / f"{name}.svg").write_text(mouth_svg(SHAPES[name].place))
    for kind, also in (("svg", []), ("fap", []), ("png", ["--chart", str(charted), "--mouth", "--pattern", "##"])):
        out = tmp_path / f"out.{kind}"
        asked = ["render", str(reading), str(line), "--as", kind, "--out", str(out), "--size", "96x80", "--start", "7"]
        assert main([*asked, *also]) == 0
        assert out.stat().st_size > 400
    with zipfile.ZipFile(tmp_path / "out.png") as packed:
        assert "frames/07.png" in packed.namelist()
        assert {e["drawing"] for e in json.loads(packed.read("exposures.json"))["exposures"]} == {"rest", "open"}


@pytest.mark.parametrize(
    ("change", "why"),
    [
        ({"--as": "statue"}, "There is no format “statue”"),
        ({"--size": "big"}, "width x height"),
        ({"--size": "95x80"}, "and even"),
        ({"--background": "octarine"}, "a colour such as"),
        ({"--pattern": "a"}, "one row of 1 to 9 #"),
        ({"--plays": "2"}, "“png” has no --plays"),
        ({"--as": "gif", "--plays": "-1"}, "“Times it plays” cannot be that"),
        ({"--hold": "99"}, "A hold is 1 to 12"),
    ],
)
def test_what_cannot_be_rendered_is_one_sentence(line, tmp_path, capsys, change, why):
    reading = tmp_path / "reading.json"
    reading.write_text(json.dumps(TINY))
    asked = {"--as": "png", "--size": "96x80", "--out": str(tmp_path / "out")} | change
    assert main(["render", str(reading), str(line), *(part for pair in asked.items() for part in pair)]) == 2
    said = capsys.readouterr().err
    assert why in said
    assert said.count("\n") == 1
    assert not (tmp_path / "out").exists()


TINY = {
    "tinfork": 1,
    "sound": {"seconds": 0.5, "rate": 16000},
    "fps": "24",
    "lines": [
        {
            "text": "Ah",
            "start": 0.1,
            "end": 0.4,
            "words": [
                {"text": "Ah", "start": 0.1, "end": 0.4, "sounds": [{"ipa": "ɑ", "start": 0.1, "end": 0.4}]},
            ],
        }
    ],
}


@pytest.mark.parametrize(
    ("change", "why"),
    [
        ({"tinfork": 99}, "a later Tin Fork"),
        ({"fps": "soon"}, "not a frame rate"),
        ({"sound": {"seconds": 1e9}}, "not a reading"),
        ({"lines": [{"text": 3}]}, "not a reading"),
        (
            {
                "lines": [
                    TINY["lines"][0]
                    | {
                        "words": [
                            TINY["lines"][0]["words"][0]
                            | {
                                "sounds": [
                                    {"ipa": "ɑ", "start": 0.3, "end": 0.4},
                                    {"ipa": "ɑ", "start": 0.1, "end": 0.2},
                                ]
                            }
                        ]
                    }
                ]
            },
            "not in order",
        ),
    ],
)
def test_a_reading_that_is_none_is_one_sentence(tmp_path, capsys, change, why):
    path = tmp_path / "reading.json"
    path.write_text(json.dumps(TINY | change))
    assert main(["plan", str(path)]) == 2
    said = capsys.readouterr().err
    assert why in said
    assert said.count("\n") == 1


@pytest.fixture
def theirs(tmp_path):
    """Exposures of another program, with names of their own."""
    path = tmp_path / "theirs.csv"
    path.write_text("frame,frames,drawing\n2,3,mouth closed\n5,4,Shot 7\n12,2,open\n", encoding="utf-8")
    return path


def test_exposures_of_another_program_are_converted(theirs, tmp_path, capsys):
    out = tmp_path / "ours.otio"
    match = ["--match", "Shot 7=purse", "--match", "mouth closed=press"]
    assert main(["convert", str(theirs), *match, "--as", "otio", "--out", str(out)]) == 0
    found = parse(out.read_text(encoding="utf-8"))
    assert (found.rate, found.rows) == (24, ((0, 2, ""), (2, 3, "press"), (5, 4, "purse"), (9, 3, ""), (12, 2, "open")))
    slower = tmp_path / "slower.csv"
    assert main(["convert", str(out), "--fps", "12", "--as", "csv", "--out", str(slower)]) == 0
    assert "From 24 to 12 frames a second: frame 14 becomes frame 7" in capsys.readouterr().err
    assert [row for row in parse(slower.read_text(encoding="utf-8")).rows if row[2]] == [
        (1, 2, "press"),
        (3, 2, "purse"),
        (6, 1, "open"),
    ]


@pytest.mark.parametrize(
    ("more", "sentence"),
    [
        ([], "No drawing is known for “Shot 7”; say --match “Shot 7=DRAWING”."),
        (["--match", "Shot 7=nowhere"], "No drawing is known for “Shot 7”"),
        (["--match", "Shot 7=purse", "--from", "x"], "x"),
        (["--match", "Shot 7=purse", "--size", "big"], "A size is width x height"),
    ],
)
def test_what_cannot_be_converted_is_one_sentence(theirs, tmp_path, capsys, more, sentence):
    out = tmp_path / "out.csv"
    theirs.write_text(theirs.read_text().replace("mouth closed", "press"), encoding="utf-8")
    assert main(["convert", str(theirs), *more, "--as", "csv", "--out", str(out)]) == 2
    said = capsys.readouterr().err
    assert sentence in said
    assert said.count("\n") == 1
    assert not out.exists()


def test_follow_gives_the_reading_as_it_lies_in_a_new_cut(line, tmp_path, capsys):
    read, followed = tmp_path / "read.json", tmp_path / "followed.json"
    main(["read", str(line), "--text", str(line.with_suffix(".txt")), "--out", str(read)])
    document = json.loads(read.read_text())
    words = [word for own in document["lines"] for word in own["words"]]
    document["exposures"][6]["pinned"] = document["exposures"][-2]["pinned"] = True
    read.write_text(json.dumps(document))
    samples, rate = soundfile.read(line, dtype="float32")
    cut = int((words[-2]["end"] + words[-1]["start"]) / 2 * rate)
    soundfile.write(tmp_path / "new.wav", np.concatenate([np.zeros(rate, np.float32), samples[:cut]]), rate)
    assert main(["follow", str(read), str(line), str(tmp_path / "new.wav"), "--out", str(followed)]) == 0
    after = json.loads(followed.read_text())
    check_document(after)
    now = [word for own in after["lines"] for word in own["words"]]
    assert [word["text"] for word in now] == [word["text"] for word in words[:-1]]
    assert [word["start"] for word in now] == pytest.approx([word["start"] + 1 for word in words[:-1]], abs=0.003)
    pinned = document["exposures"][6]
    assert [(e["frame"], e["drawing"]) for e in after["exposures"] if e.get("pinned")] == [
        (pinned["frame"] + 24, pinned["drawing"])
    ]
    told = capsys.readouterr().err
    assert "Note: The line “Fog.” has no place in the new sound." in told
    assert f"on frame {document['exposures'][-2]['frame']} has no place" in told


def test_follow_refuses_a_sound_that_has_nothing_of_it(line, tmp_path, capsys):
    read = tmp_path / "read.json"
    main(["read", str(line), "--text", str(line.with_suffix(".txt")), "--out", str(read)])
    soundfile.write(tmp_path / "tone.wav", 0.3 * np.sin(np.arange(32_000) / 9), 16_000)
    assert main(["follow", str(read), str(line), str(tmp_path / "tone.wav")]) == 2
    assert "Nothing of the old sound is heard in this one" in capsys.readouterr().err
