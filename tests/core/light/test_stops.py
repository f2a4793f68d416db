"""Series, EV and equivalence against ISO 2720 / APEX, worked values and practice."""

import math
from itertools import pairwise

import pytest

from ondine.core.light.stops import (
    Step,
    apertures,
    power_label,
    powers,
    speeds,
    stops_words,
)


def nominal(label: str) -> float:
    top, _, foot = label.partition("/")
    return float(top) / float(foot or 1)


def test_nominal_stops_lie_near_the_exact_ones():
    # Worst, by arithmetic on the lists: full stop 0.0811 EV, thirds from f/1.4 to f/45 0.0811 EV, ISO 0.0228.
    full = [abs(2 * math.log2(nominal(m.label) / m.value)) for m in apertures(Step.FULL)]
    assert len(full) == 13 and max(full) == pytest.approx(0.0811368, abs=1e-6)
    thirds = [abs(2 * math.log2(nominal(m.label) / m.value)) for m in apertures() if 1.35 < m.value < 46]
    assert max(thirds) <= 0.085
    assert max(abs(math.log2(float(m.label) / m.value)) for m in speeds() if m.value >= 99) <= 0.025


@pytest.mark.parametrize(("series", "factor"), [(apertures(), 2 ** (1 / 6)), (apertures(Step.HALF), 2 ** 0.25),
                                                (speeds(), 2 ** (1 / 3))])  # fmt: skip
def test_every_click_is_the_same_step(series, factor):
    for one, other in pairwise(series):
        assert other.value / one.value == pytest.approx(factor, rel=1e-9)


def test_powers_and_their_labels():
    assert [m.label for m in powers(1 / 4)] == [
        "1", "1/2 + 2/3", "1/2 + 1/3", "1/2", "1/4 + 2/3", "1/4 + 1/3", "1/4"
    ]  # fmt: skip
    assert power_label(1 / 64) == "1/64" and power_label(1 / 64 * 2 ** (1 / 3)) == "1/64 + 1/3"
    assert len(powers(1 / 128)) == 22 and powers(1 / 128, Step.FULL)[-1].value == pytest.approx(1 / 128)


def test_stops_in_words():
    assert [stops_words(x) for x in (0, 1 / 3, -2 / 3, 4 / 3, -2)] == ["0", "+1/3", "−2/3", "+1 1/3", "−2"]
