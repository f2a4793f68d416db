import json
from importlib.resources import files
from pathlib import Path

import pytest

from ondine.core.belief.priors import Belief
from ondine.core.table.firing import problems
from ondine.core.timing.sequence import Pulse, Sequence
from ondine.demo.scenario import START
from ondine.demo.taught import IN_HAND
from ondine.logbook.recipe import RecipeError, parse_recipe, read_recipe, recipe_schema, write_recipe

DOCS = Path(__file__).parents[2] / "docs"
GOOD = json.loads(write_recipe(IN_HAND))


def changed(**sequence: object) -> str:
    return json.dumps({**GOOD, "sequence": {**GOOD["sequence"], **sequence}})


def test_a_recipe_survives_the_journey():
    assert parse_recipe(write_recipe(IN_HAND), "x") == IN_HAND


def test_a_short_recipe_takes_the_defaults():
    text = '{"format": "ondine-recipe", "version": 2, "sequence": {"drops": [{"start_us": 0, "open_us": 20000}], "flash_us": 300000}}'
    plan = parse_recipe(text, "x")
    assert plan.sequence == Sequence.with_one_flash((Pulse(0, 20_000),), 300_000)
    assert plan.setup.valves[0].nozzle_height_m == 0.365 and plan.belief == Belief()


def test_unknown_fields_do_no_harm():
    assert parse_recipe(json.dumps({**GOOD, "later": {"idea": 1}}), "x").sequence == START


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("{", "not valid JSON"),
        ("[" * 100_000, "not valid JSON"),
        (changed(flashes=[{"at_us": float("nan")}]), "NaN"),
        (changed(flashes=[{"at_us": -1}]), r"sequence\.flashes\.0\.at_us"),
        (changed(flashes=[{"at_us": "300"}]), r"sequence\.flashes\.0\.at_us.*it is '300'"),
        (changed(flashes=[]), r"sequence\.flashes"),
        (changed(camera={"opens_us": -1}), r"sequence\.camera\.opens_us"),
        (changed(drops=[]), r"sequence\.drops"),
        (changed(drops=[{"start_us": 0}]), r"sequence\.drops\.0\.open_us"),
        (changed(drops=[{"start_us": 9e9, "open_us": 300}]), r"sequence\.drops\.0\.start_us"),
        (changed(drops=[{"start_us": 0, "open_us": 20_000}] * 9), r"sequence\.drops.*at most 8"),
        (json.dumps({**GOOD, "version": 4}), "version"),
        (json.dumps({**GOOD, "setup": {"mix": {"temperature_c": 90}}}), r"setup\.mix\.temperature_c"),
        (json.dumps({**GOOD, "belief": {"lag_s": {"mean": 1, "sd": -1}}}), r"belief\.lag_s\.sd"),
        ("null", "not a recipe"),
    ],
)
def test_bad_recipes_name_the_field(text, says):
    with pytest.raises(RecipeError, match=says) as caught:
        parse_recipe(text, "mine.json")
    assert str(caught.value).startswith("mine.json")


@pytest.mark.parametrize(
    ("text", "says"),
    [
        (changed(drops=[{"start_us": 0, "open_us": 300_000}]), "over the valve's limit"),
        (changed(drops=[{"start_us": 0, "open_us": 30_000}, {"start_us": 1, "open_us": 9_000}]), "start it at 31 ms"),
        (changed(flashes=[{"at_us": 300_000}, {"at_us": 300_000, "output": 3}]), "no unit hangs on it"),
        (changed(drops=[{"start_us": 0, "open_us": 20_000, "valve": 1}]), "this table has one valve"),
    ],
)
def test_what_cannot_be_fired_is_read_and_says_why(text, says):
    plan = parse_recipe(text, "mine.json")
    assert says in problems(plan.sequence, plan.setup)[0].says
    assert parse_recipe(write_recipe(plan), "again") == plan


def test_recipes_that_cannot_be_read(tmp_path):
    with pytest.raises(RecipeError, match="cannot be read"):
        read_recipe(tmp_path / "none.json")
    (tmp_path / "latin.json").write_bytes(b"\xff\xfe{}")
    with pytest.raises(RecipeError, match="UTF-8"):
        read_recipe(tmp_path / "latin.json")


def test_the_published_schema_and_example_are_current():
    assert json.loads((files("ondine") / "assets" / "schemas" / "recipe.schema.json").read_text()) == recipe_schema()
    assert read_recipe(DOCS / "examples" / "tidal-mill.json") == IN_HAND
