"""The forecast as a whole: against integrated trajectories, and against the facts of the trade."""

from dataclasses import replace

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from ondine.core.belief.priors import Belief, Prior, Variation
from ondine.core.belief.rigs import sample_rigs
from ondine.core.constants import STANDARD_GRAVITY_M_S2 as G
from ondine.core.forecast.curves import crater_curves, fall_curves, jet_curves
from ondine.core.forecast.events import EventKind, events
from ondine.core.forecast.shapes import shape_probabilities
from ondine.core.forecast.train import On
from ondine.core.forecast.whole import forecast, same_drops
from ondine.core.setup import Setup, Valve
from ondine.core.setup.fields import put
from ondine.core.timing.sequence import Pulse, Sequence
from ondine.demo.scenario import START, TIDAL_MILL
from tests.calibrated import TAUGHT

ONE = Sequence.with_one_flash((Pulse(0, 20_000),), 300_000)
CERTAIN = Belief(**{name: Prior(prior.mean, 0.0) for name, prior in Belief().priors.items()}, variation=Variation(0.0))


def mean_time_ms(setup: Setup, sequence: Sequence, kind: EventKind, belief: Belief = Belief()) -> float:
    return next(e.time_s.mean * 1e3 for e in events(forecast(setup, belief, sequence)) if e.kind == kind)


def test_fall_times_of_sampled_rigs_agree_with_solve_ivp():
    setup = Setup()
    rigs = sample_rigs(Belief(), 40)
    falls = forecast(setup, Belief(), ONE, rigs).falls
    for i in range(rigs.count):
        terminal, start, height = falls.terminal_m_s[0, i], falls.start_m_s[0, i], falls.height_m[0, i]

        def law(_t: float, s: np.ndarray, terminal: float = terminal) -> list[float]:
            return [s[1], G * (1 - (s[1] / terminal) ** 2)]

        def lands(_t: float, s: np.ndarray, height: float = height) -> float:
            return float(s[0] - height)

        lands.terminal = True
        solved = solve_ivp(law, (0, 1), [0.0, start], events=lands, rtol=1e-8)
        assert falls.touchdown_s[0, i] - falls.release_s[0, i] == pytest.approx(solved.t[-1], abs=0.2e-3)


@pytest.mark.parametrize(("height_m", "low", "high"), [(0.15, 130, 200), (0.45, 240, 320)])
def test_touchdown_fits_practice(height_m, low, high):
    # Common practice, no published source: flash 210-220 ms after the first opening on a low rig, 320-350 ms on a
    # 40-50 cm rig; touchdown comes before that.
    setup = Setup(valves=(Valve(nozzle_height_m=height_m),))
    assert low < mean_time_ms(setup, ONE, EventKind.TOUCHDOWN) < high


@pytest.mark.parametrize("height_m", [0.25, 0.365, 0.45])
def test_collisions_of_practice_are_predicted(height_m):
    # Common practice, no published source: 75-125 ms from opening to opening; collisions 60-115 ms after touchdown.
    setup = Setup(valves=(Valve(nozzle_height_m=height_m),))
    met = []
    for interval in range(75_000, 126_000, 5_000):
        found = forecast(setup, CERTAIN, Sequence.with_one_flash((Pulse(0, 20_000), Pulse(interval, 20_000)), 300_000))
        when = found.meetings.time_s[1, 0] - found.falls.touchdown_s[0, 0]
        if np.isfinite(when):
            met.append(when * 1e3)
    assert len(met) >= 8
    assert min(met) > 55 and max(met) < 125


@pytest.mark.parametrize("height_m", [0.365, 0.45])
def test_an_untaught_jet_tops_out_when_those_of_practice_do(height_m):
    # Common practice, no published source: some 70 to 100 ms after touchdown; not yet sinking at 60, over by 140.
    what = forecast(Setup(valves=(Valve(nozzle_height_m=height_m),)), Belief(), ONE)
    touchdown, top = (
        next(e for e in events(what) if e.kind == kind).time_s.mean for kind in (EventKind.TOUCHDOWN, EventKind.JET_TOP)
    )
    assert 0.06 < top - touchdown < 0.14


def test_a_higher_nozzle_asks_for_a_later_flash():
    # Common practice, no published source.
    times = [
        mean_time_ms(Setup(valves=(Valve(nozzle_height_m=h),)), ONE, EventKind.TOUCHDOWN) for h in (0.2, 0.3, 0.4, 0.5)
    ]
    assert times == sorted(times)


def test_drops_too_close_leave_as_one_with_all_their_water():
    close = forecast(Setup(), CERTAIN, Sequence.with_one_flash((Pulse(0, 20_000), Pulse(25_000, 20_000)), 300_000))
    apart = forecast(Setup(), CERTAIN, ONE)
    assert close.falls.merged[1].all()
    assert np.isnan(close.falls.touchdown_s[1]).all()
    assert close.falls.diameter_m[0, 0] == pytest.approx(2 ** (1 / 3) * apart.falls.diameter_m[0, 0])
    assert "merged-drop" in shape_probabilities(close, 330_000)


