import pytest

from ondine.core.setup.fields import put
from ondine.demo.scenario import TIDAL_MILL
from ondine.picture.lamps import lamps_of


def test_lamps_follow_power_distance_place_and_gel():
    season = lamps_of(TIDAL_MILL)
    assert (season.behind, season.side) == (pytest.approx(1, abs=2e-3), pytest.approx(1, abs=2e-3))
    twice = lamps_of(put(TIDAL_MILL, "light.units.0.power", 1 / 32))
    assert twice.behind == pytest.approx(2 * season.behind) and twice.side == season.side
    far = lamps_of(put(TIDAL_MILL, "light.units.1.aside_m", 0.70))
    assert far.side < 0.4
    warm = lamps_of(put(TIDAL_MILL, "light.units.0.gel_mired", 131.0))
    assert warm.gains[0] > 1 > warm.gains[2]
