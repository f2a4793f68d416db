"""Matches a card's frames to the shots of the log though the camera's clock is off by an unknown amount, and drifts.

Both are sequences of times. The camera's clock is sought at which most frames stand where shots were fired: first
roughly, by counting differences; then each candidate is refined, and weighed by how well its best pairings explain
both sequences. Where the clock was set in between (a time zone, daylight saving), what is left over is matched again.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from ondine.core.log.alignment import REACH_SD, Edges, edges, log_evidence, probabilities

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

DAY_S = 86_400.0
MOST_OFFSET_S = 26 * 3600.0
"""A day, and the hours that a zone adds to it."""

DRIFT_SD_S_PER_DAY = 1.0
MOST_DRIFT_S_PER_DAY = 4.0
"""Quartz clocks of cameras drift by up to about two seconds a day. Common practice, no published source."""

BIN_S = 1.0
LONGEST_S = 14 * DAY_S
CANDIDATES = 10
ROUGH_SD_S = 0.6
LEAST_SD_S = {True: 0.05, False: 0.30}
"""How well a frame's time can be known at all, by whether it carries fractions of a second [s]: whole seconds alone
spread by 1/√12.
"""

MOST_SD_S = 2.0
MOST_ROUGH = 800
"""So many frames and shots are enough to find the clock roughly."""

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


@dataclass(frozen=True)
class Anchor:
    """A frame whose true time is known, as that of the clock card: both times [s] and how well [s]."""

    camera_s: float
    true_s: float
    sd_s: float = 0.3


@dataclass(frozen=True)
class Clock:
    """How a camera's clock stands: it shows `offset_s` more than the log's at `at_s`, and gains `drift_s_per_day`.

    `sd_s` : how much single frames scatter about it [s]; `weight` : how likely it is this clock, not another one;
    `drift_sd_s_per_day` : how well the drift is known.
    """

    offset_s: float
    drift_s_per_day: float = 0.0
    at_s: float = 0.0
    sd_s: float = ROUGH_SD_S
    weight: float = 1.0
    drift_sd_s_per_day: float = DRIFT_SD_S_PER_DAY

    @property
    def drift_is_known(self) -> bool:
        """Whether its drift is told from none: an evening is too short for it."""
        return abs(self.drift_s_per_day) > 2 * self.drift_sd_s_per_day

    def shows_s(self, times_s: Floats) -> Floats:
        """Return what it shows at times of the log, shape (n,) [s]."""
        return times_s + self.offset_s + self.drift_s_per_day / DAY_S * (times_s - self.at_s)


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


@dataclass
class _Work:
    """What is still unmatched, sorted by time, with the places that it had."""

    shots_s: Floats
    frames_s: Floats
    shots: Ints
    frames: Ints
    fractions: bool
    anchors: Sequence[Anchor] = field(default_factory=tuple)


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
    work = _Work(shots_s[by_shot], shown[by_frame], by_shot, by_frame, fractions, anchors)
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


def _matched(work: _Work, clock: Clock | None, clocks: list[Clock]) -> list[Pair]:
    """Match a stretch by one clock after another until no more is found; new ones are added to `clocks`."""
    pairs: list[Pair] = []
    for _ in range(MOST_CLOCKS):
        if not len(work.frames_s) or not len(work.shots_s):
            break
        found = clock if clock is not None else _find_clock(work)
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


def _stretches(work: _Work) -> list[slice]:
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


def _beside(work: _Work, part: slice, left: _Work) -> _Work:
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


# Finding the clock


def _find_clock(work: _Work) -> Clock | None:
    refined = [_refined(work, candidate) for candidate in _candidates(work)]
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
    return replace(best, weight=weight)


def _candidates(work: _Work) -> list[Clock]:
    """Return the clocks at which most differences of frame and shot agree, the best first."""
    shots_s, frames_s = _thinned(work.shots_s), _thinned(work.frames_s)
    middle = float(shots_s.mean())
    apart = (frames_s[:, None] - shots_s[None, :]).ravel()
    since = np.broadcast_to((shots_s - middle)[None, :], (len(frames_s), len(shots_s))).ravel()
    low, high = _offsets_allowed(work)
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


def _offsets_allowed(work: _Work) -> tuple[float, float]:
    if not work.anchors:
        return -MOST_OFFSET_S, MOST_OFFSET_S
    told = [anchor.camera_s - anchor.true_s for anchor in work.anchors]
    # A clock that was read off may have drifted for some days since.
    slack = 3 * max(anchor.sd_s for anchor in work.anchors) + 5 * MOST_DRIFT_S_PER_DAY
    return min(told) - slack, max(told) + slack


def _peaks(votes: Ints) -> Ints:
    """Return the places of the most votes that have none higher beside them."""
    padded = np.concatenate([[0], votes, [0]])
    is_peak = (votes >= padded[:-2]) & (votes >= padded[2:]) & (votes > 0)
    places = np.flatnonzero(is_peak)
    return places[np.argsort(-votes[places], kind="stable")[:CANDIDATES]]


def _refined(work: _Work, clock: Clock) -> Clock:
    """Fit offset and drift to the pairs that a clock suggests, again and again with less reach."""
    sd_s = ROUGH_SD_S
    for _ in range(6):
        tried = edges(clock.shows_s(work.shots_s), work.frames_s, sd_s)
        if len(tried.shot) < 2:
            return clock
        weights = probabilities(tried)
        late = work.frames_s[tried.frame] - work.shots_s[tried.shot] - clock.offset_s
        since = (work.shots_s[tried.shot] - clock.at_s) / DAY_S
        offset, drift, drift_sd = _line(since, late, weights, sd_s)
        left = late - offset - drift * since
        total = max(float(weights.sum()), 1e-9)
        spread = float(np.sqrt((weights * left**2).sum() / total))
        sd_s = float(np.clip(spread, LEAST_SD_S[work.fractions], MOST_SD_S))
        clock = Clock(clock.offset_s + offset, drift, clock.at_s, sd_s, drift_sd_s_per_day=drift_sd)
    return clock


def _line(since: Floats, late: Floats, weights: Floats, sd_s: float) -> tuple[float, float, float]:
    """Return offset [s], drift [s/day] and the drift's standard deviation of the weighted line through (since, late).

    A drift is not believed at once: its prior is that of `DRIFT_SD_S_PER_DAY`.
    """
    w = weights / sd_s**2
    s0, s1, s2 = w.sum(), (w * since).sum(), (w * since**2).sum() + 1 / DRIFT_SD_S_PER_DAY**2
    t0, t1 = (w * late).sum(), (w * since * late).sum()
    determinant = s0 * s2 - s1 * s1
    if determinant <= 0:
        return 0.0, 0.0, DRIFT_SD_S_PER_DAY
    offset, drift = (s2 * t0 - s1 * t1) / determinant, (s0 * t1 - s1 * t0) / determinant
    return float(offset), float(drift), float(np.sqrt(s0 / determinant))


def _weigh(work: _Work, clock: Clock) -> float:
    """Return the logarithm of how well a clock explains both sequences."""
    evidence = log_evidence(edges(clock.shows_s(work.shots_s), work.frames_s, clock.sd_s))
    drift = -0.5 * (clock.drift_s_per_day / DRIFT_SD_S_PER_DAY) ** 2
    anchored = sum(
        -0.5 * ((float(clock.shows_s(np.array([a.true_s]))[0]) - a.camera_s) / a.sd_s) ** 2 for a in work.anchors
    )
    return evidence + drift + anchored


# Pairing by a clock


def _pairs(work: _Work, clock: Clock, number: int) -> list[Pair]:
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


def _holds(work: _Work, clock: Clock, pairs: list[Pair]) -> bool:
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


def _only_by_one_clock(work: _Work, clocks: list[Clock], pairs: list[Pair]) -> list[Pair]:
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


def _rest(work: _Work, pairs: list[Pair]) -> _Work:
    keep_shots = ~np.isin(work.shots, [pair.shot for pair in pairs])
    keep_frames = ~np.isin(work.frames, [pair.frame for pair in pairs])
    return _Work(
        work.shots_s[keep_shots], work.frames_s[keep_frames], work.shots[keep_shots], work.frames[keep_frames],
        work.fractions,
    )  # fmt: skip
