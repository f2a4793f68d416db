"""Set-ups from elsewhere: anything that JSON can say."""

import json

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from ondine.core.forecast.plan import Plan
from ondine.core.setup import Setup
from ondine.core.setup.fields import about, leaves, put, read
from ondine.demo.scenario import NAMED, START, TIDAL_MILL
from ondine.logbook.recipe import RecipeError, parse_recipe, write_recipe
from ondine.logbook.setup_file import SetupFileError, parse_setup
from ondine.logbook.wire_model import setup_from_wire, setup_to_wire, wire_model
from tests.calibrated import IN_HAND, TAUGHT

ANYTHING = st.recursive(
    st.none() | st.booleans() | st.integers(-10, 10) | st.floats(allow_nan=False, allow_infinity=False) | st.text(max_size=8),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=8), inner, max_size=3),
    max_leaves=8,
)  # fmt: skip
NUMBERS = [p for p, v in leaves(TIDAL_MILL) if isinstance(v, int | float) and not isinstance(v, bool)]


def knocked(data: object) -> Setup | str:
    try:
        return parse_setup(json.dumps({"format": "ondine-setup", "version": 2, "setup": data}), "x.json")[0]
    except SetupFileError as error:
        return str(error)


@given(ANYTHING)
def test_anything_is_a_set_up_or_a_sentence(data):
    found = knocked(data)
    if isinstance(found, str):
        assert found.startswith("x.json") and found.endswith(".") and "Traceback" not in found
    else:
        assert knocked(setup_to_wire(found)) == found


@given(st.sampled_from(sorted(setup_to_wire(TIDAL_MILL))), ANYTHING)
def test_a_part_that_is_wrong_is_named_by_its_path(part, data):
    found = knocked({**setup_to_wire(TIDAL_MILL), part: data})
    if isinstance(found, str) and "Correct these fields" in found:
        assert f"setup.{part}" in found


@given(st.sampled_from(NUMBERS), st.booleans())
def test_every_limit_of_the_set_up_is_a_limit_at_the_door(path, high):
    known = about(TIDAL_MILL, path)
    assert known.low is not None and known.high is not None
    outside = known.high * 2 + 1 if high else known.low - abs(known.low) - 1
    value = read(TIDAL_MILL, path)
    wire = setup_to_wire(put(TIDAL_MILL, path, round(outside) if isinstance(value, int) else outside))
    found = knocked(wire)
    assert isinstance(found, str) and f"setup.{path}" in found


@pytest.mark.parametrize("name", list(NAMED))
def test_named_set_ups_come_through_unchanged(name):
    wire = setup_to_wire(NAMED[name])
    assert "other" not in wire
    model = wire_model(Setup).model_validate(wire)
    assert setup_from_wire(model) == NAMED[name]
    plan = Plan(START, NAMED[name], TAUGHT)
    assert parse_recipe(write_recipe(plan), "r.json") == plan


@given(st.dictionaries(st.from_regex("[a-z]{3,8}_future", fullmatch=True), ANYTHING.filter(bool), max_size=3))
@settings(max_examples=40)
def test_what_is_unknown_goes_in_and_comes_out_again(more):
    wire = setup_to_wire(TIDAL_MILL)
    wire["camera"] = {**wire["camera"], **more}
    wire["light"]["units"][1] = {**wire["light"]["units"][1], **more}
    found = knocked(wire)
    assert isinstance(found, Setup)
    again = setup_to_wire(found)
    for name, value in more.items():
        assert again["camera"][name] == value and again["light"]["units"][1][name] == value
    assert found.valves == TIDAL_MILL.valves


def test_models_are_strict_about_kinds():
    model = wire_model(Setup)
    for wrong in (
        {"valves": [{"nozzle_height_m": "0.3"}]},
        {"camera": {"portrait": 1}},
        {"valves": [{"max_open_us": 20_000.5}]},
    ):
        with pytest.raises(ValidationError):
            model.model_validate(wrong)
    # A whole number is a number.
    assert setup_from_wire(model.model_validate({"valves": [{"nozzle_height_m": 1}]})).valves[0].nozzle_height_m == 1


def test_a_recipe_for_a_table_that_cannot_stand_is_refused():
    wire = json.loads(write_recipe(IN_HAND))
    wire["setup"]["bowl"]["landing_m"] = 0.3
    with pytest.raises(RecipeError, match=r"a table that cannot stand\. The drops would fall beside the bowl"):
        parse_recipe(json.dumps(wire), "r.json")
    wire["setup"]["bowl"]["landing_m"] = 0.0
    wire["setup"]["light"]["units"][0]["durations"][0]["measure"] = "t0.1"
    with pytest.raises(RecipeError, match=r"mixes t0\.5 and t0\.1"):
        parse_recipe(json.dumps(wire), "r.json")
