"""Matches a card's frames to the shots of the log though the camera's clock is off by an unknown amount, and drifts.

Both are sequences of times. The camera's clock is sought at which most frames stand where shots were fired: first
roughly, by counting differences; then each candidate is refined, and weighed by how well its best pairings explain
both sequences. Where the clock was set in between (a time zone, daylight saving), what is left over is matched again.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ondine.core.log.alignment import REACH_SD, Edges, edges, probabilities
from ondine.core.log.camera_clock import DAY_S, MOST_DRIFT_S_PER_DAY, MOST_OFFSET_S, Anchor, Clock, Work
from ondine.core.log.clock_search import find_clock

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

SURE = 0.995
"""What is likelier than this is sure."""

LEAST_PAIRS = 4
"""Fewer pairs tell no clock."""

LEAST_SHARE = 0.4
"""Of what stands between the first and the last pair, this much of the shots or of the frames is paired, or it is
chance.
"""

MORE_THAN_CHANCE = 3.0
"""And there are so many times more of them than frames strewn at random would make."""

MOST_CLOCKS = 4
"""A clock is set anew no more often than this within a stretch."""

LONGEST_S = 14 * DAY_S
"""A clock drifts evenly no longer than this."""


@dataclass(frozen=True)
class Pair:
    """A frame and its shot, by their places as they were given; `late_s` : frame against shot by the clock [s].

    `clock` : which of the clocks; `sure` : whether nothing else can be meant.
    """

    frame: int
    shot: int
    probability: float
    sure: bool
    late_s: float
    clock: int = 0


@dataclass(frozen=True)
class CardMatch:
    """All that a card's times tell: the clocks in the order of time, the pairs, and what is left on both sides."""

    clocks: tuple[Clock, ...] = ()
    pairs: tuple[Pair, ...] = ()
    frames_left: tuple[int, ...] = ()
    shots_left: tuple[int, ...] = ()

    @property
    def doubtful(self) -> tuple[Pair, ...]:
        """Pairs to be looked at by somebody."""
        return tuple(pair for pair in self.pairs if not pair.sure)


def match_card(
    shots_s: Floats, frames_s: Floats, fractions: bool, anchors: Sequence[Anchor] = (), clock: Clock | None = None
) -> CardMatch:
    """Find the camera's clock, and each frame's shot.

    shots_s : when shots were fired, shape (n,) [s]; frames_s : what the frames carry, shape (m,) [s], both in any
    order; fractions : whether the frames carry fractions of a second; anchors : frames of known true time;
    clock : the clock as somebody has set it by hand: taken as it is.
    """
    # A clock that shows whole seconds shows on average half a second too little.
    shown = np.asarray(frames_s, float) + (0.0 if fractions else 0.5)
    shots_s = np.asarray(shots_s, float)
    by_shot, by_frame = np.argsort(shots_s, kind="stable"), np.argsort(shown, kind="stable")
    work = Work(shots_s[by_shot], shown[by_frame], by_shot, by_frame, fractions, anchors)
    clocks: list[Clock] = []
    pairs: list[Pair] = []
    left = work
    for part in _stretches(work):
        own = _matched(_beside(work, part, left), clock, clocks)
        pairs += own
        left = _rest(left, own)
    if len(clocks) > 1:
        pairs = _only_by_one_clock(work, clocks, pairs)
    return CardMatch(
        tuple(clocks),
        tuple(sorted(pairs, key=lambda pair: pair.frame)),
        tuple(sorted(left.frames.tolist())),
        tuple(sorted(left.shots.tolist())),
    )


def _matched(work: Work, clock: Clock | None, clocks: list[Clock]) -> list[Pair]:
    """Match a stretch by one clock after another until no more is found; new ones are added to `clocks`."""
    pairs: list[Pair] = []
    for _ in range(MOST_CLOCKS):
        if not len(work.frames_s) or not len(work.shots_s):
            break
        found = clock if clock is not None else find_clock(work)
        if found is None:
            break
        number = clocks.index(found) if found in clocks else len(clocks)
        own = _pairs(work, found, number)
        if clock is None and not _holds(work, found, own):
            break
        if number == len(clocks):
            clocks.append(found)
        pairs += own
        work = _rest(work, own)
        if clock is not None:
            break
    return pairs


def _stretches(work: Work) -> list[slice]:
    """Part the shots where they pause longest, until each stretch is so short that a clock drifts evenly through it."""
    waiting, found = [slice(0, len(work.shots_s))], []
    while waiting:
        part = waiting.pop()
        times = work.shots_s[part]
        if len(times) < 2 or times[-1] - times[0] <= LONGEST_S:
            found.append(part)
            continue
        cut = part.start + 1 + int(np.argmax(np.diff(times)))
        waiting += [slice(cut, part.stop), slice(part.start, cut)]
    return found


