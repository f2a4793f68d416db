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

from ondine.core.log.alignment import REACH_SD, Edges, edges, own_reach_s, probabilities
from ondine.core.log.camera_clock import DAY_S, MOST_DRIFT_S_PER_DAY, MOST_OFFSET_S, Anchor, Clock, Work
from ondine.core.log.chance import log_chance
from ondine.core.log.clock_search import find_clock, is_anchored, offsets_allowed

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

SURE = 0.995
"""What is likelier than this is sure."""

LEAST_PAIRS = 4
"""Fewer pairs tell no clock, unless anchors tell it."""

LEAST_SHARE = 0.4
"""Of what stands between the first and the last pair, this much of the shots or of the frames is paired, or it is
chance.
"""

LOG_CHANCE, LOG_CHANCE_OF_ANOTHER = np.log(1e-3), np.log(1e-7)
"""Chance gives a clock its pairs no more often than this. Another clock for the frames of the same camera is a rare
thing, and what the first one leaves over is searched for it on every card.
"""

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
    shots_s: Floats,
    frames_s: Floats,
    fractions: bool,
    anchors: Sequence[Anchor] = (),
    clock: Clock | None = None,
    bodies: Ints | None = None,
) -> CardMatch:
    """Find the camera's clock, and each frame's shot.

    shots_s : when shots were fired, shape (n,) [s]; frames_s : what the frames carry, shape (m,) [s], both in any
    order; fractions : whether the frames carry fractions of a second; anchors : frames of known true time;
    clock : the clock as somebody has set it by hand: taken as it is; bodies : which camera wrote each frame, shape
    (m,), where the files name it: each camera has clocks of its own.
    """
    # A clock that shows whole seconds shows on average half a second too little.
    shown = np.asarray(frames_s, float) + (0.0 if fractions else 0.5)
    shots_s = np.asarray(shots_s, float)
    by_shot, by_frame = np.argsort(shots_s, kind="stable"), np.argsort(shown, kind="stable")
    written_by = np.zeros(len(shown), np.int64) if bodies is None else np.asarray(bodies, np.int64)
    work = Work(shots_s[by_shot], shown[by_frame], by_shot, by_frame, written_by[by_frame], fractions, anchors)
    clocks: list[Clock] = []
    pairs: list[Pair] = []
    left = work
    for part in _stretches(work):
        for body in _most_frames_first(work.bodies) if clock is None else [None]:
            own = _matched(_beside(work, part, left, body), clock, clocks)
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


def _most_frames_first(bodies: Ints) -> list[int]:
    numbers, counts = np.unique(bodies, return_counts=True)
    return [int(number) for number in numbers[np.argsort(-counts, kind="stable")]]


def _matched(work: Work, clock: Clock | None, clocks: list[Clock]) -> list[Pair]:
    """Match the frames of a stretch by one clock after another until no more is found; new ones are added to `clocks`.

    All frames are of one camera, unless a clock is given.
    """
    pairs: list[Pair] = []
    for _ in range(MOST_CLOCKS):
        if not len(work.frames_s) or not len(work.shots_s):
            break
        found = clock if clock is not None else find_clock(work)
        if found is None:
            break
        number = clocks.index(found) if found in clocks else len(clocks)
        own = _pairs(work, found, number)
        if clock is None and not _holds(work, found, own, is_first=not pairs):
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


def _beside(work: Work, part: slice, left: Work, body: int | None) -> Work:
    """Return what is left of a stretch of shots, with the frames of a camera that may be of it, within any offset."""
    is_left = np.isin(work.shots[part], left.shots)
    shots_s, shots = work.shots_s[part][is_left], work.shots[part][is_left]
    anchors = [anchor for anchor in work.anchors if body is None or anchor.body == body]
    reach = MOST_OFFSET_S + LONGEST_S * MOST_DRIFT_S_PER_DAY / DAY_S
    if anchors:
        reach += max(abs(anchor.camera_s - anchor.true_s) for anchor in anchors)
    near = slice(0, 0)
    if len(shots_s):
        near = slice(*np.searchsorted(left.frames_s, [shots_s[0] - reach, shots_s[-1] + reach]).tolist())
    of_body = slice(None) if body is None else left.bodies[near] == body
    return Work(
        shots_s, left.frames_s[near][of_body], shots, left.frames[near][of_body], left.bodies[near][of_body],
        work.fractions, anchors,
    )  # fmt: skip


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
        sure = likely >= SURE and not crowded[n] and abs(late) <= own_reach_s(clock.sd_s, work.fractions)
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


def _holds(work: Work, clock: Clock, pairs: list[Pair], is_first: bool) -> bool:
    """Whether so many pairs of a clock cannot be chance, and most of something between the first and last is paired.

    is_first : whether the camera has no other clock in this stretch.
    """
    if is_anchored(work):
        return bool(pairs)
    if len(pairs) < LEAST_PAIRS:
        return False
    shots, frames = {pair.shot for pair in pairs}, {pair.frame for pair in pairs}
    low, high = offsets_allowed(work)
    late = np.array([pair.late_s for pair in pairs])
    if log_chance(work, clock, late, high - low) > (LOG_CHANCE if is_first else LOG_CHANCE_OF_ANOTHER):
        return False
    within = (
        np.ptp(np.flatnonzero(np.isin(work.shots, list(shots)))) + 1,
        np.ptp(np.flatnonzero(np.isin(work.frames, list(frames)))) + 1,
    )
    return bool(len(pairs) >= LEAST_SHARE * min(within))


def _only_by_one_clock(work: Work, clocks: list[Clock], pairs: list[Pair]) -> list[Pair]:
    """Take the certainty from pairs of which shot or frame could be meant by another clock of the camera too."""
    shot_place = {int(shot): place for place, shot in enumerate(work.shots)}
    frame_place = {int(frame): place for place, frame in enumerate(work.frames)}
    told = []
    for pair in pairs:
        frame_s, body = work.frames_s[frame_place[pair.frame]], clocks[pair.clock].body
        others = [clock for number, clock in enumerate(clocks) if number != pair.clock and clock.body == body]
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
        work.bodies[keep_frames], work.fractions,
    )  # fmt: skip
