"""The bound on what chance gives, against chance itself."""

import numpy as np
import pytest

from ondine.core.log.camera_clock import Clock, Work
from ondine.core.log.chance import log_chance


def work(shots: np.ndarray, frames: np.ndarray) -> Work:
    places = np.arange(len(frames))
    return Work(np.sort(shots), np.sort(frames), np.arange(len(shots)), places, 0 * places, True)


def best_of(rng: np.random.Generator, half_s: float) -> tuple[Work, Clock, np.ndarray]:
    """Strew 24 frames among 24 shots of an hour, and return the clock that has the most of them within reach."""
    shots, frames = np.sort(rng.uniform(0, 3600, (2, 24)))
    apart = np.sort((frames[:, None] - shots[None, :]).ravel())
    counts = np.searchsorted(apart, apart + 2 * half_s, side="right") - np.arange(len(apart))
    first = int(np.argmax(counts))
    own = apart[first : first + counts[first]]
    middle = (own[0] + own[-1]) / 2
    return work(shots, frames), Clock(float(middle)), own - middle


@pytest.mark.parametrize("half_s", [0.3, 1.0, 3.0])
def test_chance_is_below_one_in_a_thousand_no_more_often_than_that(half_s):
    rng = np.random.default_rng(4)
    bounds = np.array([log_chance(*best_of(rng, half_s), 7200.0) for _ in range(400)])
    assert (bounds < np.log(1e-3)).sum() <= 1
    assert np.median(bounds) > np.log(0.05)


def test_what_agrees_is_beyond_chance():
    shots = np.cumsum(np.random.default_rng(1).uniform(10, 60, 12))
    late = np.random.default_rng(2).normal(0, 0.05, 12)
    assert log_chance(work(shots, shots + 50 + late), Clock(50.0), late, 187_200.0) < np.log(1e-7)


def test_nothing_is_no_more_than_chance():
    assert log_chance(work(np.arange(3.0), np.arange(3.0)), Clock(0.0), np.empty(0), 10.0) == 0.0


def test_more_tries_make_chance_likelier():
    shots = np.cumsum(np.random.default_rng(1).uniform(10, 60, 6))
    late = np.full(6, 0.1)
    tried = work(shots, shots + 50.1)
    assert log_chance(tried, Clock(50.0), late, 187_200.0) > log_chance(tried, Clock(50.0), late, 20.0)
