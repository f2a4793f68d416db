"""The drops on their way down: they leave their valves, fall, and run together where they come too close."""

from __future__ import annotations

import math
from collections.abc import Sequence as Many
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ondine.core.belief.rigs import Rigs
from ondine.core.constants import US_PER_S
from ondine.core.physics import drop, flight
from ondine.core.physics.liquid import Liquid
from ondine.core.setup import Setup, Valve
from ondine.core.timing.sequence import Sequence

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]
Ints = NDArray[np.intp]

LONGEST_FALL_SPEED_SHARE = 0.98
"""A drop cannot start faster than this share of its terminal speed: the drag law has no such branch."""

SAME_SPOT_M = 4.5e-3
"""Drops of two valves that land nearer to each other, a usual drop's diameter, land on the same spot."""

LEAST_FALL_M = 1e-3
"""Drops from lower nozzles are foreseen as from this height."""

SAME_HEIGHT_M = 5e-3
"""Drops that start within this of each other count as from one height: they differ by their own sizes."""

DRIVEN_SLACK = 1.15
"""A measured outlet may be this much narrower than the head allows: heads and outlets are read off by eye."""

FAR_APART_S = 0.02
"""Drops from one height that land and let go so far apart, in the same order, do not touch on the way."""


@dataclass(frozen=True, eq=False)
class Falls:
    """The drops on their way down. Arrays of shape (k, n): k drops by n rigs, NaN where a drop merged away.

    A drop is followed by its lower edge, which is what touches: `height_m` is where that edge is when the drop is let
    go, `touchdown_s` when it reaches the rest level. `merged` : it left the nozzle with the one before it, or ran into
    another in the air, then at `joined_s` (else NaN); `released_m` : its diameter when it left the nozzle;
    `pinch_off_m` : how far under the outlet its neck lets go.
    """

    diameter_m: Floats
    released_m: Floats
    release_s: Floats
    terminal_m_s: Floats
    start_m_s: Floats
    pinch_off_m: Floats
    height_m: Floats
    touchdown_s: Floats
    impact_m_s: Floats
    aside_m: Floats
    merged: Bools
    joined_s: Floats


def spots(setup: Setup, sequence: Sequence) -> tuple[tuple[int, ...], ...]:
    """Group the drops of a sequence by where they land, each group by number; groups by their first drop."""
    found: list[list[int]] = []
    for index, pulse in enumerate(sequence.drops):
        valve = setup.valve(pulse.valve)
        for group in found:
            other = setup.valve(sequence.drops[group[0]].valve)
            if math.hypot(valve.x_m - other.x_m, valve.aside_m - other.aside_m) < SAME_SPOT_M:
                group.append(index)
                break
        else:
            found.append([index])
    return tuple(tuple(group) for group in found)


@dataclass(frozen=True, eq=False)
class Times:
    """When the valves open, and for how long [s]: shape (k, 1) for one sequence on all rigs, (k, n) for one on each."""

    start_s: Floats
    open_s: Floats

    @classmethod
    def of(cls, sequence: Sequence) -> Times:
        """Return the times of one sequence."""
        return cls(
            np.array([[pulse.start_us / US_PER_S] for pulse in sequence.drops]),
            np.array([[pulse.open_us / US_PER_S] for pulse in sequence.drops]),
        )


