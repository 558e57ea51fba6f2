import json

import pytest

from tinfork.core.errors import DocumentError
from tinfork.core.plain import plain, restore
from tinfork.core.script.lines import Script, ScriptLine

SCRIPT = Script((ScriptLine(1, "Fog.", 3, said={0: "fɒɡ"}),), 2)


def test_a_value_becomes_what_json_holds_and_comes_back():
    document = plain(SCRIPT)
    assert json.loads(json.dumps(document)) == document
    assert document["lines"][0]["said"] == {"0": "fɒɡ"}
    assert restore(document, Script) == SCRIPT


@pytest.mark.parametrize(
    "name, value", [("id", "one"), ("text", None), ("said", {"first": "fɒɡ"}), ("start", "soon"), ("heard", 1)]
)
def test_what_is_no_such_value_is_refused_with_its_place(name, value):
    document = plain(SCRIPT)
    document["lines"][0][name] = value
    with pytest.raises(DocumentError, match=r"lines\[0\]"):
        restore(document, Script)
