"""Seeks the clock at which most frames of a card stand where shots were fired: roughly, then refined, then weighed."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ondine.core.log.alignment import edges, log_evidence, probabilities
from ondine.core.log.camera_clock import (
    ANCHORED_S,
    BIN_S,
    CANDIDATES,
    DAY_S,
    DRIFT_SD_S_PER_DAY,
    LEAST_SD_S,
    MOST_DRIFT_S_PER_DAY,
    MOST_OFFSET_S,
    MOST_ROUGH,
    MOST_SD_S,
    ROUGH_SD_S,
    Clock,
    Work,
    clock_of_anchors,
    line,
)

LOG_OTHER_SETTING = np.log(1e-6)
"""How likely an anchor is to tell of a clock that was set differently."""

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


def find_clock(work: Work) -> Clock | None:
    """Return the likeliest clock of one camera, with how likely it is against all others; None where nothing agrees."""
    told_by_anchors = _told_by_anchors(work)
    candidates = _candidates(work) + ([told_by_anchors[0]] if told_by_anchors else [])
    refined = [_refined(work, candidate, told_by_anchors is not None) for candidate in candidates]
    if not refined:
        return None
    told: list[tuple[float, Clock]] = []
    for clock in refined:
        if all(abs(clock.offset_s - other.offset_s) > 3 * max(clock.sd_s, other.sd_s) for _, other in told):
            told.append((_weigh(work, clock), clock))
    told.sort(key=lambda entry: -entry[0])
    logs = np.array([log for log, _ in told])
    weight = float(1 / np.exp(np.minimum(logs - logs[0], 0.0)).sum())
    best = told[0][1]
    return replace(best, weight=weight, body=int(work.bodies[0]))


def _candidates(work: Work) -> list[Clock]:
    """Return the clocks at which most differences of frame and shot agree, the best first."""
    shots_s, frames_s = _thinned(work.shots_s), _thinned(work.frames_s)
    middle = float(shots_s.mean())
    apart = (frames_s[:, None] - shots_s[None, :]).ravel()
    since = np.broadcast_to((shots_s - middle)[None, :], (len(frames_s), len(shots_s))).ravel()
    low, high = offsets_allowed(work)
    half_s = max(float(np.ptp(shots_s)) / 2, 1.0)
    steps = int(np.ceil(MOST_DRIFT_S_PER_DAY / DAY_S * half_s / (BIN_S / 2)))
    found: list[tuple[float, Clock]] = []
    for drift in np.linspace(-MOST_DRIFT_S_PER_DAY, MOST_DRIFT_S_PER_DAY, 2 * steps + 1) if steps else [0.0]:
        offsets = apart - drift / DAY_S * since
        offsets = offsets[(offsets >= low) & (offsets <= high)]
        if not len(offsets):
            continue
        first = np.floor(offsets.min())
        votes = np.bincount(((offsets - first) / BIN_S).astype(np.int64))
        both = votes + np.append(votes[1:], 0)
        for place in _peaks(both):
            found.append((float(both[place]), Clock(float(first + (place + 1) * BIN_S), float(drift), middle)))
    found.sort(key=lambda entry: (-entry[0], abs(entry[1].drift_s_per_day), abs(entry[1].offset_s)))
    best: list[Clock] = []
    for _, clock in found:
        if all(abs(clock.offset_s - other.offset_s) > 3 * BIN_S for other in best):
            best.append(clock)
        if len(best) == CANDIDATES:
            break
    return best


def _thinned(times_s: Floats) -> Floats:
    """A stretch from the middle: whole, since thinned out evenly no two neighbours would stay."""
    start = max((len(times_s) - MOST_ROUGH) // 2, 0)
    return times_s[start : start + MOST_ROUGH]


def offsets_allowed(work: Work) -> tuple[float, float]:
    """Return the least and the most offset in the middle of the shots that what is known leaves open [s]."""
    if not work.anchors:
        return -MOST_OFFSET_S, MOST_OFFSET_S
    told = _told_by_anchors(work)
    if told is not None:
        clock, sd_s = told
        slack = 4 * sd_s + 2 * clock.sd_s
        return clock.offset_s - slack, clock.offset_s + slack
    apart = [anchor.camera_s - anchor.true_s for anchor in work.anchors]
    # The clock was set in between; each of the anchors may have been read off some days away.
    slack = 3 * max(anchor.sd_s for anchor in work.anchors) + 5 * MOST_DRIFT_S_PER_DAY
    return min(apart) - slack, max(apart) + slack


def is_anchored(work: Work) -> bool:
    """Whether anchors alone tell the clock, so well that no pairs have to prove it."""
    told = _told_by_anchors(work)
    return told is not None and told[1] <= ANCHORED_S


def _told_by_anchors(work: Work) -> tuple[Clock, float] | None:
    return clock_of_anchors(work.anchors, float(work.shots_s.mean()))


def _peaks(votes: Ints) -> Ints:
    """Return the places of the most votes that have none higher beside them."""
    padded = np.concatenate([[0], votes, [0]])
    is_peak = (votes >= padded[:-2]) & (votes >= padded[2:]) & (votes > 0)
    places = np.flatnonzero(is_peak)
    return places[np.argsort(-votes[places], kind="stable")[:CANDIDATES]]


def _refined(work: Work, clock: Clock, anchored: bool) -> Clock:
    """Fit offset and drift to the pairs that a clock suggests, again and again with less reach.

    anchored : whether the anchors tell one clock: then they are fitted too.
    """
    sd_s = ROUGH_SD_S
    anchors = work.anchors if anchored else ()
    known_s = np.array([anchor.true_s for anchor in anchors])
    apart = np.array([anchor.camera_s - anchor.true_s for anchor in anchors])
    sure = 1 / np.array([anchor.sd_s for anchor in anchors]) ** 2
    for _ in range(6):
        tried = edges(clock.shows_s(work.shots_s), work.frames_s, sd_s)
        if len(tried.shot) + len(anchors) < 2:
            return clock
        weights = probabilities(tried)
        late = work.frames_s[tried.frame] - work.shots_s[tried.shot] - clock.offset_s
        since = (work.shots_s[tried.shot] - clock.at_s) / DAY_S
        offset, drift, drift_sd, _ = line(
            np.concatenate([since, (known_s - clock.at_s) / DAY_S]),
            np.concatenate([late, apart - clock.offset_s]),
            np.concatenate([weights / sd_s**2, sure]),
        )
        left = late - offset - drift * since
        total = max(float(weights.sum()), 1e-9)
        spread = float(np.sqrt((weights * left**2).sum() / total))
        sd_s = float(np.clip(spread, LEAST_SD_S[work.fractions], MOST_SD_S))
        clock = Clock(clock.offset_s + offset, drift, clock.at_s, sd_s, drift_sd_s_per_day=drift_sd)
    return clock


def _weigh(work: Work, clock: Clock) -> float:
    """Return the logarithm of how well a clock explains both sequences."""
    evidence = log_evidence(edges(clock.shows_s(work.shots_s), work.frames_s, clock.sd_s))
    drift = -0.5 * (clock.drift_s_per_day / DRIFT_SD_S_PER_DAY) ** 2
    off = np.array([(float(clock.shows_s(np.array([a.true_s]))[0]) - a.camera_s) / a.sd_s for a in work.anchors])
    # An anchor may be of another setting of the clock: it speaks for its own, and no more than so much against others.
    anchored = float(np.logaddexp(-0.5 * off**2, LOG_OTHER_SETTING).sum())
    return evidence + drift + anchored
