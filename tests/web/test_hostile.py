"""Whatever comes in, a person gets a sentence: every address is asked with input that must not hurt."""

import gc
import json
import time

import msgspec
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import NoReverseMatch, URLPattern, get_resolver, reverse
from django.urls.converters import IntConverter
from hypothesis import HealthCheck, example, given, reject, settings
from hypothesis import strategies as st

from tinfork.core.formats import cells, exchange_vtt, script_text, subtitles
from tinfork.web.desk.verbs import VERBS as DESK_VERBS
from tinfork.web.jobs.models import Job
from tinfork.web.script.verbs import VERBS as SCRIPT_VERBS
from tinfork.web.sound.models import SoundFile
from tinfork.web.sound.verbs import VERBS as SOUND_VERBS

TEXTS = ["", "²", "\0", "9" * 5000, "1e308", "NaN", "-1", "0", "1", "2", str(2**63), "..", "=1+1", "<v <v", "ˈə", "en"]
HUGE = [2**31, 2**63, 10**400, -(2**63)]
FIELDS = [
    "verb", "version", "line", "text", "character", "language", "word", "ipa", "by", "kind", "only", "all", "name",
    "rate", "start_frame", "make", "start", "track", "voice", "pitch", "count", "username", "password", "next", "q",
]  # fmt: skip
REQUESTS = [kind for verbs in (DESK_VERBS, SOUND_VERBS, SCRIPT_VERBS) for kind in verbs.requests]
PLAUSIBLE = [0, 1, 2, 3, -1, 0.5, True, False, "ah", "ˈə", "boot", [0, 0], [0, 2], [1], [[0.1, 0.4]], [[0.1, 0.4, 0]]]


def addresses(patterns=None):
    """Every address of the application: its name, and its parts, each with whether it is a number."""
    for pattern in patterns or get_resolver().url_patterns:
        if isinstance(pattern, URLPattern):
            kinds = pattern.pattern.converters.items()
            yield pattern.name, tuple((part, isinstance(kind, IntConverter)) for part, kind in kinds)
        else:
            yield from addresses(pattern.url_patterns)


ADDRESSES = sorted(set(addresses()))

hostile = st.sampled_from(TEXTS) | st.text(max_size=6)
plain = st.none() | st.booleans() | st.sampled_from([*HUGE, 0, 1, 2, 1.5, -1]) | st.sampled_from([*TEXTS, "\ud800"])
values = st.recursive(plain, lambda inner: st.lists(inner, max_size=3), max_leaves=5)


def fitting(kind):
    """Values of the kind that a field of a request takes."""
    return st.sampled_from([value for value in PLAUSIBLE if fits(value, kind)] or [None])


def fits(value, kind):
    try:
        msgspec.convert(value, kind)
    except msgspec.ValidationError:
        return False
    return True


def asked(kind):
    """A request of a kind, most of it as it should be."""
    fields = {field.name: fitting(field.type) | values for field in msgspec.structs.fields(kind)}
    return st.fixed_dictionaries({"verb": st.just(kind.__struct_config__.tag)}, optional=fields)


edits = st.one_of([asked(kind) for kind in REQUESTS]).map(json.dumps)
bodies = edits | st.sampled_from(["", "{", "[]", "null", '{"verb": NaN}', "[" * 5000, "1" * 5000, '"\\ud800"'])
forms = st.dictionaries(st.sampled_from(FIELDS), hostile, max_size=6)
files = st.tuples(
    st.sampled_from(["..", "a.wav", "a/../../b", "a.srt", "\u202ea.vtt", "x" * 300]),
    st.sampled_from([b"", b"RIFF", b"WEBVTT\n\n1:99999999 --> 2:0\nx", b"\xff\xfe\x00", b"{", b"line,", b"\0" * 50])
    | st.binary(max_size=60),
)


@pytest.mark.slow
@settings(max_examples=50, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    st.sampled_from(ADDRESSES),
    st.integers(0, 9),
    hostile.filter(lambda text: text and not set(text) & set("/?#\n\r\0")),
    st.one_of(st.tuples(st.just("json"), bodies), st.tuples(st.just("form"), forms), st.tuples(st.just("file"), files)),
    st.sampled_from(["GET", "POST"]),
)
@example(("stave-edit", (("pk", True),)), 2, "x", ("json", '{"verb": "pin", "version": 0, "frame": 1e308}'), "POST")
@example(("sound-listen", (("pk", True), ("channel", False))), 3, "²", ("form", {}), "GET")
def test_no_address_fails_on_anything(ferry, address, number, other, sent, method):
    known = [
        ferry.scene.production.pk, ferry.scene.pk, ferry.stave.pk, SoundFile.objects.first().pk,
        ferry.stave.character_id, Job.objects.values_list("pk", flat=True).first() or 1, 0, 2**31, 2**63, 10**30,
    ]  # fmt: skip
    name, parts = address
    try:
        url = reverse(name, kwargs={part: known[number] if is_number else other[:20] for part, is_number in parts})
    except NoReverseMatch:
        reject()
    client = ferry.client(ferry.owner)
    kind, what = sent
    if method == "GET":
        answer = client.get(url, what if kind == "form" else {})
    elif kind == "json":
        answer = client.post(url, what.encode("utf-8", "surrogatepass"), content_type="application/json")
    elif kind == "form":
        answer = client.post(url, what)
    else:
        upload = SimpleUploadedFile("a", what[1])
        upload.name = what[0] if what[0] != ".." else "a"
        answer = client.post(url, {"sound": upload, "file": upload, "version": "1", "character": "1"})
    assert answer.status_code < 500


PARSERS = {
    "subtitles": lambda text: subtitles.parse(text, ["Marit"]),
    "exchange": exchange_vtt.parse,
    "screenplay": lambda text: script_text.parse_screenplay(text, ["Marit"]),
    "plain": lambda text: script_text.parse_plain(text, ["Marit"]),
}
ROWS = {
    "voices": "WEBVTT\n\n00:01.000 --> 00:02.000\n" + "<v ",
    "blanks": "WEBVTT\n\n00:01.000 --> 00:02.000\nMarit" + " ",
    "brackets": "00:01.000 --> 00:02.000\n" + "(",
    "stamps": "00:01.000 --> 00:02.000\n" + "<1:",
    "digits": "1",
    "names": "Marit: ",
    "cues": "00:01.000 --> 00:02.000\nx\n",
}


@pytest.mark.parametrize("parser", PARSERS)
@pytest.mark.parametrize("row", ROWS)
def test_every_parser_takes_time_in_proportion_to_its_text(parser, row):
    """Eight times the text takes no more than some twenty times as long, with a floor for the clock."""
    head, repeated = ROWS[row], ROWS[row][-3:] if row != "cues" else ROWS[row]

    def seconds(count):
        text = head + repeated * count + "x"
        gc.disable()
        begun = time.thread_time()
        try:
            PARSERS[parser](text)
        except Exception as refused:  # A sentence is a good answer; how long it took is the question.
            assert "Error" in type(refused).__name__
        finally:
            gc.enable()
        return time.thread_time() - begun

    assert seconds(32_000) < 20 * max(seconds(4_000), 0.05)


@given(st.text(st.sampled_from("'=+-@\t\nab"), max_size=6))
def test_a_cell_is_no_formula_and_comes_back_as_it_was(text):
    cell = cells.escaped(text)
    assert not cell or cell[0] not in "=+-@\t\r\n"
    assert cells.unescaped(cell) == text
