import pytest

from ondine.core.light.ambient import allowed_lux, ambient_stops, continuous_lux, longest_exposure_s, verdict
from ondine.core.setup import Camera


def test_the_room_against_the_flash():
    assert ambient_stops(0.01, 0.5, 0.64, 0.5) == pytest.approx(-6)
    assert ambient_stops(0.01, 0.5, 0.64, 0.25) == pytest.approx(-7)
    assert longest_exposure_s(-7, 0.25) == pytest.approx(0.5)
    assert "Dark enough" in verdict(-6.5, 0.5) and "will ghost" in verdict(-3, 0.5)
    # ISO 2720, C 250: f/16, 1 s, ISO 100 is right at 640 lx; six stops less is 10 lx.
    assert allowed_lux(Camera(f_number=16, iso=100, exposure_s=1.0)) == pytest.approx(10.0)
    assert continuous_lux(8, 1 / 4000, 400) == pytest.approx(160_000)