def _beside(work: Work, part: slice, left: Work) -> Work:
    """Return a stretch of shots, with the frames that may be of it: those that are left, within any offset."""
    shots_s = work.shots_s[part]
    reach = MOST_OFFSET_S + LONGEST_S * MOST_DRIFT_S_PER_DAY / DAY_S
    if work.anchors:
        reach += max(abs(anchor.camera_s - anchor.true_s) for anchor in work.anchors)
    near = slice(0, 0)
    if len(shots_s):
        near = slice(*np.searchsorted(left.frames_s, [shots_s[0] - reach, shots_s[-1] + reach]).tolist())
    return replace(
        work, shots_s=shots_s, shots=work.shots[part], frames_s=left.frames_s[near], frames=left.frames[near]
    )


def _pairs(work: Work, clock: Clock, number: int) -> list[Pair]:
    shows = clock.shows_s(work.shots_s)
    tried = edges(shows, work.frames_s, clock.sd_s)
    chance = probabilities(tried)
    best = _best_chain(tried, chance)
    crowded = _is_crowded(tried)
    found = []
    for n in best:
        likely = float(chance[n]) * clock.weight
        frame, shot = int(tried.frame[n]), int(tried.shot[n])
        late = float(work.frames_s[frame] - shows[shot])
        sure = likely >= SURE and not crowded[n] and abs(late) <= 0.7 * REACH_SD * clock.sd_s
        found.append(Pair(int(work.frames[frame]), int(work.shots[shot]), likely, sure, late, number))
    return found


def _is_crowded(pairs: Edges) -> NDArray[np.bool_]:
    """Whether another frame, or another shot, lies within reach of each pair's own: somebody has to look."""
    by_shot = np.bincount(pairs.shot, minlength=int(pairs.shot.max(initial=0)) + 1)
    by_frame = np.bincount(pairs.frame, minlength=int(pairs.frame.max(initial=0)) + 1)
    return np.asarray((by_shot[pairs.shot] > 1) | (by_frame[pairs.frame] > 1))


def _best_chain(pairs: Edges, chance: Floats) -> list[int]:
    """Return the pairs, none crossing another, whose chances add up to most; those less likely than not left out."""
    likely = np.flatnonzero(chance > 0.2)
    gain = np.full(len(likely), 0.0)
    before = np.full(len(likely), -1)
    for n, e in enumerate(likely):
        gain[n] = chance[e]
        # Only the last few can lead to it better than the best so far.
        for k in range(n - 1, max(n - 64, -1), -1):
            p = likely[k]
            if pairs.shot[p] < pairs.shot[e] and pairs.frame[p] < pairs.frame[e] and gain[k] + chance[e] > gain[n]:
                gain[n], before[n] = gain[k] + chance[e], k
    if not len(likely):
        return []
    chain, at = [], int(np.argmax(gain))
    while at >= 0:
        chain.append(int(likely[at]))
        at = int(before[at])
    return chain[::-1]


def _holds(work: Work, clock: Clock, pairs: list[Pair]) -> bool:
    """Whether so many pairs of a clock cannot be chance: between its first and last, most of something is paired."""
    if len(pairs) < LEAST_PAIRS:
        return False
    shots, frames = {pair.shot for pair in pairs}, {pair.frame for pair in pairs}
    shot_places = np.flatnonzero(np.isin(work.shots, list(shots)))
    frame_places = np.flatnonzero(np.isin(work.frames, list(frames)))
    within = (np.ptp(shot_places) + 1, np.ptp(frame_places) + 1)
    # Where shots are dense and a clock is loose, some frame lies near any of them.
    span_s = max(float(np.ptp(work.shots_s[shot_places])), 1.0)
    chance = within[1] * -np.expm1(-4 * clock.sd_s * within[0] / span_s)
    return bool(len(pairs) >= max(LEAST_SHARE * min(within), MORE_THAN_CHANCE * min(chance, within[0] / 4)))


def _only_by_one_clock(work: Work, clocks: list[Clock], pairs: list[Pair]) -> list[Pair]:
    """Take the certainty from pairs of which shot or frame could be meant by another of the clocks too."""
    shot_place = {int(shot): place for place, shot in enumerate(work.shots)}
    frame_place = {int(frame): place for place, frame in enumerate(work.frames)}
    told = []
    for pair in pairs:
        frame_s = work.frames_s[frame_place[pair.frame]]
        others = [clock for number, clock in enumerate(clocks) if number != pair.clock]
        meant = any(
            np.abs(clock.shows_s(work.shots_s) - frame_s).min() <= REACH_SD * clock.sd_s
            or np.abs(work.frames_s - clock.shows_s(work.shots_s[shot_place[pair.shot]])).min() <= REACH_SD * clock.sd_s
            for clock in others
        )
        told.append(replace(pair, sure=pair.sure and not meant))
    return told


def _rest(work: Work, pairs: list[Pair]) -> Work:
    keep_shots = ~np.isin(work.shots, [pair.shot for pair in pairs])
    keep_frames = ~np.isin(work.frames, [pair.frame for pair in pairs])
    return Work(
        work.shots_s[keep_shots], work.frames_s[keep_frames], work.shots[keep_shots], work.frames[keep_frames],
        work.fractions,
    )  # fmt: skip
