"""Sums over all pairings, held against counting every one of them out."""

import itertools
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ondine.core.log.alignment import REACH_SD, Edges, clusters, edges, log_evidence, probabilities

times = st.lists(st.floats(0, 12), min_size=1, max_size=5).map(sorted)


def counted_out(pairs: Edges) -> tuple[float, np.ndarray]:
    """Every set of pairs of which none crosses another, or shares its shot or frame."""
    total, each = 0.0, np.zeros(len(pairs.shot))
    for size in range(len(pairs.shot) + 1):
        for chosen in itertools.combinations(range(len(pairs.shot)), size):
            if all(
                (pairs.shot[a] < pairs.shot[b] and pairs.frame[a] < pairs.frame[b])
                or (pairs.shot[a] > pairs.shot[b] and pairs.frame[a] > pairs.frame[b])
                for a, b in itertools.combinations(chosen, 2)
            ):
                weight = math.exp(sum(pairs.log_odds[list(chosen)]))
                total += weight
                each[list(chosen)] += weight
    return math.log(total), each / total


@settings(max_examples=60, deadline=None)
@given(times, times, st.floats(0.05, 1.5))
def test_evidence_and_chances_are_those_of_all_pairings(shots, frames, sd_s):
    pairs = edges(np.array(shots), np.array(frames), sd_s)
    if len(pairs.shot) > 12:
        return
    log, each = counted_out(pairs)
    assert log_evidence(pairs) == pytest.approx(log, abs=1e-9)
    assert probabilities(pairs) == pytest.approx(each, abs=1e-9)


@given(times, times, st.floats(0.05, 1.5))
def test_all_pairs_within_reach_are_looked_at_and_no_others(shots, frames, sd_s):
    found = edges(np.array(shots), np.array(frames), sd_s)
    wanted = {
        (i, j) for i, shot in enumerate(shots) for j, frame in enumerate(frames) if abs(frame - shot) < REACH_SD * sd_s
    }
    listed = set(zip(found.shot.tolist(), found.frame.tolist(), strict=True))
    assert wanted <= listed
    assert all(abs(frames[j] - shots[i]) <= REACH_SD * sd_s * (1 + 1e-9) for i, j in listed)


def test_a_frame_nearer_to_the_clock_is_likelier():
    pairs = edges(np.array([100.0]), np.array([99.0, 102.0, 200.0]), 0.6)
    by_frame = dict(zip(pairs.frame.tolist(), probabilities(pairs), strict=True))
    assert by_frame[0] > by_frame[1] and 2 not in by_frame


def test_of_a_burst_the_first_frame_is_likelier():
    pairs = edges(np.array([100.0]), np.array([100.0, 100.0, 101.0]), 0.5)
    chances = probabilities(pairs)
    assert chances[0] > 0.8 and chances[1:].max() < 0.1


def test_runs_that_cannot_be_joined_are_parted():
    pairs = edges(np.array([0.0, 100.0, 100.5]), np.array([0.0, 100.0, 100.5]), 0.5)
    assert [part.stop - part.start for part in clusters(pairs)] == [1, 4]
    assert clusters(edges(np.array([0.0]), np.array([50.0]), 0.5)) == []


def test_nothing_has_no_evidence():
    nothing = edges(np.array([]), np.array([]), 0.5)
    assert log_evidence(nothing) == 0.0 and len(probabilities(nothing)) == 0
