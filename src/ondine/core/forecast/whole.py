"""What a sequence will do on this table: every event, and the state of the water at any instant."""

from __future__ import annotations

import math
from collections.abc import Sequence as Many
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

from ondine.core.belief.priors import Belief
from ondine.core.belief.rigs import LUCKY_DROPS, Rigs, repeated, sample_rigs
from ondine.core.forecast.falls import Falls, Floats, Times, falls_of, spots
from ondine.core.forecast.train import Meetings, Splashes, train
from ondine.core.physics import meeting
from ondine.core.physics.liquid import DROP_AGE_S, IMPACT_AGE_S, SHEET_AGE_S, Liquid
from ondine.core.setup import Setup
from ondine.core.timing.sequence import Sequence

DRAWN_RIGS = 6
"""So many rigs are drawn: the mean one, and others behind it."""

Part = TypeVar("Part", Falls, Splashes, Meetings, Rigs)


@dataclass(frozen=True)
class Spot:
    """Where some of the drops land: their numbers, and how far from the landing spot, to the right and towards the
    camera [m].
    """

    drops: tuple[int, ...]
    aside_m: float
    near_m: float


@dataclass(frozen=True, eq=False)
class Forecast:
    """The future of one sequence on n rigs drawn from the belief; rig 0 is its mean. `pool` is the bowl's liquid.

    `as_before` : numbers of the drops that do as in the forecast that this one went on from.
    """

    setup: Setup
    belief: Belief
    sequence: Sequence
    pool: Liquid
    rigs: Rigs
    spots: tuple[Spot, ...]
    falls: Falls
    splashes: Splashes
    meetings: Meetings
    as_before: frozenset[int] = frozenset()

    @cached_property
    def drawn(self) -> Forecast:
        """The same future on the few rigs that are drawn: a hand drags, and all of them are only for chances."""
        return replace(
            self,
            rigs=_on_few(self.rigs),
            falls=_on_few(self.falls),
            splashes=_on_few(self.splashes),
            meetings=_on_few(self.meetings),
        )

    @cached_property
    def replaced_s(self) -> Floats:
        """When a later drop makes a splash of its own where this one made one, shape (k, n) [s]; infinite if none."""
        began = self.splashes.touchdown_s
        when = np.full(began.shape, np.inf)
        for spot in self.spots:
            own = began[list(spot.drops)]
            with np.errstate(invalid="ignore"):
                when[list(spot.drops)] = np.where(own > own[:, None], own, np.inf).min(axis=1)
        return when

    @cached_property
    def taken_s(self) -> Floats:
        """When what a drop has met is met again, or a splash takes its place, shape (k, n) [s]; infinite if never."""
        met, began = self.meetings.stops_s, self.splashes.touchdown_s
        when = np.full(met.shape, np.inf)
        for spot in self.spots:
            own = list(spot.drops)
            both = np.concatenate([met[own], began[own]])
            with np.errstate(invalid="ignore"):
                when[own] = np.where(both > met[own][:, None], both, np.inf).min(axis=1)
        return when

    @cached_property
    def unforeseen_s(self) -> Floats:
        """When on each rig craters of two spots run into each other: what comes then nobody foresees, shape (n,) [s].

        Infinite where they stay apart, or where the earlier splash is over before the other one begins.
        """
        widest_m = float(np.max(self.splashes.crater_m, initial=0.0, where=~np.isnan(self.splashes.crater_m)))
        pairs = [
            (i, j, far_m)
            for place, one in enumerate(self.spots)
            for other in self.spots[place + 1 :]
            if (far_m := math.hypot(one.aside_m - other.aside_m, one.near_m - other.near_m)) < 2 * widest_m
            for i in one.drops
            for j in other.drops
        ]
        if not pairs:
            return np.full(self.rigs.count, np.inf)
        made, one, other = self.splashes, [i for i, _, _ in pairs], [j for _, j, _ in pairs]
        apart_m = np.array([apart for _, _, apart in pairs])[:, None]
        both = np.maximum(made.touchdown_s[one], made.touchdown_s[other])
        with np.errstate(invalid="ignore"):
            near = made.crater_m[one] + made.crater_m[other] > apart_m
            # Rings go on, but what stands there is the jet: until it has sunk.
            rise = 2 * made.jet_m_s / made.jet_slows_m_s2
            over = np.fmax(made.jet_s + rise, made.touchdown_s + made.jet_delay_s)
            open_still = both < np.minimum(over[one], over[other])
        return np.asarray(np.where(near & open_still, both, np.inf).min(axis=0))


def same_drops(one: Setup, other: Setup) -> bool:
    """Whether two set-ups differ only in what no drop feels: camera, light, bowl, names."""
    jitters = one.triggers.valve_jitter_s, other.triggers.valve_jitter_s
    return one.valves == other.valves and one.mix == other.mix and jitters[0] == jitters[1]


def forecast(
    setup: Setup, belief: Belief, sequence: Sequence, rigs: Rigs | None = None, last: Forecast | None = None
) -> Forecast:
    """Predict a sequence on a set-up, for `rigs` or for rigs drawn from the belief.

    last : a forecast to go on from: what drops of other landing spots do is taken from it where nothing has changed.
    """
    if rigs is None:
        rigs = sample_rigs(belief)
    pool = setup.mix.liquid()
    groups = spots(setup, sequence)
    kept = _as_before(setup, sequence, groups, rigs, last)
    falls, splashes, meetings = _foreseen(setup, sequence, rigs, pool, sorted({*range(len(sequence.drops))} - kept))
    if last is not None and kept:
        falls = _rows(falls, last.falls, sorted(kept))
        splashes = _rows(splashes, last.splashes, sorted(kept))
        meetings = _rows(meetings, last.meetings, sorted(kept))
    return Forecast(
        setup, belief, sequence, pool, rigs, _places(setup, sequence, groups), falls, splashes, meetings, kept
    )