def test_a_pulse_that_lets_nothing_out_makes_no_events():
    nothing = forecast(Setup(), Belief(), Sequence.with_one_flash((Pulse(0, 1_000),), 300_000))
    assert events(nothing) == []
    assert shape_probabilities(nothing, 300_000) == {"nothing-in-frame": 1.0}
    assert fall_curves(nothing) == [] and jet_curves(nothing) == [] and crater_curves(nothing) == []


def test_spread_grows_with_the_priors(setup, sequence):
    vague, sharp = forecast(Setup(), Belief(), sequence), forecast(setup, TAUGHT, sequence)
    spreads = [
        next(e.time_s.sd for e in events(f) if e.kind == EventKind.MEETING and e.drop == 2) for f in (vague, sharp)
    ]
    assert spreads[0] > 3 * spreads[1] > 0


def test_sampling_agrees_with_linear_propagation_of_the_fall():
    # An independent path to the same spread: numeric derivatives times the priors' deviations.
    belief = replace(CERTAIN, lag_s=Prior(8e-3, 2e-3), momentum_factor=Prior(1.0, 0.05))
    sampled = next(e for e in events(forecast(Setup(), belief, ONE)) if e.kind == EventKind.TOUCHDOWN).time_s.sd

    def touchdown(lag: float, speed: float) -> float:
        belief = replace(CERTAIN, lag_s=Prior(lag, 0), momentum_factor=Prior(speed, 0))
        return float(forecast(Setup(), belief, ONE).falls.touchdown_s[0, 0])

    by_lag = (touchdown(9e-3, 1.0) - touchdown(7e-3, 1.0)) / 2e-3
    by_speed = (touchdown(8e-3, 1.01) - touchdown(8e-3, 0.99)) / 0.02
    assert sampled == pytest.approx(np.hypot(by_lag * 2e-3, by_speed * 0.05), rel=0.08)


def test_camera_light_and_bowl_are_felt_by_no_drop():
    for path, value in (
        ("camera.magnification", 0.3),
        ("light.units.0.power", 0.1),
        ("bowl.depth_m", 0.06),
        ("name", "x"),
    ):
        assert same_drops(TIDAL_MILL, put(TIDAL_MILL, path, value))
        one, other = forecast(TIDAL_MILL, TAUGHT, START), forecast(put(TIDAL_MILL, path, value), TAUGHT, START)
        assert np.array_equal(one.falls.touchdown_s, other.falls.touchdown_s, equal_nan=True)
    for path, value in (("valves.0.nozzle_height_m", 0.3), ("mix.temperature_c", 30.0)):
        assert not same_drops(TIDAL_MILL, put(TIDAL_MILL, path, value))


def test_a_chain_of_merging_drops_is_one_drop_with_the_water_of_all():
    chain = Sequence.with_one_flash((Pulse(0, 20_000), Pulse(25_000, 20_000), Pulse(50_000, 20_000)), 300_000)
    what, alone = forecast(Setup(), CERTAIN, chain), forecast(Setup(), CERTAIN, ONE)
    assert what.falls.merged[1:].all() and not what.falls.merged[0].any()
    assert what.falls.diameter_m[0, 0] == pytest.approx(3 ** (1 / 3) * alone.falls.diameter_m[0, 0])
    assert np.isnan(what.falls.diameter_m[1:]).all()


def test_a_jet_that_one_drop_has_met_is_met_by_no_other():
    setup, tall = Setup(), replace(CERTAIN, jet_slowing_factor=Prior(1.1, 0.0))
    pair = forecast(setup, tall, Sequence.with_one_flash((Pulse(0, 20_000), Pulse(95_000, 20_000)), 300_000))
    met, life = float(pair.meetings.time_s[1, 0]), float(pair.meetings.sheet_life_s[1, 0])
    # Alone with the first drop, this third one would meet the jet; it comes when the second's sheet is gone.
    late = Pulse(95_000 + round(life * 3e6) + 21_000, 20_000)
    alone = forecast(setup, tall, Sequence.with_one_flash((Pulse(0, 20_000), late), 300_000))
    assert np.isfinite(alone.meetings.time_s[1, 0]) and alone.meetings.time_s[1, 0] > met + life
    trio = forecast(setup, tall, Sequence.with_one_flash((Pulse(0, 20_000), Pulse(95_000, 20_000), late), 300_000))
    assert trio.meetings.time_s[1, 0] == met and trio.meetings.on[2, 0] != On.JET
    assert trio.splashes.ends_s[0, 0] == met
