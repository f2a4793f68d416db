import numpy as np
import pytest

from ondine.core.belief.priors import Belief, Prior, Variation
from ondine.core.forecast.instant import at_instant
from ondine.core.forecast.whole import forecast
from ondine.core.setup import Setup
from ondine.core.timing.sequence import Pulse, Sequence

ONE = Sequence.with_one_flash((Pulse(0, 20_000),), 300_000)


CERTAIN = Belief(**{name: Prior(prior.mean, 0.0) for name, prior in Belief().priors.items()}, variation=Variation(0.0))


def test_ten_milliseconds_later_the_jet_is_visibly_higher():
    # Common practice, no published source; until the top.
    what = forecast(Setup(), CERTAIN, ONE)
    start = round(what.splashes.jet_s[0, 0] * 1e6)
    tips = [float(at_instant(what, start + d).jet_tip_m[0, 0]) for d in (10_000, 20_000, 30_000)]
    assert tips[1] - tips[0] > 4e-3 and tips[2] - tips[1] > 3e-3


def test_25_ms_after_a_collision_the_sheet_is_gone(setup, sequence):
    # Common practice, no published source.
    what = forecast(setup, CERTAIN, sequence)
    met = what.meetings.time_s[1, 0]
    now = at_instant(what, round((met + 0.025) * 1e6))
    assert now.sheet_radius_m[1, 0] == 0


def test_a_crown_stands_from_touchdown_to_its_end_and_no_longer():
    what = forecast(Setup(), CERTAIN, ONE)
    touchdown, end = float(what.falls.touchdown_s[0, 0]), float(what.splashes.crown_end_s[0, 0])
    shares = [
        float(at_instant(what, round((touchdown + share * (end - touchdown)) * 1e6)).crown_share[0, 0])
        for share in (-0.1, 0.25, 0.75, 1.1, 1.9)
    ]
    assert shares == pytest.approx([np.nan, 0.25, 0.75, np.nan, np.nan], abs=1e-3, nan_ok=True)
