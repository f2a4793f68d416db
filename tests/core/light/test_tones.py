import numpy as np
import pytest

from ondine.core.light.anchor import BLACK, BLOWN
from ondine.core.light.tones import linear, rating_of, tones


def test_the_tone_curve_is_srgb():
    # IEC 61966-2-1, through colour-science.
    import colour

    coded = np.linspace(0, 1, 33)
    assert np.allclose(linear(coded), colour.models.eotf_sRGB(coded), atol=1e-9)


def test_a_region_is_rated_in_stops():
    grey = np.full((40, 60, 3), 118, np.uint8)
    read = tones(grey)
    # sRGB 118 is 18 % grey.
    assert read.median == pytest.approx(0.18, rel=0.02) and read.histogram.sum() == pytest.approx(1)
    assert rating_of(read, 0.18).low == pytest.approx(0, abs=0.05)
    assert rating_of(read, 0.36).low == pytest.approx(-1, abs=0.05)
    assert rating_of(tones(np.zeros((4, 4, 3), np.uint8)), 0.25) == BLACK
    assert rating_of(tones(np.full((4, 4, 3), 255, np.uint8)), 0.25) == BLOWN
    with pytest.raises(ValueError, match="Drag a larger one"):
        tones(np.zeros((0, 4, 3), np.uint8))
