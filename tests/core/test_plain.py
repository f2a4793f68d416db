import json
from dataclasses import dataclass, field
from enum import StrEnum

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ondine.core import plain
from ondine.core.belief.priors import Belief
from ondine.core.setup import Setup


class Colour(StrEnum):
    RED = "red"


@dataclass(frozen=True)
class Part:
    size: float
    count: int = 1


@dataclass(frozen=True)
class Whole:
    name: str = "x"
    colour: Colour = Colour.RED
    on: bool = False
    maybe: float | None = None
    parts: tuple[Part, ...] = ()
    pair: tuple[int, str] = (1, "a")
    first: Part = field(default_factory=lambda: Part(1.0))


@pytest.mark.parametrize(
    ("data", "says"),
    [
        ({"name": 3}, "name cannot be 3"),
        ({"colour": "mauve"}, "colour cannot be 'mauve'"),
        ({"on": 1}, "on cannot be 1"),
        ({"maybe": "1"}, "maybe cannot be '1'"),
        ({"first": {"size": True}}, r"first\.size cannot be True"),
        ({"first": {"size": 1.0, "count": 1.5}}, r"first\.count cannot be 1\.5"),
        ({"first": {}}, r"first\.size is missing"),
        ({"first": 4}, "first is no object"),
        ({"parts": {}}, "parts is no list"),
        ({"parts": [{"size": 1}, []]}, r"parts\.1 is no object"),
        ({"pair": [1]}, "pair has 1 parts, not 2"),
        ({"first": {"size": 10**400}}, r"first\.size cannot be"),
        ({"first": {"size": 1, "count": 2**64}}, r"first\.count cannot be"),
        ([], "it is no object"),
    ],
)
def test_what_is_of_the_wrong_kind_is_named_by_its_path(data, says):
    with pytest.raises(ValueError, match=says):
        plain.read(Whole, data)


def test_unknown_fields_are_passed_over_and_left_out_ones_take_their_defaults():
    assert plain.read(Whole, {"of_a_newer_one": 1, "maybe": 2}) == Whole(maybe=2)
    assert plain.read(Whole, {"pair": [2, "b"], "colour": "red"}) == Whole(pair=(2, "b"))


@pytest.mark.parametrize("text", ["NaN", "[Infinity]", '{"a": 1e400}', "-1e999", "[" * 100_000, "{", "9" * 5000])
def test_numbers_that_are_none_and_texts_that_are_none(text):
    with pytest.raises(ValueError):
        plain.loads(text)


def test_lists():
    assert plain.parse_list(Part, '[{"size": 1}, {"size": 2.5}]') == [Part(1), Part(2.5)]
    with pytest.raises(ValueError, match="no list"):
        plain.parse_list(Part, "{}")


JSON = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats() | st.text(max_size=8),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=8), inner, max_size=3),
    max_leaves=12,
)


@given(JSON)
def test_whatever_is_read_is_whole_or_refused(data):
    for kind in (Whole, Setup, Belief):
        try:
            made = plain.read(kind, data)
        except ValueError:
            continue
        assert isinstance(made, kind)


@given(JSON)
def test_what_is_read_can_be_written_again(data):
    try:
        found = plain.loads(json.dumps(data))
    except ValueError:
        return
    json.dumps(found, allow_nan=False)
