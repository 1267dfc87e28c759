"""JSON from outside: some of it is read, the rest is refused with a sentence."""

from __future__ import annotations

import json
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_static.core.documents.json_input import DEEPEST, parse_json
from pale_static.core.faults import Malformed

PLAIN = st.recursive(
    st.none() | st.booleans() | st.integers(-(2**53), 2**53) | st.floats(allow_nan=False, allow_infinity=False)
    | st.text(st.characters(exclude_categories=["Cs"])),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=5), inner, max_size=4),
    max_leaves=20,
)  # fmt: skip


@given(PLAIN)
def test_what_can_be_kept_is_read_as_pythons_own_reader_reads_it(value: Any) -> None:
    text = json.dumps(value)
    assert parse_json(text, "It") == json.loads(text)


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("", "It is not JSON."),
        ("{", "It is not JSON."),
        (b"\xff\xfe", "It is not JSON."),
        ("NaN", "holds NaN, which cannot be kept"),
        ("[1, -Infinity]", "holds -Infinity"),
        ("1e999", "not finite"),
        (str(2**53 + 1), "the number 9007199254740993"),
        ("9" * 5000, "(5000 digits)"),
        ("[" * 100_000, f"deeper than {DEEPEST} levels"),
        ("[" * (DEEPEST + 1) + "]" * (DEEPEST + 1), f"deeper than {DEEPEST} levels"),
        ('{"a": "\\ud800"}', "half of a character"),
        ('{"\\udfff": 1}', "half of a character"),
    ],
)
def test_what_cannot_is_refused_in_words(text: str | bytes, said: str) -> None:
    with pytest.raises(Malformed, match=said.replace("(", r"\(").replace(")", r"\)")):
        parse_json(text, "It")


def test_what_is_just_within_is_read() -> None:
    assert parse_json("[" * DEEPEST + "]" * DEEPEST, "It") is not None
    assert parse_json(str(2**53), "It") == 2**53
    # A whole character of two halves, RFC 8259 section 7.
    assert parse_json('"\\ud83d\\ude8b"', "It") == "🚋"
