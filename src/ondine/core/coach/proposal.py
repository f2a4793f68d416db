"""The next shot: the timing that best trades learning against hitting, with its reason, and two others."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from ondine.core.coach.chances import Courses, courses
from ondine.core.coach.goal import Goal
from ondine.core.coach.posterior import Posterior
from ondine.core.coach.reach import NO_DROP, CoachError, Reach, reach
from ondine.core.coach.tags import TAGGED_AS, clean_share
from ondine.core.coach.unknowns import systematic
from ondine.core.constants import US_PER_S
from ondine.core.forecast.phases import INDEX, KEYS
from ondine.core.forecast.shapes import BY_KEY
from ondine.core.timing.dials import DialError
from ondine.core.timing.limits import SequenceError, timing_problems
from ondine.core.timing.sequence import FlashPulse, Pulse, Sequence

Floats = NDArray[np.float64]
Singles = NDArray[np.float32]

RIGS, FEW_RIGS = 240, 120
TRAINS, INSTANTS = 8, 64
STEP_US = 1_000
LOOK_AHEAD = 120
"""So many of the best timings are thought of as the shot after the next."""

SHOT_PER_HALVING = 0.5
"""Shots it takes, by experience on hidden rigs, to double the chance of the best timing."""

BEST_CHANCE = 0.8
"""More than this no timing can promise: valves vary from shot to shot."""

MOVING_COSTS = 0.02
"""What it counts, in shots, to move the drops as well as the flash: nobody likes two things to change for nothing."""

APART_US = 2_000
LEAST = 1e-9

FAIR_SHARE = 0.25
"""A shot that hits, or teaches, less than this share of what the best timing would is not worth its water."""

AsFired = Callable[[Sequence], Sequence]
"""Returns a sequence as a bench would fire it, on the steps of its dials. Raises SequenceError or DialError for one
that it would refuse.
"""


def timing_checked(sequence: Sequence) -> Sequence:
    """Return a sequence that any bench could fire. Raises SequenceError for one that none could."""
    found = tuple(problem.says for problem in timing_problems(sequence))
    if found:
        raise SequenceError(found)
    return sequence


class Aim(StrEnum):
    """What a proposed shot is for."""

    BEST = "best"
    SAFER = "safer"
    BOLDER = "bolder"


@dataclass(frozen=True)
class Candidate:
    """One possible next shot: its sequence, the chance that it shows what is wanted, what it may show by the keys of
    the shapes, likeliest first, and how much it is expected to teach [bits].
    """

    sequence: Sequence
    aim: Aim
    chance: float
    shapes: dict[str, float]
    teaches_bits: float


@dataclass(frozen=True)
class Proposal:
    """The best next shot, and what a safer and a bolder hand would do; None where that is the same.

    `goal` : what it is for; `wanted` : what was asked for, another one where the table cannot show that; `begin` : what
    was in hand.
    """

    goal: Goal
    wanted: Goal
    begin: Sequence
    best: Candidate
    safer: Candidate | None
    bolder: Candidate | None


def propose(
    belief: Posterior, goal: Goal, begin: Sequence, step_us: int = STEP_US, as_fired: AsFired = timing_checked
) -> Proposal:
    """Return the next shot for a goal, or for the nearest goal that the table can show.

    begin : what is in hand; its sizes, valves and camera are kept, and its flashes but for the first, which lights the
    goal. step_us : the controller's step [µs]. as_fired : what the bench would make of each shot; nothing is proposed
    that it refuses. Raises CoachError where no drop falls, or where nothing worth it may be fired.
    """
    if not begin.drops:
        raise CoachError("There is no drop to begin with: add one.")
    return _Search(belief, goal, begin, step_us, as_fired).proposal()


@dataclass(frozen=True, eq=False)
class _Grid:
    """Timings side by side: `trains` of drops with `flash_us` of shape (trains, t), and what each would show.

    `tags` : probability of each tag on each rig, shape (tags, timings, n); `hits` : of the goal, shape (timings, n).
    """

    trains: list[tuple[Pulse, ...]]
    made: Courses
    flash_us: NDArray[np.int64]
    tags: Singles
    hits: Singles


class _Search:
    def __init__(self, belief: Posterior, goal: Goal, begin: Sequence, step_us: int, as_fired: AsFired) -> None:
        self._belief, self._wanted, self._begin, self._step_us = belief, goal, begin, step_us
        points = belief.coordinates[systematic(belief.weights, RIGS, 0.5)]
        self._rigs = belief.unknowns.rigs(points)
        few = belief.unknowns.rigs(points[:: math.ceil(RIGS / FEW_RIGS)])
        self._reach = reach(belief, goal, begin, few)
        self._goal = self._reach.goal
        self._as_fired = as_fired
        self._refusal = ""
        self._fired: dict[int, Sequence | None] = {}

    def proposal(self) -> Proposal:
        """Return the best shot and the two others."""
        chosen = self._promising(self._reach)
        made = courses(chosen, self._belief.unknowns, self._rigs)
        grid = self._grid(chosen, made, self._instants(made))
        chance = grid.hits.mean(axis=1)
        bits = _bits(grid.tags)
        safest = self._allowed(grid, -chance)
        gain = bits if self._goal.shape is None else chance
        if gain[self._allowed(grid, -gain)] < FAIR_SHARE * gain.max():
            raise CoachError(self._nothing_to_fire())
        cost = -bits if self._goal.shape is None else _shots_to_come(grid, chance)
        stays = np.array([drops == self._begin.drops for drops in chosen])
        cost = cost + MOVING_COSTS * ~np.repeat(stays, grid.flash_us.shape[1])
        main = self._candidate(grid, self._allowed(grid, cost), Aim.BEST, bits)
        safer = self._other(self._candidate(grid, safest, Aim.SAFER, bits), main)
        bolder = self._other(self._candidate(grid, self._allowed(grid, -bits), Aim.BOLDER, bits), main)
        return Proposal(self._goal, self._wanted, self._begin, main, safer, bolder)

    def _allowed(self, grid: _Grid, cost: Floats) -> int:
        """Return the place of the cheapest timing that the bench would fire. Raises CoachError if there is none."""
        for place in np.argsort(cost, kind="stable"):
            if self._as_it_fires(grid, int(place)) is not None:
                return int(place)
        raise CoachError(self._nothing_to_fire())

    def _as_it_fires(self, grid: _Grid, place: int) -> Sequence | None:
        """Return a timing as the bench would fire it, None if it would not."""
        if place not in self._fired:
            per_train = grid.flash_us.shape[1]
            at = int(grid.flash_us.reshape(-1)[place])
            first, *others = self._begin.flashes or (FlashPulse(0),)
            flashes = (replace(first, at_us=at), *others)
            try:
                made = self._as_fired(replace(self._begin, drops=grid.trains[place // per_train], flashes=flashes))
            except (SequenceError, DialError) as error:
                made = None
                self._refusal = self._refusal or str(error)
            self._fired[place] = made
        return self._fired[place]

    def _nothing_to_fire(self) -> str:
        what = "teaches something" if self._goal.shape is None else f"may show {BY_KEY[self._goal.shape].name}"
        return f"No shot that {what} can be fired here. {self._refusal}"

    def _promising(self, found: Reach) -> list[tuple[Pulse, ...]]:
        """Return the few trains that give the goal most room, and the one in hand."""
        if len(found.trains) <= TRAINS:
            return found.trains
        made = found.made
        if self._goal.shape is None:
            room = np.isfinite(made.height_m).mean(axis=1) * 1.0
        else:
            first, last = made.window_s(INDEX[self._goal.shape])
            with np.errstate(invalid="ignore"):
                length = np.where(last > first, last - first, 0.0)
            # How much of the jitter a window outlasts decides, not how long it is beyond that.
            room = (np.tanh(length / (3 * made.jitter_s)) * made.height_fits(self._goal)).mean(axis=1)
        order = np.argsort(-room, kind="stable")[:TRAINS]
        return [drops for i, drops in enumerate(found.trains) if i in order or drops == self._begin.drops]

    def _instants(self, made: Courses) -> NDArray[np.int64]:
        """Return the flash times to try with each train, shape (trains, t) [µs]: all over what its rigs may show."""
        landed = np.where(np.isfinite(made.end_s[1]), made.end_s[1], np.nan)
        if not np.isfinite(landed).any(axis=1).all():
            raise CoachError(NO_DROP)
        goal = self._goal.shape
        rows = []
        first, last = made.window_s(INDEX[goal or "full-umbrella"])
        for k in range(len(landed)):
            ends = np.where(np.isfinite(last[k]), last[k], landed[k] + 0.12)
            begins = np.where(np.isfinite(first[k]), first[k], landed[k])
            low, high = np.nanquantile(begins, 0.02), np.nanquantile(ends, 0.98)
            margin = 4e-3 if goal is not None else 0.06
            rows.append(np.linspace(low - margin, high + margin, INSTANTS))
        steps = np.round(np.array(rows) * US_PER_S / self._step_us).astype(np.int64) * self._step_us
        return np.maximum(steps, 0)

    def _grid(self, chosen: list[tuple[Pulse, ...]], made: Courses, flash_us: NDArray[np.int64]) -> _Grid:
        shown = made.chances(flash_us / US_PER_S)
        hits: Singles = np.zeros_like(shown[0])
        if self._goal.shape is not None:
            hits = shown[INDEX[self._goal.shape]] * made.height_fits(self._goal)[:, None].astype(np.float32)
        there = np.flatnonzero(shown.any(axis=(1, 2, 3)))
        rows = TAGGED_AS[:, there].astype(np.float32)
        asked = np.flatnonzero(rows.max(axis=1) > 0.02)
        flat = shown[there].reshape(len(there), -1)
        tags = np.asarray(rows[asked] @ flat, dtype=np.float32).reshape(len(asked), -1, shown.shape[-1])
        return _Grid(chosen, made, flash_us, tags, np.reshape(hits, (-1, shown.shape[-1])))

    def _candidate(self, grid: _Grid, place: int, aim: Aim, bits: Floats) -> Candidate:
        """Describe the shot at a place of the grid that may be fired, as it would be fired."""
        sequence = self._as_it_fires(grid, place)
        assert sequence is not None
        train = place // grid.flash_us.shape[1]
        one = grid.made.of_train(train)
        if sequence.drops != grid.trains[train]:
            one = courses([sequence.drops], self._belief.unknowns, self._rigs)
        shown = one.chances(np.array([[sequence.flashes[0].at_us / US_PER_S]]))[:, 0, 0]
        clean = clean_share(self._belief.unknowns.belief.variation, self._goal.drops)
        shares = clean * shown.mean(axis=1)
        shares[INDEX["satellites-or-bubbles"]] += 1 - clean
        order = np.argsort(-shares, kind="stable")
        shapes = {KEYS[i]: float(shares[i]) for i in order if shares[i] > 0.005}
        hit = 0.0
        if self._goal.shape is not None:
            hit = float(clean * (shown[INDEX[self._goal.shape]] * one.height_fits(self._goal)[0]).mean())
        return Candidate(sequence, aim, hit, shapes, float(bits[place]))

    def _other(self, other: Candidate, main: Candidate) -> Candidate | None:
        """Return another choice if it is another timing."""
        apart = abs(other.sequence.first_flash_us - main.sequence.first_flash_us)
        return other if apart >= APART_US or other.sequence.drops != main.sequence.drops else None


def _bits(tags: Singles) -> Floats:
    """What each timing is expected to teach: the mutual information of its tag and the rig [bits], shape (timings,)."""
    overall = tags.mean(axis=2)
    doubt = -(overall * np.log2(np.maximum(overall, LEAST))).sum(axis=0)
    known = -(tags * np.log2(np.maximum(tags, LEAST))).sum(axis=0).mean(axis=1)
    return np.asarray(doubt - known)


def _shots_to_come(grid: _Grid, chance: Floats) -> Floats:
    """Expected number of shots until the goal is in the picture, if each timing came next, shape (timings,).

    One step is thought out: what each tag would leave of the rigs, and the best chance then. What is still to come
    after that goes with the logarithm of that chance.
    """
    after = np.argsort(-chance, kind="stable")[:LOOK_AHEAD]
    spread = np.linspace(0, len(chance) - 1, LOOK_AHEAD).astype(int)
    ahead = grid.hits[np.unique(np.concatenate([after, spread]))]
    tags, timings, count = grid.tags.shape
    missed = grid.tags * (1 - grid.hits)
    left = missed.reshape(tags * timings, count)
    best = (left @ ahead.T).max(axis=1).reshape(tags, timings) / count
    share = left.mean(axis=1).reshape(tags, timings)
    with np.errstate(divide="ignore", invalid="ignore"):
        then = np.clip(best / share, 1e-4, BEST_CHANCE)
        to_come = 1 / BEST_CHANCE + SHOT_PER_HALVING * np.log2(BEST_CHANCE / then)
    return np.asarray(1 + np.where(share > 0, share * to_come, 0.0).sum(axis=0))
