"""Hits, frames and drift against scipy.stats."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from ondine.core.coach.repeating import (
    at_least,
    drift,
    frames_needed,
    jitter_behind,
    steadiness,
    steady_words,
    wilson,
)
from ondine.core.timing.latency import hit_share


@pytest.mark.parametrize(
    ("hits", "shots", "low", "high"),
    [  # scipy.stats.binomtest(k, n).proportion_ci(method='wilson')
        (7, 20, 0.181192, 0.567146),
        (1, 24, 0.007393, 0.202418),
        (0, 10, 0.0, 0.277533),
        (19, 20, 0.763869, 0.991119),
    ],
)
def test_wilson_intervals_of_the_handbook(hits, shots, low, high):
    found = wilson(hits, shots)
    assert (found.low, found.high) == pytest.approx((low, high), abs=1e-6)


@given(st.integers(1, 400).flatmap(lambda n: st.tuples(st.integers(0, n), st.just(n))), st.sampled_from([0.9, 0.95]))
def test_wilson_intervals_are_scipys(counts, confidence):
    hits, shots = counts
    found = wilson(hits, shots, confidence)
    other = stats.binomtest(hits, shots).proportion_ci(confidence, method="wilson")
    assert (found.low, found.high) == pytest.approx((other.low, other.high), abs=1e-9)


@pytest.mark.parametrize(("hits", "shots"), [(3, 2), (-1, 4), (0, 0)])
def test_counts_that_cannot_be_are_refused(hits, shots):
    with pytest.raises(ValueError, match="cannot be"):
        wilson(hits, shots)


@pytest.mark.parametrize(
    ("share", "keepers", "frames"), [(1 / 4, 1, 11), (1 / 24, 1, 71), (1 / 24, 5, 218), (0.6, 3, 8)]
)
def test_frames_for_keepers_of_the_handbook(share, keepers, frames):
    # The smallest n with scipy.stats.binom.sf(k - 1, n, p) >= .95
    assert frames_needed(share, keepers) == frames


@given(st.floats(0.01, 0.999), st.integers(1, 12))
def test_so_many_frames_are_enough_and_one_fewer_is_not(share, keepers):
    frames = frames_needed(share, keepers)
    assert stats.binom.sf(keepers - 1, frames, share) >= 0.95 - 1e-9
    assert stats.binom.sf(keepers - 1, frames - 1, share) < 0.95 + 1e-9
    assert at_least(keepers, frames, share) == pytest.approx(stats.binom.sf(keepers - 1, frames, share), abs=1e-9)


def test_frames_at_the_ends():
    assert frames_needed(1.0, 4) == 4 and frames_needed(0.5, 0) == 0
    assert frames_needed(0.0, 1) is None and frames_needed(1e-9, 3) is None and frames_needed(math.nan, 1) is None
    assert at_least(2, 2, 1.0) == 1 and at_least(3, 2, 0.9) == 0


@given(st.floats(0.5e-3, 20e-3), st.floats(0.1e-3, 20e-3))
def test_the_jitter_behind_a_share_is_that_which_gives_it(window_s, jitter_s):
    share = hit_share(window_s, jitter_s)
    assert share == pytest.approx(stats.norm.cdf(window_s / 2 / jitter_s) - stats.norm.cdf(-window_s / 2 / jitter_s))
    if 0.02 < share < 0.98:
        assert jitter_behind(share, window_s) == pytest.approx(jitter_s, rel=1e-6)
    assert jitter_behind(1.0, window_s) == 0 and math.isinf(jitter_behind(0.0, window_s))
    assert hit_share(window_s, 0.0) == 1


values = st.lists(st.sampled_from([-1.0, 0.0, 1.0, 2.5]), min_size=5, max_size=40)


@given(values, st.randoms(use_true_random=False))
def test_the_test_for_drift_is_scipys_with_ties(late, random):
    times = [float(random.randint(0, 30)) for _ in late]
    found = drift(times, late)
    if found is None:
        assert len(set(times)) == 1 or len(set(late)) == 1
        return
    tau, chance = stats.kendalltau(times, late, method="asymptotic")
    assert found.tau == pytest.approx(tau, abs=1e-9)
    assert found.chance == pytest.approx(chance, abs=1e-9)


def test_the_slope_of_a_drift_is_that_of_theil_and_sen():
    rng = np.random.default_rng(1)
    times = np.arange(30) * 20.0
    late = 0.01 * times + rng.normal(0, 0.5, 30)
    found = drift(times, late)
    assert found.is_real
    assert found.slope_per_s == pytest.approx(stats.theilslopes(late, times).slope)
    assert not drift(times, rng.normal(0, 1, 30)).is_real


def test_what_is_no_number_is_left_out_and_too_few_say_nothing():
    assert drift([0, 1, 2, 3, math.nan, 4], [0, 1, math.nan, 1, 1, 1]) is None
    assert drift([1] * 9, range(9)) is None
    assert drift([0, 1, 2, 3, 4, 5], [0, 1, math.nan, 2, 3, 4]).tau == pytest.approx(1)


def of(hit: list[bool], late: list[float], window_s: float = 4e-3, trigger_s: float = 1e-4, keepers: int = 1):
    return steadiness(hit, [20.0 * i for i in range(len(hit))], late, window_s, trigger_s, keepers)


def test_what_is_to_be_mended_first():
    drifting = of([True] * 4 + [False] * 8, [0] * 4 + [1] * 8)
    assert "Refill" in drifting.advice and drifting.drift.is_real
    assert "nothing to mend" in of([True] * 24, [0] * 24).advice
    assert "Steady so far" in of([True] * 4, [0] * 4).advice
    assert "larger second drop" in of([True, False] * 8, [0, 1, 0, -1] * 4).advice
    assert "by wire" in of([True, False] * 8, [0, 1, 0, -1] * 4, trigger_s=4e-3).advice


def test_it_is_said_in_a_line():
    said = steady_words(of([True] * 6 + [False] * 4, [0] * 10, keepers=3))
    assert said.startswith("6 of 10 hit (31 to 83%). For 3 keepers take 8 frames.")
    assert steady_words(of([False] * 3, [0] * 3)).startswith("0 of 3 hit (0 to 56%). ")
    assert "For one keeper take" in steady_words(of([True, False] * 3, [0] * 6))


def test_a_run_of_shots_says_how_many_more_are_wanted():
    found = of([True] * 6 + [False] * 4, [0] * 10, keepers=3)
    assert (found.hits, found.shots, found.frames) == (6, 10, 8)
    assert found.interval.low < 0.6 < found.interval.high
    assert found.jitter_s == pytest.approx(jitter_behind(0.6, 4e-3))
    assert math.isfinite(of([True] * 3, [0] * 3).jitter_s) and math.isfinite(of([False] * 3, [0] * 3).jitter_s)
    assert of([False] * 3, [0] * 3).frames is None
