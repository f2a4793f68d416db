"""The rough search and its refinement; what comes of them for whole cards is in test_card_clock."""

import numpy as np
import pytest

from ondine.core.log.camera_clock import DAY_S, Anchor, Work
from ondine.core.log.clock_search import find_clock


def work(shots: np.ndarray, frames: np.ndarray, fractions: bool = True, anchors=()) -> Work:
    numbers = np.arange(len(frames))
    return Work(shots, np.sort(frames), np.arange(len(shots)), numbers, 0 * numbers, fractions, anchors)


@pytest.fixture
def shots() -> np.ndarray:
    rng = np.random.default_rng(8)
    evenings = [np.cumsum(rng.uniform(15, 60, 60)) + n * DAY_S for n in range(4)]
    return np.concatenate(evenings)


@pytest.mark.parametrize(("offset", "drift"), [(0.0, 0.0), (50_000.3, 1.5), (-86_000.0, -2.0), (93_000.0, 0.5)])
def test_offset_and_drift_are_found(shots, offset, drift):
    frames = shots + offset + drift / DAY_S * (shots - shots[0]) + np.random.default_rng(1).normal(0, 0.03, len(shots))
    clock = find_clock(work(shots, frames))
    wanted = offset + drift / DAY_S * (clock.at_s - shots[0])
    assert clock.offset_s == pytest.approx(wanted, abs=0.02) and clock.drift_s_per_day == pytest.approx(drift, abs=0.05)
    assert clock.weight > 0.999 and clock.sd_s == pytest.approx(0.05, abs=0.01)


def test_frames_that_scatter_are_said_to(shots):
    frames = shots + 100 + np.random.default_rng(1).normal(0, 0.8, len(shots))
    assert find_clock(work(shots, frames)).sd_s == pytest.approx(0.8, rel=0.2)


def test_an_offset_beyond_a_day_and_a_zone_is_not_sought(shots):
    clock = find_clock(work(shots, shots + 3.5 * DAY_S))
    assert clock is None or abs(clock.offset_s) < 27 * 3600


def test_an_anchor_keeps_the_search_near_itself():
    regular = np.arange(50) * 30.0
    for number in (-2, 0, 3):
        anchored = find_clock(work(regular, regular + 500.0, anchors=(Anchor(500.0 + 30 * number, 0.0),)))
        assert anchored.offset_s == pytest.approx(500.0 + 30 * number, abs=0.3)
