"""The built-in population: as wide as practice, the same each time, and not the predictor's."""

import numpy as np
import pytest

from ondine.bench.simulated.population import make_rig
from ondine.core.forecast.shapes import BY_KEY
from ondine.core.timing.sequence import Pulse, Sequence


def test_a_rig_is_the_same_each_time_and_its_shots_are_not():
    one, again, other = make_rig(4), make_rig(4), make_rig(5)
    assert one.setup == again.setup != other.setup
    known = one.events_s(one.start)
    at = [one.start.with_flash(0, int((known["sheet widest"] + off) * 1e6)) for off in np.linspace(-4e-3, 4e-3, 9)]
    shown = [one.fire(sequence) for sequence in at]
    assert shown == [again.fire(sequence) for sequence in at]
    # Jitter: the same timing does not always show the same.
    assert len({one.fire(at[2]) for _ in range(12)}) > 1
    assert set(shown) <= set(BY_KEY)


def test_the_population_is_as_wide_as_practice():
    rigs = [make_rig(seed) for seed in range(60)]
    heights = [rig.setup.nozzle_height_m for rig in rigs]
    assert min(heights) < 0.2 and max(heights) > 0.55
    sizes = [rig.start.drops[0].open_us for rig in rigs]
    assert min(sizes) < 18_000 and max(sizes) > 32_000
    for name, low, high in (
        ("valve_lag_s", 1e-3, 21e-3),
        ("outlet_m", 1.5e-3, 2.75e-3),
        ("flash_lag_s", 0.0, 0.12),
        ("jet_exponent", 0.40, 0.56),
    ):
        values = [getattr(rig.hidden, name) for rig in rigs]
        assert low <= min(values) < low + 0.15 * (high - low) and high >= max(values) > high - 0.15 * (high - low), name
    off = [rig.hidden.height_offset_m for rig in rigs]
    assert np.std(off) == pytest.approx(5e-3, rel=0.3)
    flows = [rig.hidden.discharge_m3_s_sqrt_m * 0.12**0.5 / rig.setup.valves[0].flow_m3_s for rig in rigs]
    assert 0.8 < min(flows) < 0.87 and 1.15 < max(flows) < 1.21
    mixes = [rig.setup.mix for rig in rigs]
    assert max(mix.glycerine_mass_fraction for mix in mixes) > 0.3 and any(mix.milk_mass_fraction for mix in mixes)
    assert {rig.jitter_s for rig in rigs} == {1.5e-3}


def test_what_is_entered_says_nothing_of_the_lag_of_the_light():
    late = [make_rig(seed) for seed in range(40)]
    assert all(rig.setup.triggers == late[0].setup.triggers for rig in late)


def test_each_rig_can_show_a_full_umbrella():
    for seed in (8, 17, 20, 24):  # the weakest of them
        rig = make_rig(seed)
        size = rig.start.drops[0].open_us
        pair = Sequence.with_one_flash((Pulse(0, size), Pulse(size + 60_000, size)), 0)
        widest = rig.events_s(pair)["sheet widest"]
        shown = [rig.fire(pair.with_flash(0, int((widest + off) * 1e6))) for off in np.linspace(-1e-3, 1e-3, 8)]
        assert "full-umbrella" in shown


def test_a_jet_has_a_height_while_it_stands():
    rig = make_rig(3)
    known = rig.events_s(rig.start)
    single = Sequence.with_one_flash(rig.start.drops[:1], int((known["jet leaves the surface"] + 0.02) * 1e6))
    assert 0.003 < rig.jet_height_m(single) < 0.2
    assert rig.jet_height_m(single.with_flash(0, 1_000)) is None
