import numpy as np
import pytest
from scipy import stats

from ondine.core.belief.learned import Learned
from ondine.core.belief.priors import Belief
from ondine.core.forecast.instant import at_instant
from ondine.core.forecast.whole import forecast
from ondine.core.setup import Setup
from ondine.core.table.lag_series import LagError, lag_between, passing_us, with_lag
from ondine.core.timing.sequence import Pulse, Sequence
from ondine.demo.scenario import TIDAL_MILL


def heights(setup: Setup, pulse: Pulse, time_us: float, jitters: np.ndarray) -> list[float]:
    """Heights of a drop at jittered instants, found by bisection of what the core predicts for a height."""
    found = []
    for jitter in jitters:
        low, high = 1e-4, setup.valves[0].nozzle_height_m - 1e-4
        for _ in range(60):
            middle = (low + high) / 2
            if passing_us(setup, Belief(), pulse, middle) > time_us + jitter * 1e6:
                low = middle
            else:
                high = middle
        found.append((low + high) / 2)
    return found


def test_two_series_give_the_lag_between_two_paths_with_its_error():
    rng = np.random.default_rng(3)
    pulse = Pulse(0, 22_000)
    at = passing_us(TIDAL_MILL, Belief(), pulse, 0.028)
    one = heights(TIDAL_MILL, pulse, at, rng.normal(0, 0.4e-3, 6))
    other = heights(TIDAL_MILL, pulse, at, 3.0e-3 + rng.normal(0, 1.5e-3, 8))
    found = lag_between(one, other, TIDAL_MILL, Belief(), Pulse(0, 22_000))
    assert found.lag_s == pytest.approx(3.0e-3, abs=3 * found.error_s)
    # Welch's standard error, as scipy gives it back from statistic and difference.
    fallen = [[passing_us(TIDAL_MILL, Belief(), pulse, h) for h in series] for series in (one, other)]
    welch = stats.ttest_ind(fallen[1], fallen[0], equal_var=False)
    assert found.error_s == pytest.approx(found.lag_s / welch.statistic, rel=1e-3)
    used = with_lag(TIDAL_MILL.triggers, found)
    assert used.shutter_lag_s == pytest.approx(TIDAL_MILL.triggers.shutter_lag_s + found.lag_s)
    assert used.shutter_jitter_s == pytest.approx(1.5e-3, rel=0.6)


@pytest.mark.parametrize(
    ("one", "other", "says"),
    [
        ([0.01, 0.011], [0.01] * 3, "3 pictures or more"),
        ([0.01, 0.011, 0.5], [0.01] * 3, "under the nozzle"),
        ([0.01, 0.011, 0.0], [0.01] * 3, "not under the nozzle"),
        # A drop of some 4.6 mm across, its centre 2 mm over the water.
        ([0.01, 0.011, 0.012], [0.01, 0.002, 0.01], "touches it already"),
    ],
)
def test_series_that_give_no_lag_say_why(one, other, says):
    with pytest.raises(LagError, match=says):
        lag_between(one, other, TIDAL_MILL, Belief(), Pulse(0, 22_000))
    with pytest.raises(LagError, match="No drop falls"):
        lag_between([0.01] * 3, [0.01] * 3, TIDAL_MILL, Belief(), Pulse(0, 2_000))


def test_what_shots_taught_of_the_drop_is_used():
    quick = {name: np.full(4, prior.mean) for name, prior in Belief().priors.items()}
    quick |= {"outlet_factor": np.full(4, 0.95), "flash_lag_s": np.zeros(4), "jitter_s": np.full(4, 1e-3)}
    taught, pulse = Belief(learned=Learned.of(quick)), Pulse(0, 22_000)
    what = forecast(TIDAL_MILL, taught, Sequence((pulse,), ()))
    passes = passing_us(TIDAL_MILL, taught, pulse, 0.1)
    one, other = (
        [float(at_instant(what, passes + late).drop_height_m[0, 0]) for late in (at, at + 500, at + 1000)]
        for at in (0, 6000)
    )
    assert one[0] == pytest.approx(0.1, abs=1e-3)
    assert lag_between(one, other, TIDAL_MILL, taught, pulse).lag_s == pytest.approx(6e-3, abs=5e-5)
    assert abs(lag_between(one, other, TIDAL_MILL, Belief(), pulse).lag_s - 6e-3) > 2e-4