def _as_before(
    setup: Setup, sequence: Sequence, groups: tuple[tuple[int, ...], ...], rigs: Rigs, last: Forecast | None
) -> frozenset[int]:
    """Return the drops that do as in another forecast: no drop of their spot has changed."""
    if last is None or last.rigs is not rigs or not (last.setup is setup or same_drops(last.setup, setup)):
        return frozenset()
    known = {spot.drops: [last.sequence.drops[drop] for drop in spot.drops] for spot in last.spots}
    same = [group for group in groups if known.get(group) == [sequence.drops[drop] for drop in group]]
    # Where nothing at all is new, there is no row to put them among.
    return frozenset(drop for group in same for drop in group) if len(same) < len(groups) else frozenset()


def forecast_each(setup: Setup, belief: Belief, sequences: Many[Sequence], rigs: Rigs) -> Forecast:
    """Predict several sequences at once, each on the same n rigs.

    Returns one forecast of all, whose rigs are those of the first sequence, then those of the second, and so on,
    (sequences · n,) in all; its own sequence is the first. All sequences open the same valves in the same order;
    flashes play no part.
    """
    pool, first, count = setup.mix.liquid(), sequences[0], rigs.count
    times = [Times.of(sequence) for sequence in sequences]
    each = Times(
        np.concatenate([np.repeat(one.start_s, count, axis=1) for one in times], axis=1),
        np.concatenate([np.repeat(one.open_s, count, axis=1) for one in times], axis=1),
    )
    all_rigs = repeated(rigs, len(sequences))
    parts = _foreseen(setup, first, all_rigs, pool, [*range(len(first.drops))], each)
    return Forecast(setup, belief, first, pool, all_rigs, _places(setup, first, spots(setup, first)), *parts)


def _places(setup: Setup, sequence: Sequence, groups: tuple[tuple[int, ...], ...]) -> tuple[Spot, ...]:
    valves = [setup.valve(sequence.drops[group[0]].valve) for group in groups]
    return tuple(Spot(group, valve.aside_m, valve.x_m) for group, valve in zip(groups, valves, strict=True))


def _foreseen(
    setup: Setup, sequence: Sequence, rigs: Rigs, pool: Liquid, drops: list[int], times: Times | None = None
) -> tuple[Falls, Splashes, Meetings]:
    """Let some drops of a sequence fall, all of each spot that they belong to; one row for each of them."""
    own = Sequence(tuple(sequence.drops[drop] for drop in drops), ())
    number = np.array(drops, dtype=np.intp)
    luck = number % LUCKY_DROPS
    liquids = tuple(setup.mix_of(valve).liquid() for valve in range(len(setup.valves)))
    falls = falls_of(setup, own, rigs, tuple(one.aged(DROP_AGE_S) for one in liquids), luck, times)
    sheets = _sheets(own, falls, rigs, tuple(one.aged(SHEET_AGE_S) for one in liquids))
    splashes, meetings = train(falls, spots(setup, own), rigs, pool.aged(IMPACT_AGE_S), sheets, luck)
    whose = meetings.splash
    return falls, splashes, replace(meetings, splash=np.where(whose >= 0, number[whose], -1))


def _rows(anew: Part, last: Part, kept: list[int]) -> Part:
    """Put the rows of `last` that are kept among those that were made anew."""
    count = len(kept) + len(next(iter(vars(anew).values())))
    rest = np.delete(np.arange(count), kept)
    # Whatever stands in the other rows of `last`, it is written over.
    source = np.full(count, kept[0])
    source[kept] = kept

    def both(one: NDArray[Any], other: NDArray[Any]) -> NDArray[Any]:
        rows: NDArray[Any] = other[source]
        rows[rest] = one
        return rows

    return type(anew)(**{name: both(values, getattr(last, name)) for name, values in vars(anew).items()})


def _on_few(part: Part) -> Part:
    return type(part)(**{name: values[..., :DRAWN_RIGS] for name, values in vars(part).items()})


def _sheets(sequence: Sequence, falls: Falls, rigs: Rigs, liquids: tuple[Liquid, ...]) -> tuple[Floats, Floats]:
    """Life of each drop's sheet [s], and its greatest radius for each m/s of closing speed [s], shape (k, n)."""
    valves = [min(max(pulse.valve, 0), len(liquids) - 1) for pulse in sequence.drops]
    life, widest = np.empty(falls.diameter_m.shape), np.empty(falls.diameter_m.shape)
    for valve in set(valves):
        own = [drop for drop, fell_from in enumerate(valves) if fell_from == valve]
        life[own] = rigs.sheet_time_factor * meeting.sheet_time_s(falls.diameter_m[own], liquids[valve])
        # The radius goes with the closing speed.
        widest[own] = rigs.sheet_width_factor * meeting.widest_sheet_m(falls.diameter_m[own], 1.0, liquids[valve])
    return life, widest
