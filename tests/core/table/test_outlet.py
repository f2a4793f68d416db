"""What is said of an outlet: the regimes by hand, contradictions, and no nonsense from odd figures."""

from dataclasses import replace

import numpy as np
import pytest

from ondine.core.belief.priors import Belief
from ondine.core.forecast.events import events
from ondine.core.forecast.whole import forecast
from ondine.core.setup import Setup, Valve
from ondine.core.table.outlet import assumed_outlet_m, outlet_words
from ondine.core.timing.sequence import Pulse, Sequence

PAIR = Sequence((Pulse(0, 20_000), Pulse(85_000, 20_000)), ())


def words(open_us: int = 20_000, **valve: float) -> str:
    return outlet_words(Setup(valves=(Valve(**valve),)), Belief(), 0, open_us)


def test_what_nobody_measured_is_said_as_such():
    assert words().startswith("Not measured: drops leave it at 0.0 to 1.")
    assert assumed_outlet_m(Valve(orifice_diameter_m=2e-3), Belief()) == pytest.approx(2.3e-3)


def test_a_measured_outlet_jets_or_drips():
    # By hand: 1.02 m/s through 1.8 mm leave 0.74 to 0.86 m/s, give or take the flow; 3.6 mm drip.
    low, high = (float(word) for word in words(outlet_diameter_m=1.8e-3).split() if word.replace(".", "").isdigit())
    assert 0.3 < low < 0.86 < high < 1.4
    assert words(outlet_diameter_m=3.9e-3, open_us=45_000) == "So wide an outlet drips: drops let go nearly at rest."


@pytest.mark.parametrize(
    ("says", "valve"),
    [
        # 2.6 µL/ms through 0.2 mm are 83 m/s: 349 m of water (Torricelli).
        ("would need a head of 349 m", {"outlet_diameter_m": 0.2e-3}),
        ("hangs at an outlet of 10.0 mm: it takes about 14", {"outlet_diameter_m": 10e-3}),
    ],
)
def test_what_cannot_be_is_a_sentence(says, valve):
    assert says in words(**valve)


@pytest.mark.parametrize("outlet_m", [0.2e-3, 1.0e-3, 1.8e-3, 4e-3, 10e-3])
@pytest.mark.parametrize("flow_m3_s", [0.02e-6, 2.6e-6, 100e-6])
@pytest.mark.parametrize("height_m", [0.02, 0.3])
def test_odd_outlets_flows_and_heights_are_foreseen_without_a_nan(outlet_m, flow_m3_s, height_m):
    valve = Valve(outlet_diameter_m=outlet_m, flow_m3_s=flow_m3_s, nozzle_height_m=height_m)
    what = forecast(Setup(valves=(valve,)), Belief(), PAIR)
    for event in events(what):
        for spread in (event.time_s, event.height_m, event.speed_m_s, event.size_m):
            assert spread is None or (np.isfinite(spread.mean) and np.isfinite(spread.sd))
    assert outlet_words(what.setup, Belief(), 0, 20_000)


def test_an_outlet_that_contradicts_the_flow_counts_as_not_measured():
    wrong, none = (Setup(valves=(Valve(outlet_diameter_m=outlet),)) for outlet in (0.2e-3, None))
    one, other = (forecast(setup, Belief(), PAIR).falls.touchdown_s for setup in (wrong, none))
    assert np.array_equal(one, other)


def test_a_ruler_narrows_when_the_drops_land():
    measured, none = (Setup(valves=(Valve(outlet_diameter_m=outlet),)) for outlet in (2.0e-3, None))
    spreads = [forecast(setup, Belief(), PAIR).falls.touchdown_s[0].std() for setup in (measured, none)]
    assert spreads[0] < 0.75 * spreads[1]
    # So does a flow that was weighed.
    weighed = replace(Belief(), flow_factor=replace(Belief().flow_factor, sd=0.01))
    assert forecast(measured, weighed, PAIR).falls.touchdown_s[0].std() < spreads[0]


def test_no_drop_leaves_an_outlet_that_nobody_measured_faster_than_the_head_drives_it():
    # Torricelli: √(2g·20 mm) is 0.63 m/s.
    even = replace(Belief(), momentum_factor=replace(Belief().momentum_factor, sd=0.0))
    falls = forecast(Setup(valves=(Valve(head_m=0.02),)), even, PAIR).falls
    assert 0 < falls.start_m_s.max() <= (2 * 9.80665 * 0.02) ** 0.5
