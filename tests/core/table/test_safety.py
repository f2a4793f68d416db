from dataclasses import replace

import pytest

from ondine.core.setup import BenchKind, Box, Method, Mix
from ondine.core.setup.fields import read
from ondine.core.table.safety import LOCAL_RULES, cautions, preflight, wet_work
from ondine.demo.scenario import TIDAL_MILL


@pytest.mark.parametrize("method", list(Method))
def test_cautions_are_there_for_every_method(method):
    setup = replace(TIDAL_MILL, method=method, mix=Mix(milk_mass_fraction=0.1, dye_mass_fraction=0.01))
    said = " ".join(f"{c.title} {c.does}" for c in cautions(setup))
    for wanted in ("Residual-current", "capacitor", "photosensitive", "Wet floor", "spoils", "stains"):
        assert wanted in said
    if method in (Method.OBJECT, Method.SOUND):
        assert "nobody in line" in said.lower() and any("Eye protection" in item for item in wet_work(method))
    assert "licensed" in LOCAL_RULES and len(wet_work(method)) > 5


def test_the_look_around_knows_who_fires():
    assert "Controller and camera connected" in preflight(TIDAL_MILL, BenchKind.CABLE)
    assert "Box at hand, its dials read" in preflight(replace(TIDAL_MILL, box=Box(in_use=True)), BenchKind.BY_HAND)
    assert "Bag, syringe or tap at hand, camera switched on" in preflight(TIDAL_MILL, BenchKind.BY_HAND)
    assert read(TIDAL_MILL, "light.units.1.name") == "Unit B"
