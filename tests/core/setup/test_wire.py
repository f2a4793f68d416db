from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ondine.core.setup import Setup, Valve
from ondine.core.setup.light import DurationPoint, Flash, FlashKind, Light, Measure
from ondine.core.setup.triggers import FlashFiredBy, Triggers
from ondine.core.setup.wire import setup_from_dict, setup_from_json
from ondine.demo.scenario import TIDAL_MILL


@given(st.floats(0.02, 3, allow_nan=False), st.text(max_size=20))
def test_a_setup_survives_its_json(height, name):
    setup = Setup(name=name, valves=(Valve(nozzle_height_m=height),))
    assert setup_from_json(setup.to_json()) == setup


@pytest.mark.parametrize("kind", [FlashKind.CUT_OFF, FlashKind.VOLTAGE])
def test_lists_choices_and_what_is_not_known_come_back_as_they_were(kind):
    unit = Flash("A", kind=kind, durations=(DurationPoint(1.0, 1e-3, Measure.TENTH),))
    setup = replace(
        TIDAL_MILL, light=Light((unit, Flash("B"))), mix=replace(TIDAL_MILL.mix, measured_density_kg_m3=None)
    )
    back = setup_from_json(setup.to_json())
    assert back == setup and isinstance(back.light.units[0].kind, FlashKind)
    assert isinstance(back.light.units, tuple) and isinstance(back.light.units[0].durations[0].measure, Measure)


def test_left_out_parts_take_their_defaults():
    assert setup_from_dict({"name": "Bare", "rig": {"nozzle_height_m": 0.5}}) == Setup(
        "Bare", valves=(Valve(nozzle_height_m=0.5),)
    )


def test_a_set_up_of_the_first_version_had_one_flash_and_another_word_for_who_fires_it():
    old = {
        "light": {"name": "Old unit", "power": 0.125},
        "triggers": {"school": "camera fires the flash", "radio": True},
    }
    made = setup_from_dict(old)
    assert made.light == Light((Flash("Old unit", 0.125),))
    assert made.triggers == Triggers(flash_fired_by=FlashFiredBy.CAMERA, radio=True)
    # What is read is not written into.
    assert old["light"] == {"name": "Old unit", "power": 0.125}
