from dataclasses import replace

import pytest

from ondine.core.physics.liquid import Liquid, mixture
from ondine.core.setup.mix import Mix


def test_water_alone_is_water():
    made = Mix(temperature_c=20.0).liquid()
    # CRC Handbook: water at 20 °C, 998.2 kg/m³, 1.0016 mPa·s, 72.75 mN/m (from memory).
    assert made.density_kg_m3 == pytest.approx(998.2, rel=1e-3)
    assert made.viscosity_pa_s == pytest.approx(1.0016e-3, rel=0.02)
    assert made.surface_tension_n_m == pytest.approx(72.75e-3, rel=0.02)


def test_each_part_is_handed_to_the_formulas_in_its_place():
    mix = Mix(0.30, 0.20, 0.10, 0.001, 6.0, 0.02, temperature_c=15.0)
    assert mix.computed_liquid() == mixture(0.30, 0.20, 0.10, 0.001, 6.0, 0.02, 15.0)


@pytest.mark.parametrize(
    ("field", "of", "value"),
    [
        ("measured_density_kg_m3", "density_kg_m3", 1100.0),
        ("measured_viscosity_pa_s", "viscosity_pa_s", 4e-3),
        ("measured_surface_tension_n_m", "surface_tension_n_m", 0.05),
    ],
)
def test_what_was_measured_wins_and_leaves_the_rest(field, of, value):
    mix = Mix(0.3)
    measured = replace(mix, **{field: value}).liquid()
    assert measured == replace(mix.liquid(), **{of: value})
    assert isinstance(measured, Liquid) and replace(mix, **{field: value}).computed_liquid() == mix.liquid()