def falls_of(
    setup: Setup,
    sequence: Sequence,
    rigs: Rigs,
    liquids: tuple[Liquid, ...],
    luck: Ints,
    times: Times | None = None,
) -> Falls:
    """Let the drops of a sequence fall.

    liquids : what falls from each valve; luck : which of the rigs' lucks each drop has, shape (k,); times : other times
    than the sequence's own, at which the valves open in the same order. All times are those at which a flash must be
    asked for to show them: where its light comes late, everything seems early.
    """
    times = times or Times.of(sequence)
    of_drop = [min(max(pulse.valve, 0), len(setup.valves) - 1) for pulse in sequence.drops]
    valves = [setup.valves[v] for v in of_drop]
    flow = np.array([[v.flow_m3_s] for v in valves]) * rigs.flow_of(of_drop)
    dead = np.array([[v.dead_time_s] for v in valves])
    volume = drop.drop_volume_m3(times.open_s, flow, dead)
    volume = volume * (1 + rigs.volume_luck[luck])
    density = np.array([[liquids[v].density_kg_m3] for v in of_drop])
    tension = np.array([[liquids[v].surface_tension_n_m] for v in of_drop])
    leaves = drop.release(
        times.open_s, times.open_s - dead, flow, outlets_m(valves, flow, rigs), rigs.momentum_factor, density, tension
    )
    release = times.start_s + rigs.lag_s + leaves.delay_s - rigs.flash_lag_s
    release = release + np.maximum(setup.triggers.valve_jitter_s, rigs.jitter_s) * rigs.release_luck[luck]
    merged = _merge_at_nozzle(sequence, times, volume, density, tension, rigs)
    exists = ~merged & (volume > 0)
    diameter = np.where(exists, drop.drop_diameter_m(volume), np.nan)
    terminal = flight.terminal_speed_m_s(diameter, density)
    start = np.minimum(leaves.speed_m_s, LONGEST_FALL_SPEED_SHARE * terminal)
    nozzle = np.array([[v.nozzle_height_m] for v in valves])
    height = np.fmax(nozzle + rigs.height_error_m - np.nan_to_num(diameter) / 2, LEAST_FALL_M)
    fall = flight.fall_time_s(height, start, terminal)
    made = Falls(
        diameter_m=diameter,
        released_m=diameter,
        release_s=np.where(exists, release, np.nan),
        terminal_m_s=terminal,
        start_m_s=start,
        pinch_off_m=leaves.pinch_off_m,
        height_m=height,
        touchdown_s=np.where(exists, release + fall, np.nan),
        impact_m_s=flight.fall_speed_m_s(fall, start, terminal),
        aside_m=rigs.aside_luck[luck],
        merged=merged,
        joined_s=np.full(diameter.shape, np.nan),
    )
    for spot in spots(setup, sequence):
        made = _join_in_air(made, spot)
    return made


def outlets_m(valves: Many[Valve], flow_m3_s: Floats, rigs: Rigs) -> Floats:
    """Diameter of the outlet that each drop leaves, shape (k, n) [m]: as measured; else as believed of the orifice.

    valves : of each drop; flow_m3_s : shape (k, n). An outlet that nobody measured is at least so wide that the head
    drives the flow through it; one that was measured narrower contradicts the flow, and is taken as not measured.
    """
    head = np.array([[v.head_m] for v in valves])
    believed = np.array([[v.orifice_diameter_m] for v in valves]) * rigs.outlet_factor
    believed = np.maximum(believed, drop.narrowest_outlet_m(flow_m3_s, head))
    measured = np.array([[measured_outlet_m(v) or np.nan] for v in valves])
    return np.asarray(np.where(np.isnan(measured), believed, measured))


def measured_outlet_m(valve: Valve) -> float | None:
    """Return the outlet of a valve as it was measured [m]; None where it was not, or the head cannot drive the flow
    through it.
    """
    outlet_m = valve.outlet_diameter_m
    if outlet_m is None or DRIVEN_SLACK * outlet_m < drop.narrowest_outlet_m(valve.flow_m3_s, valve.head_m):
        return None
    return outlet_m


