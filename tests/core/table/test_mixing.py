"""Milk, gum and batches. Pure water and glycerine-water: test_liquid.py."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ondine.core.belief.priors import Belief
from ondine.core.physics.liquid import gum_power_law, mixture, opacity
from ondine.core.setup import Bowl, Mix, Setup, Valve
from ondine.core.table.mixing import (
    LIBRARY,
    blended,
    bowl_share,
    cautions_of,
    effect,
    glycerine_for_viscosity,
    grams,
    hydrated_share,
)
from ondine.core.timing.sequence import Pulse, Sequence

PAIR = Sequence.with_one_flash((Pulse(0, 22_000), Pulse(95_000, 22_000)), 356_000)


def test_whole_milk():
    # Handbook values at 20 °C, from memory: 1030 kg/m3, 2.0 mPa·s, 45 to 50 mN/m.
    milk = mixture(0, 1, 0, 0, 0, 0, 20)
    assert milk.density_kg_m3 == pytest.approx(1030, rel=0.01)
    assert milk.viscosity_pa_s == pytest.approx(2.0e-3, rel=0.05)
    assert 45e-3 <= milk.surface_tension_n_m <= 50e-3


def test_milk_against_choi_and_okos():
    # Choi & Okos 1986 through CoolProp; real milk is 0.6 % denser than that model.
    from CoolProp.CoolProp import PropsSI

    parts = {"Water": 0.878, "Fat": 0.033, "Protein": 0.033, "Carbohydrate": 0.048, "Ash": 0.007}
    volume = sum(w / PropsSI("D", "T", 293.15, "P", 101325, f"INCOMP::Food{k}") for k, w in parts.items())
    assert mixture(0, 1, 0, 0, 0, 0, 20).density_kg_m3 == pytest.approx(sum(parts.values()) / volume, rel=0.01)


def test_cream_floats_on_milk():
    # Handbook values at 20 °C, from memory: cream of 30 % fat 990 to 1000 kg/m3, lighter than water and milk.
    cream = mixture(0, 0, 1, 0, 0, 0, 20)
    assert cream.density_kg_m3 == pytest.approx(995, abs=5)
    # Volumes add: half and half by mass is the harmonic mean.
    half = mixture(0, 0.5, 0.5, 0, 0, 0, 20).density_kg_m3
    assert half == pytest.approx(2 / (1 / 1030 + 1 / 995), rel=1e-3)


def test_a_little_milk_clouds_but_hardly_thickens():
    # Common practice, no published source: a little milk allows far less light, the drops behave as before.
    thin = mixture(0, 0.05, 0, 0, 0, 0, 20)
    assert thin.viscosity_pa_s < 1.06 * mixture(0, 0, 0, 0, 0, 0, 20).viscosity_pa_s
    assert opacity(4.5e-3, 0.05, 0) > 0.3
    assert opacity(4.5e-3, 0, 0) == 0


def test_gum_thins_under_shear_and_hydrates_slowly():
    consistency, index = gum_power_law(0.001, 24)
    # Round literature values for xanthan at 0.1 %, from memory: K 0.05 Pa·s^n, n 0.55; low confidence.
    assert consistency == pytest.approx(0.05, rel=0.4) and index == pytest.approx(0.55, rel=0.4)
    young, old = mixture(0, 0, 0, 0.001, 0.5, 0, 20), mixture(0, 0, 0, 0.001, 24, 0, 20)
    assert young.viscosity_pa_s < old.viscosity_pa_s
    assert hydrated_share(0.5) < 0.5 < hydrated_share(12)


@given(st.floats(0.001, 0.9), st.floats(0, 40))
def test_a_viscosity_is_reached_by_the_share_that_was_found(share, temperature):
    wanted = mixture(share, 0, 0, 0, 0, 0, temperature).viscosity_pa_s
    found = glycerine_for_viscosity(wanted, temperature)
    assert mixture(found, 0, 0, 0, 0, 0, temperature).viscosity_pa_s == pytest.approx(wanted, rel=1e-6)


def test_a_viscosity_out_of_reach_says_what_is_in_reach():
    with pytest.raises(ValueError, match="glycerine and water reach"):
        glycerine_for_viscosity(0.5e-3, 20)


@given(st.floats(0, 0.5), st.floats(0, 0.3), st.floats(0, 0.1), st.floats(1, 5000))
def test_the_grams_of_a_batch_add_up(glycerine, milk, cream, batch):
    made = grams(Mix(glycerine_mass_fraction=glycerine, milk_mass_fraction=milk, cream_mass_fraction=cream), batch)
    assert sum(made.values()) == pytest.approx(batch, rel=1e-9)
    assert all(g >= 0 for g in made.values())


def test_more_than_all_of_it_cannot_be_mixed():
    with pytest.raises(ValueError, match="make 120 %"):
        Mix(glycerine_mass_fraction=0.7, milk_mass_fraction=0.5).liquid()


def test_measured_values_win():
    mix = Mix(glycerine_mass_fraction=0.4, measured_viscosity_pa_s=9e-3, measured_surface_tension_n_m=40e-3)
    liquid = mix.liquid()
    assert liquid.viscosity_pa_s == 9e-3 and liquid.surface_tension_n_m == 40e-3
    assert liquid.density_kg_m3 == pytest.approx(1099, rel=0.002)


def test_what_a_mix_does_compared_with_water():
    plain = effect(Setup(), Belief(), PAIR)
    assert plain.jet_height == pytest.approx(1) and plain.sheet_width == pytest.approx(1)
    thick = effect(Setup(mix=Mix(glycerine_mass_fraction=0.6)), Belief(), PAIR)
    # Common practice, no published source: thick liquid gives lower jets.
    assert thick.jet_height < 0.8
    milky = effect(Setup(mix=LIBRARY["Whole milk"]), Belief(), PAIR)
    # A sheet is some milliseconds old: hardly any of the milk has come to its faces yet.
    assert 1.02 < milky.sheet_width < 1.08 and milky.opacity > 0.9


def test_a_drop_too_weak_for_a_jet_is_said_and_any_other_is_not():
    assert effect(Setup(), Belief(), PAIR).lacks == ""
    # A drip that falls 2 cm: We = ρDU²/σ is some 35, under the 64 of Hsiao, Lichter & Quintero 1988 (from memory).
    low = Setup(valves=(Valve(nozzle_height_m=0.022, outlet_diameter_m=4e-3),))
    assert "too weakly" in effect(low, Belief(), PAIR).lacks


def test_the_bowl_takes_on_the_colour_of_the_drops():
    bowl = Bowl(diameter_m=0.26, depth_m=0.045)
    assert bowl_share(bowl, 0.0) == 0
    # 48 drops of 50 µL into 2.4 litres: a thousandth.
    assert bowl_share(bowl, 48 * 50e-9) == pytest.approx(0.001, rel=0.01)
    assert blended("#2f6b57", "#8c1c3a", 0.0) == "#2f6b57"
    assert blended("#2f6b57", "#8c1c3a", 1.0) == "#8c1c3a"


def test_what_wants_watching_is_said():
    assert any("overnight" in says for says in cautions_of(Mix(gum_mass_fraction=0.001, gum_stood_h=1)))
    assert any("spoils" in says for says in cautions_of(LIBRARY["Milk 5 %"]))
    assert any("stains" in says for says in cautions_of(Mix(dye_mass_fraction=0.01)))
    assert cautions_of(Mix()) == ()
