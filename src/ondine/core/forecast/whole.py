"""What a sequence will do on this table: every event, and the state of the water at any instant."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ondine.core.belief.priors import Belief
from ondine.core.belief.rigs import Rigs, sample_rigs
from ondine.core.forecast.falls import Falls, Floats, falls_of, spots
from ondine.core.forecast.train import Meetings, Splashes, train
from ondine.core.physics import meeting
from ondine.core.physics.liquid import Liquid
from ondine.core.setup import Setup
from ondine.core.timing.sequence import Sequence


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
    """The future of one sequence on n rigs drawn from the belief; rig 0 is its mean. `pool` is the bowl's liquid."""

    setup: Setup
    belief: Belief
    sequence: Sequence
    pool: Liquid
    rigs: Rigs
    spots: tuple[Spot, ...]
    falls: Falls
    splashes: Splashes
    meetings: Meetings

    @cached_property
    def replaced_s(self) -> Floats:
        """When a later drop makes a splash of its own where this one made one, shape (k, n) [s]; infinite if none."""
        began, when = self.splashes.touchdown_s, np.full(self.splashes.touchdown_s.shape, np.inf)
        for spot in self.spots:
            own = list(spot.drops)
            for drop in own:
                with np.errstate(invalid="ignore"):
                    later = np.where(began[own] > began[drop], began[own], np.inf)
                when[drop] = later.min(axis=0)
        return when

    @cached_property
    def taken_s(self) -> Floats:
        """When what a drop has met is met again, or a splash takes its place, shape (k, n) [s]; infinite if never."""
        met, began = self.meetings.time_s, self.splashes.touchdown_s
        when = np.full(met.shape, np.inf)
        for spot in self.spots:
            own = list(spot.drops)
            both = np.concatenate([met[own], began[own]])
            for drop in own:
                with np.errstate(invalid="ignore"):
                    when[drop] = np.where(both > met[drop], both, np.inf).min(axis=0)
        return when

    @cached_property
    def unforeseen_s(self) -> Floats:
        """When on each rig craters of two spots run into each other: what comes then nobody foresees, shape (n,) [s].

        Infinite where they stay apart, or where the earlier splash is over before the other one begins.
        """
        pairs = [
            (i, j, float(np.hypot(one.aside_m - other.aside_m, one.near_m - other.near_m)))
            for place, one in enumerate(self.spots)
            for other in self.spots[place + 1 :]
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


def forecast(setup: Setup, belief: Belief, sequence: Sequence, rigs: Rigs | None = None) -> Forecast:
    """Predict a sequence on a set-up, for `rigs` or for rigs drawn from the belief."""
    if rigs is None:
        rigs = sample_rigs(belief)
    liquids = tuple(setup.mix_of(valve).liquid() for valve in range(len(setup.valves)))
    pool = setup.mix.liquid()
    falls = falls_of(setup, sequence, rigs, liquids)
    groups = spots(setup, sequence)
    splashes, meetings = train(falls, groups, rigs, pool, _sheets(sequence, falls, rigs, liquids))
    places = []
    for group in groups:
        valve = setup.valve(sequence.drops[group[0]].valve)
        places.append(Spot(group, valve.aside_m, valve.x_m))
    return Forecast(setup, belief, sequence, pool, rigs, tuple(places), falls, splashes, meetings)


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