def _merge_at_nozzle(
    sequence: Sequence, times: Times, volume: Floats, density: Floats, tension: Floats, rigs: Rigs
) -> Bools:
    """Which drops leave with the one before them from the same valve; that one takes their volume."""
    merged = np.zeros(volume.shape, dtype=bool)
    before = [sequence.before_on_valve(index) for index in range(len(sequence.drops))]
    later = [index for index, first in enumerate(before) if first is not None]
    if not later:
        return merged
    first = [index for index in before if index is not None]
    gap_s = times.start_s[later] - times.start_s[first] - times.open_s[first]
    own = drop.drop_diameter_m(volume[first])
    reshaping = np.sqrt(density[first] * own**3 / tension[first])
    merged[later] = drop.merges(gap_s, reshaping, rigs.merge_ratio)
    if merged.any():
        # Backwards in time, so that a chain of merging drops ends up whole in its first one.
        pairs = zip(first, later, strict=True)
        for into, index in sorted(pairs, key=lambda pair: -sequence.drops[pair[1]].start_us):
            volume[into] += np.where(merged[index], volume[index], 0.0)
    return merged


def _join_in_air(falls: Falls, spot: tuple[int, ...]) -> Falls:
    """Let drops of one spot that touch before the first of them lands go on as one: mass and momentum stay."""
    for one, other in _near_pairs(falls, spot):
        touch = _touches(falls, one, other)
        if touch.any():
            falls = _joined(falls, one, other, touch)
    return falls


def _near_pairs(falls: Falls, spot: tuple[int, ...]) -> list[tuple[int, int]]:
    """Pairs of drops that could touch in the air on some rig: hands drag, and most pairs are far apart on all."""
    pairs = [(one, other) for place, one in enumerate(spot) for other in spot[place + 1 :]]
    if not pairs:
        return []
    first, second = (list(side) for side in zip(*pairs, strict=True))
    lands = falls.touchdown_s[first] - falls.touchdown_s[second]
    leaves = falls.release_s[first] - falls.release_s[second]
    with np.errstate(invalid="ignore"):
        close = (np.abs(lands) < FAR_APART_S) | (lands * leaves < 0)
    uneven = np.abs(falls.height_m[first, 0] - falls.height_m[second, 0]) > SAME_HEIGHT_M
    return [pair for pair, near in zip(pairs, close.any(axis=1) | uneven, strict=True) if near]


def _touches(falls: Falls, one: int, other: int) -> Bools:
    """Where two drops meet in the air: one lands on the other's heels, or would have overtaken it."""
    lands, size, speed = falls.touchdown_s, falls.diameter_m, falls.impact_m_s
    first = lands[one] <= lands[other]
    apart_m = np.abs(lands[other] - lands[one]) * np.where(first, speed[other], speed[one])
    close = apart_m < (size[one] + size[other]) / 2
    both = np.maximum(falls.release_s[one], falls.release_s[other])
    in_air = both < np.minimum(lands[one], lands[other])
    # While the later one lets go, the earlier one has come down so far: who was lower must land first.
    heights = [
        falls.height_m[k]
        - flight.fall_distance_m(np.maximum(both - falls.release_s[k], 0.0), falls.start_m_s[k], falls.terminal_m_s[k])
        for k in (one, other)
    ]
    return np.asarray(in_air & (close | ((heights[0] <= heights[1]) != first)))


def _joined(falls: Falls, one: int, other: int, touch: Bools) -> Falls:
    """Let `one` take up `other` where they touch."""
    mass = falls.diameter_m[[one, other]] ** 3
    share = mass[0] / mass.sum(axis=0)

    def both(values: Floats) -> Floats:
        made = values.copy()
        made[one] = np.where(touch, share * values[one] + (1 - share) * values[other], values[one])
        made[other] = np.where(touch, np.nan, values[other])
        return made

    diameter, merged, joined = falls.diameter_m.copy(), falls.merged.copy(), falls.joined_s.copy()
    diameter[one] = np.where(touch, np.cbrt(mass.sum(axis=0)), diameter[one])
    diameter[other] = np.where(touch, np.nan, diameter[other])
    merged[other] |= touch
    joined[other] = np.where(touch, np.fmin(falls.touchdown_s[one], falls.touchdown_s[other]), joined[other])
    return replace(
        falls,
        diameter_m=diameter,
        touchdown_s=both(falls.touchdown_s),
        impact_m_s=both(falls.impact_m_s),
        merged=merged,
        joined_s=joined,
    )
