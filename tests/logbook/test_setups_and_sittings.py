import json
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from importlib.resources import files
from pathlib import Path

import pytest
from jsonschema import Draft202012Validator

from ondine.core.belief.priors import Belief
from ondine.core.forecast.plan import Plan
from ondine.core.setup import Flash, Light, Setup
from ondine.core.setup.fields import put
from ondine.demo.scenario import TIDAL_MILL
from ondine.demo.taught import TAUGHT
from ondine.logbook.records import SittingFacts
from ondine.logbook.setup_file import (
    SetupFileError,
    parse_setup,
    read_setup,
    setup_schema,
    write_setup,
)
from ondine.logbook.writing import WriteError
from tests.conftest import PAIR

NOON = datetime(2026, 5, 9, 12, 0, tzinfo=UTC)
DOCS = Path(__file__).parents[2] / "docs"


def file_of(**setup: object) -> str:
    return json.dumps({"format": "ondine-setup", "version": 2, "setup": setup})


def test_a_set_up_travels_as_a_file(tmp_path):
    path = tmp_path / "mine.json"
    write_setup(TIDAL_MILL, TAUGHT, path)
    assert read_setup(path) == (TIDAL_MILL, TAUGHT)
    assert read_setup(path)[0].revision == TIDAL_MILL.revision


def test_the_published_schema_is_current_and_accepts_the_example():
    published = json.loads((files("ondine") / "assets" / "schemas" / "setup.schema.json").read_text())
    assert published == setup_schema()
    example = json.loads((DOCS / "examples" / "tidal-mill-setup.json").read_text())
    # Outside reference: the jsonschema package judges the file by the published schema.
    Draft202012Validator(published).validate(example)
    assert read_setup(DOCS / "examples" / "tidal-mill-setup.json") == (TIDAL_MILL, TAUGHT)


def test_unknown_fields_are_kept_on_the_way_through(tmp_path):
    text = file_of(
        name="Theirs",
        lens_hood=True,
        valves=[{"magnet": {"pull_n": 3}}],
        light={"units": [{"power": 0.1}, {"gobo": "leaf"}]},
    )
    setup, belief = parse_setup(text, "theirs.json")
    assert setup.name == "Theirs" and setup.light.units[0].power == 0.1
    changed = put(setup, "valves.0.nozzle_height_m", 0.4)
    write_setup(changed, belief, tmp_path / "again.json")
    written = json.loads((tmp_path / "again.json").read_text())["setup"]
    assert written["lens_hood"] is True and written["valves"][0]["magnet"] == {"pull_n": 3}
    assert written["light"]["units"][1]["gobo"] == "leaf" and written["valves"][0]["nozzle_height_m"] == 0.4


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("{", "not valid JSON"),
        ("[]", "not a set-up"),
        (file_of(rig={"nozzle_height_m": -1}), r"setup\.valves\.0\.nozzle_height_m: .*it is -1"),
        (file_of(rig={"flow_m3_s": 0}), r"setup\.valves\.0\.flow_m3_s"),
        (file_of(valves=[]), r"setup\.valves"),
        (file_of(valves=[{"liquid": {"tint": "red"}}]), r"setup\.valves\.0\.liquid\.tint"),
        (file_of(mix={"glycerine_mass_fraction": 1.5}), r"setup\.mix\.glycerine_mass_fraction"),
        (file_of(mix={"glycerine_mass_fraction": 0.7, "milk_mass_fraction": 0.5}), "make 120 %"),
        (file_of(mix={"temperature_c": 80}), r"setup\.mix\.temperature_c"),
        (file_of(mix={"tint": "reddish"}), r"setup\.mix\.tint"),
        (file_of(light={"units": []}), r"setup\.light\.units"),
        (file_of(light={"units": [{"power": "half"}]}), r"setup\.light\.units\.0\.power"),
        (file_of(box={"counts": "backwards"}), r"setup\.box\.counts"),
        (file_of(triggers={"radio": 3}), r"setup\.triggers\.radio"),
        (file_of(bowl={"landing_m": 0.9}), "fall beside the bowl"),
        (json.dumps({"format": "ondine-recipe", "version": 1, "setup": {}}), "format"),
        ('{"format": "ondine-setup", "version": 2, "setup": {"rig": {"head_m": NaN}}}', "NaN"),
    ],
)
def test_bad_set_up_files_name_the_field(text, says):
    with pytest.raises(SetupFileError, match=says) as caught:
        parse_setup(text, "mine.json")
    assert "mine.json" in str(caught.value)


def test_files_that_cannot_be_read_or_written(tmp_path):
    with pytest.raises(SetupFileError, match="cannot be read"):
        read_setup(tmp_path / "none.json")
    with pytest.raises(WriteError, match="cannot be written"):
        write_setup(Setup(), Belief(), tmp_path / "none" / "mine.json")


def test_a_file_from_before_there_were_places_for_flashes():
    setup, _ = parse_setup(file_of(light={"name": "Unit A", "power": 0.25}), "old.json")
    assert setup.light == Light((Flash("Unit A", power=0.25),))


def test_named_set_ups(logbook):
    low = replace(TIDAL_MILL, name="Low", valves=(replace(TIDAL_MILL.valves[0], nozzle_height_m=0.2),))
    logbook.setups.keep("Tidal Mill", TIDAL_MILL, Belief(), NOON)
    logbook.setups.keep("Low", low, Belief(), NOON + timedelta(minutes=1))
    assert [(k.name, k.setup) for k in logbook.setups.kept()] == [("Low", low), ("Tidal Mill", TIDAL_MILL)]
    # The same name again: the newer one counts, the older revision stays with its shots.
    logbook.setups.keep("Low", TIDAL_MILL, Belief(), NOON + timedelta(minutes=2))
    assert {k.name: k.setup_id for k in logbook.setups.kept()}["Low"] == TIDAL_MILL.revision
    logbook.setups.forget("Low")
    assert [k.name for k in logbook.setups.kept()] == ["Tidal Mill"]


def test_sittings_with_their_particulars(logbook):
    first = logbook.sittings.begin(SittingFacts("Evening", "Mill loft", 18.5, "calm"), NOON)
    logbook.shots.plan(first, Plan(PAIR, TIDAL_MILL), NOON)
    second = logbook.sittings.begin(SittingFacts("Night"), NOON + timedelta(hours=3))
    logbook.sittings.describe(second, SittingFacts("Night", "Cellar", 12.0, "", "Skipped: towel."))
    night, evening = logbook.sittings.all()
    assert (evening.place, evening.temperature_c, evening.note, evening.shots) == ("Mill loft", 18.5, "calm", 1)
    assert (night.place, night.preflight, night.shots) == ("Cellar", "Skipped: towel.", 0)
