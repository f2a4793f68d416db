"""The next shot: the timing that best trades learning against hitting, with its reason, and two others."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from ondine.core.coach.chances import Courses, courses
from ondine.core.coach.goal import Goal, larger, trains
from ondine.core.coach.posterior import Posterior
from ondine.core.coach.tags import TAGGED_AS, clean_share
from ondine.core.coach.unknowns import systematic
from ondine.core.constants import US_PER_S
from ondine.core.forecast.phases import INDEX, KEYS
from ondine.core.timing.sequence import FlashPulse, Pulse, Sequence, held

Floats = NDArray[np.float64]
Singles = NDArray[np.float32]

RIGS, FEW_RIGS = 240, 120
ALL_TRAINS, TRAINS, INSTANTS = 24, 8, 64
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


class CoachError(ValueError):
    """Nothing can be proposed; the text says why, and what to do."""


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
    """The best next shot, and what a safer and a bolder hand would do; None where that is the same. `begin` : what was
    in hand.
    """

    goal: Goal
    begin: Sequence
    best: Candidate
    safer: Candidate | None
    bolder: Candidate | None


def propose(belief: Posterior, goal: Goal, begin: Sequence, step_us: int = STEP_US) -> Proposal:
    """Return the next shot for a goal.

    begin : what is in hand; its sizes, valves and camera are kept, and its flashes but for the first, which lights the
    goal. step_us : the controller's step [µs]. Raises CoachError where no drop falls.
    """
    if not begin.drops:
        raise CoachError("There is no drop to begin with: add one.")
    return _Search(belief, goal, begin, step_us).proposal()


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
    def __init__(self, belief: Posterior, goal: Goal, begin: Sequence, step_us: int) -> None:
        self._belief, self._goal, self._begin, self._step_us = belief, goal, begin, step_us
        points = belief.coordinates[systematic(belief.weights, RIGS, 0.5)]
        self._rigs = belief.unknowns.rigs(points)
        self._few = belief.unknowns.rigs(points[:: math.ceil(RIGS / FEW_RIGS)])

    def proposal(self) -> Proposal:
        """Return the best shot and the two others."""
        chosen = self._promising(trains(self._goal, self._sized(), ALL_TRAINS))
        made = courses(chosen, self._belief.unknowns, self._rigs)
        grid = self._grid(chosen, made, self._instants(made))
        chance = grid.hits.mean(axis=1)
        bits = _bits(grid.tags)
        worth = -bits if self._goal.shape is None else _shots_to_come(grid, chance)
        stays = np.array([drops == self._begin.drops for drops in chosen])
        worth = worth + MOVING_COSTS * ~np.repeat(stays, grid.flash_us.shape[1])
        main = self._candidate(grid, int(np.argmin(worth)), Aim.BEST, chance, bits)
        safer = self._other(grid, chance, bits, chance, main, Aim.SAFER)
        bolder = self._other(grid, chance, bits, bits, main, Aim.BOLDER)
        return Proposal(self._goal, self._begin, main, safer, bolder)

    def _sized(self) -> Sequence:
        """Return what is in hand; for the very first shot with larger drops, where that makes the goal easier to hit.
        Later ones keep their sizes: what was learned is of these.
        """
        if self._belief.seen or self._goal.keeps_sizes or not self._goal.is_collision:
            return self._begin
        return larger(self._begin, self._belief.unknowns.setup) or self._begin

    def _promising(self, all_trains: list[tuple[Pulse, ...]]) -> list[tuple[Pulse, ...]]:
        """Return the few trains that give the goal most room, and the one in hand."""
        if len(all_trains) <= TRAINS:
            return all_trains
        made = courses(all_trains, self._belief.unknowns, self._few)
        if self._goal.shape is None:
            room = np.isfinite(made.height_m).mean(axis=1) * 1.0
        else:
            first, last = made.window_s(INDEX[self._goal.shape])
            with np.errstate(invalid="ignore"):
                length = np.where(last > first, last - first, 0.0)
            # How much of the jitter a window outlasts decides, not how long it is beyond that.
            room = (np.tanh(length / (3 * made.jitter_s)) * made.height_fits(self._goal)).mean(axis=1)
        order = np.argsort(-room, kind="stable")[:TRAINS]
        return [drops for i, drops in enumerate(all_trains) if i in order or drops == self._begin.drops]

    def _instants(self, made: Courses) -> NDArray[np.int64]:
        """Return the flash times to try with each train, shape (trains, t) [µs]: all over what its rigs may show."""
        landed = np.where(np.isfinite(made.end_s[1]), made.end_s[1], np.nan)
        if not np.isfinite(landed).any(axis=1).all():
            raise CoachError("No drop falls with these openings: open the valve longer than its dead time.")
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

    def _candidate(self, grid: _Grid, place: int, aim: Aim, chance: Floats, bits: Floats) -> Candidate:
        per_train = grid.flash_us.shape[1]
        train, at = place // per_train, int(grid.flash_us.reshape(-1)[place])
        first, *others = self._begin.flashes or (FlashPulse(0),)
        sequence = replace(self._begin, drops=grid.trains[train], flashes=(replace(first, at_us=held(at)), *others))
        one = grid.made.of_train(train).chances(np.array([[at / US_PER_S]]))
        shares = one[:, 0, 0].mean(axis=1)
        clean = clean_share(self._belief.unknowns.belief.variation, self._goal.drops)
        shares = clean * shares
        shares[INDEX["satellites-or-bubbles"]] += 1 - clean
        order = np.argsort(-shares, kind="stable")
        shapes = {KEYS[i]: float(shares[i]) for i in order if shares[i] > 0.005}
        return Candidate(sequence, aim, float(clean * chance[place]), shapes, float(bits[place]))

    def _other(
        self, grid: _Grid, chance: Floats, bits: Floats, by: Floats, main: Candidate, aim: Aim
    ) -> Candidate | None:
        """Return the best timing by another measure, if it is another timing."""
        made = self._candidate(grid, int(np.argmax(by)), aim, chance, bits)
        apart = abs(made.sequence.first_flash_us - main.sequence.first_flash_us)
        return made if apart >= APART_US or made.sequence.drops != main.sequence.drops else None


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
