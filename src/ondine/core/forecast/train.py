"""What each drop of a train does: it opens a crater of its own, or meets what an earlier one has left standing.

Drops that land on one spot are taken in the order in which they land, on each sampled rig.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import IntEnum

import numpy as np

from ondine.core.belief.rigs import Rigs
from ondine.core.constants import STANDARD_GRAVITY_M_S2 as G
from ondine.core.forecast.falls import Bools, Falls, Floats, Ints
from ondine.core.physics import meeting, splash
from ondine.core.physics.liquid import Liquid

CRATER_JET_SHARE = 0.8
"""A jet out of a crater that was struck again is slower by this factor, in the middle of a wide spread. An estimate."""

LEAST_COLUMN_M = 1e-3
"""A lower column is a hump of the surface: a drop on it makes a splash."""


PASS_THROUGH_AGE = 0.75
"""A drop that meets a sheet older than this share of its life goes through it, and on to the water."""

ENTRAINED_WITHIN = 0.1
"""So far inside the window of entrainment, in ln(We), a trapped bubble has its whole effect on the jet."""


class On(IntEnum):
    """What a drop meets in the air."""

    NOTHING = 0
    JET = 1
    SHEET = 2
    COLUMN = 3
    BEAD = 4
    THROUGH = 5
    """An old sheet, which it tears: it falls on to the water."""


@dataclass(frozen=True, eq=False)
class Splashes:
    """What each drop does to the pool. Arrays of shape (k, n): NaN for a drop that meets something in the air.

    `ends_s` : when the jet is met by a drop, or the crater struck by one, which takes the jet that was to come;
    infinite if neither happens. What would come later than that does not come. `in_crater` : it landed in an open
    crater. Where the impact is too weak for a crown or a jet, their times are NaN. `tip_m` : radius of the jet's tip;
    `outside_entrainment` : how far the impact lies outside the window in which drops trap bubbles, below 0 inside.
    """

    touchdown_s: Floats
    crater_m: Floats
    deepest_s: Floats
    crown_end_s: Floats
    jet_s: Floats
    jet_m_s: Floats
    jet_slows_m_s2: Floats
    jet_delay_s: Floats
    tip_m: Floats
    bead_s: Floats
    outside_entrainment: Floats
    ends_s: Floats
    in_crater: Bools


@dataclass(frozen=True, eq=False)
class Meetings:
    """Each drop that meets something in the air. Shape (k, n): NaN where it does not.

    `sheet_m_s`, `brake_m` : how fast the sheet that it opens starts, and what brakes it, see `meeting.sheet_sinking_m`;
    `struck_share` : how old the sheet was that it met, as a share of its life [1]; `aside_m` : how far off the axis it
    met it; `on` : what it meets, see `On`; `splash` : number of the drop whose splash stands there, -1 for none.
    A drop that goes through a sheet opens none, and lands: then all of its sheet is NaN.
    """

    time_s: Floats
    height_m: Floats
    closing_m_s: Floats
    sheet_m_s: Floats
    brake_m: Floats
    sheet_life_s: Floats
    widest_m: Floats
    struck_share: Floats
    aside_m: Floats
    on: Ints
    splash: Ints

    @property
    def passes(self) -> Bools:
        """Where a drop goes through an old sheet."""
        return np.asarray(self.on == On.THROUGH)

    @property
    def stops_s(self) -> Floats:
        """When a drop is stopped in the air [s]; NaN where it is not."""
        return np.where(self.passes, np.nan, self.time_s)

    @property
    def passes_s(self) -> Floats:
        """When a drop goes through a sheet [s]; NaN where it does not."""
        return np.where(self.passes, self.time_s, np.nan)


def train(
    falls: Falls,
    groups: tuple[tuple[int, ...], ...],
    rigs: Rigs,
    pool: Liquid,
    sheets: tuple[Floats, Floats],
    luck: Ints,
) -> tuple[Splashes, Meetings]:
    """Return what the drops do, group by group of those that land on one spot.

    sheets : of each drop, as it falls from its valve, the life of its sheet [s] and the sheet's greatest radius for
    each m/s of closing speed [s], both of shape (k, n); luck : as in `falls_of`.
    """
    shape = falls.diameter_m.shape
    splashes = _alone(falls, rigs, pool, luck)
    values = np.full((len(_KEPT), *shape), np.nan)
    on, owner = np.zeros(shape, dtype=np.intp), np.full(shape, -1, dtype=np.intp)
    _Spots(falls, rigs, splashes, values, on, owner, sheets, luck).run(groups)
    return splashes, Meetings(**dict(zip(_KEPT, values, strict=True)), on=on, splash=owner)


_KEPT = (
    "time_s", "height_m", "closing_m_s", "sheet_m_s", "brake_m", "sheet_life_s", "widest_m", "struck_share", "aside_m",
)  # fmt: skip
"""The numbers of a meeting, in the order in which they are kept while drops land."""


def _alone(falls: Falls, rigs: Rigs, pool: Liquid, luck: Ints) -> Splashes:
    """Return what each drop would do to calm water."""
    diameter, speed, touchdown = falls.diameter_m, falls.impact_m_s, falls.touchdown_s
    crater = splash.crater_radius_m(diameter, speed, rigs.energy_share, pool)
    outside = splash.entrainment(diameter, speed, pool)
    slows = np.broadcast_to(G * rigs.jet_slowing_factor, crater.shape).copy()
    factor = rigs.jet_speed_factor * _entrained(outside, rigs.wild_luck[luck])
    clock = splash.crater_clock_s(crater)
    jets, crowns = splash.makes_jet(diameter, speed, pool), splash.makes_crown(diameter, speed, pool)
    delay = rigs.jet_delay_factor * clock
    jet = np.where(jets, touchdown + delay, np.nan)
    rises = np.where(jets, splash.jet_speed_m_s(crater, factor, slows, pool), np.nan)
    top = splash.jet_top_m(rises, slows)
    tip = splash.jet_radii_m(top, top, crater)[0]
    return Splashes(
        touchdown_s=touchdown.copy(),
        crater_m=crater,
        deepest_s=touchdown + splash.CRATER_DEEPEST_SHARE * clock,
        crown_end_s=np.where(crowns, touchdown + rigs.crown_time_factor * splash.CROWN_END_SHARE * clock, np.nan),
        jet_s=jet,
        jet_m_s=rises,
        jet_slows_m_s2=slows,
        jet_delay_s=delay,
        tip_m=tip,
        bead_s=jet + rigs.bead_time_factor * splash.bead_delay_s(tip, pool),
        outside_entrainment=outside,
        ends_s=np.full(crater.shape, np.inf),
        in_crater=np.zeros(crater.shape, dtype=bool),
    )


def _entrained(outside: Floats, wild: Floats) -> Floats:
    """By what factor jets are faster whose craters close early over a bubble; wild : the luck of such jets."""
    if not (outside < 0).any():
        return np.ones(1)
    share = np.clip(-np.nan_to_num(outside) / ENTRAINED_WITHIN, 0.0, 1.0)
    return np.asarray(np.exp(share * (np.log(splash.ENTRAINED_JET_FACTOR) + wild)))


@dataclass
class _Spots:
    """The landing spots while the drops come down on them: what stands there now, on each rig of each spot.

    All spots at once, one behind the other in arrays of shape (spots · n,): a hand drags, and each call costs more than
    what it counts.
    """

    falls: Falls
    rigs: Rigs
    splashes: Splashes
    values: Floats
    on: Ints
    owner: Ints
    sheets: tuple[Floats, Floats]
    luck: Ints

    def run(self, groups: tuple[tuple[int, ...], ...]) -> None:
        """Let the drops of each spot land one after the other."""
        count, most = self.rigs.count, max(map(len, groups), default=0)
        rig = np.tile(np.arange(count), len(groups))
        # Which drop lands on a spot as the first, the second, and so on; -1 once all of the spot's have.
        order = np.full((most, len(rig)), -1, dtype=np.intp)
        for spot, group in enumerate(groups):
            ranks = np.argsort(self.falls.touchdown_s[list(group)], axis=0, kind="stable")
            order[: len(group), spot * count : (spot + 1) * count] = np.asarray(group)[ranks]
        # The number of the drop whose splash stands there, -1 for calm water; of the drop whose sheet or column does.
        self.standing = np.full(len(rig), -1, dtype=np.intp)
        self.carried = np.full(len(rig), -1, dtype=np.intp)
        for rank, drop in enumerate(order):
            self._land(np.maximum(drop, 0), rig, drop >= 0, first=rank == 0)

    def _land(self, drop: Ints, rig: Ints, lands: Bools, first: bool) -> None:
        there = lands & np.isfinite(self.falls.touchdown_s[drop, rig])
        if first:
            self.standing = np.where(there, drop, -1)
            return
        met = self._onto_sheet(drop, rig, there)
        met = np.where(met[0] == On.NOTHING, self._onto_jet(drop, rig, there), met)
        self._record(drop, rig, met)
        stopped = (met[0] != On.NOTHING) & (met[0] != On.THROUGH)
        self._hit_pool(drop, rig, there & ~stopped)

    def _onto_sheet(self, drop: Ints, rig: Ints, there: Bools) -> Floats:
        """Drops on the sheet that the drop before them opened, or on the column that outlives it.

        Returns rows: what is met, time, height, closing speed, speed of the new sheet, age of the one that is met as a
        share of its life, how far off the axis; shape (7, n).
        """
        nothing = np.full((7, len(rig)), np.nan)
        nothing[0] = On.NOTHING
        carried = there & (self.carried >= 0)
        if not carried.any():
            return nothing
        met, height, _, drift, brake, life, *_ = self.values[:, np.maximum(self.carried, 0), rig]
        lands, speed = self.falls.touchdown_s[drop, rig], self.falls.impact_m_s[drop, rig]
        with np.errstate(invalid="ignore"):
            x = meeting.onto_sheet_s(lands - met, speed, height, drift, brake)
            on_sheet = carried & (x > 0) & (x < life)
            moved, moves = meeting.sheet_sinking_m(x, drift, brake)
            # Its column stands on, and sinks slowly.
            sinks = self.rigs.column_sinks_m_s[rig]
            top = meeting.sheet_height_m(life, height, drift, brake)
            late = (speed * (lands - met - life) - top) / (speed - sinks)
            at = np.where(on_sheet, height + moved, top - sinks * late)
            aside = self._aside_m(drop, rig, at)
            hits = carried & (aside < self._reach_m(drop, rig))
            on_sheet &= hits & (at > -self.falls.diameter_m[drop, rig])
            on_column = hits & ~on_sheet & (late >= 0) & (late < self.rigs.column_stands_s[rig]) & (at > LEAST_COLUMN_M)
            through = on_sheet & (x > PASS_THROUGH_AGE * life)
        rises = np.where(on_sheet, moves, -sinks)
        return np.stack(
            [
                np.select([through, on_sheet, on_column], [On.THROUGH, On.SHEET, On.COLUMN], On.NOTHING),
                np.where(on_sheet, met + x, met + life + late),
                at,
                speed + rises,
                (rises - speed) / 2,
                np.where(on_sheet, x / life, np.nan),
                aside,
            ]
        )

    def _onto_jet(self, drop: Ints, rig: Ints, there: Bools) -> Floats:
        """Drops on the tip of the jet that stands there, or on the bead that flies ahead of it, as rows of
        `_onto_sheet`.
        """
        whose, made = np.maximum(self.standing, 0), self.splashes
        free = there & (self.standing >= 0) & (self.carried < 0)
        jet, rise, slows = made.jet_s[whose, rig], made.jet_m_s[whose, rig], made.jet_slows_m_s2[whose, rig]
        lands, speed = self.falls.touchdown_s[drop, rig], self.falls.impact_m_s[drop, rig]
        x = meeting.meeting_delay_s(lands - jet, speed, rise, slows)
        tip = rise - slows * x
        height = splash.jet_height_m(x, rise, slows)
        aside = self._aside_m(drop, rig, height)
        with np.errstate(invalid="ignore"):
            found = free & np.isfinite(x) & (aside < self._reach_m(drop, rig))
            bead = found & (jet + x >= made.bead_s[whose, rig])
        return np.stack(
            [
                np.select([bead, found], [On.BEAD, On.JET], On.NOTHING),
                jet + x,
                height,
                speed + tip,
                meeting.sheet_start_m_s(speed, tip, self.rigs.tip_mass_share[rig], bead),
                np.full(len(rig), np.nan),
                aside,
            ]
        )

    def _aside_m(self, drop: Ints, rig: Ints, height_m: Floats) -> Floats:
        """How far from the axis of what stands there a drop comes down at a height; the jet may lean."""
        owner = np.maximum(self.standing, 0)
        leans = self.rigs.lean_luck[self.luck[owner], rig] * np.nan_to_num(height_m)
        return np.asarray(np.abs(self.falls.aside_m[drop, rig] - self.falls.aside_m[owner, rig] - leans))

    def _reach_m(self, drop: Ints, rig: Ints) -> Floats:
        """How far off the axis a drop may come down and still meet what stands there."""
        tip = self.splashes.tip_m[np.maximum(self.standing, 0), rig]
        return np.asarray(self.falls.diameter_m[drop, rig] / 2 + tip)

    def _record(self, drop: Ints, rig: Ints, met: Floats) -> None:
        """Keep the meetings; the jet is spent by the first drop that meets it, and its splash carries a sheet."""
        hits = met[0] != On.NOTHING
        if not hits.any():
            return
        at, on_rig = drop[hits], rig[hits]
        what, time, height, closing, drift, struck, aside = met[:, hits]
        life, widest_s = (part[at, on_rig] for part in self.sheets)
        size, share = self.falls.diameter_m[at, on_rig], self.rigs.tip_mass_share[on_rig]
        bead = what == On.BEAD
        brake = meeting.sheet_brake_m(size, height, share, bead)
        widest = meeting.sheet_share(share, bead) * widest_s * closing
        kept = np.stack([time, height, closing, drift, brake, life, widest, struck, aside])
        opens = what != On.THROUGH
        kept[3:7, ~opens] = np.nan
        self.values[:, at, on_rig] = kept
        self.on[at, on_rig] = what.astype(np.intp)
        self.owner[at, on_rig] = self.standing[hits]
        at, on_rig, time = at[opens], on_rig[opens], time[opens]
        self._take_away(at, on_rig)
        ends = self.splashes.ends_s
        whose = self.standing[hits][opens]
        ends[whose, on_rig] = np.minimum(ends[whose, on_rig], time)
        self.carried[np.flatnonzero(hits)[opens]] = at

    def _take_away(self, drop: Ints, rig: Ints) -> None:
        """A drop that is stopped in the air makes nothing of the pool."""
        made = self.splashes
        for part in (
            made.touchdown_s, made.crater_m, made.deepest_s, made.crown_end_s, made.jet_s, made.jet_m_s, made.tip_m,
            made.bead_s, made.jet_delay_s, made.outside_entrainment,
        ):  # fmt: skip
            part[drop, rig] = np.nan

    def _hit_pool(self, drop: Ints, rig: Ints, hits: Bools) -> None:
        """Drops that come down on water: a splash of their own, or a blow into a crater that is open."""
        made, before = self.splashes, np.maximum(self.standing, 0)
        began, open_for = made.touchdown_s[before, rig], made.jet_delay_s[before, rig]
        lands = self.falls.touchdown_s[drop, rig]
        with np.errstate(invalid="ignore"):
            struck = hits & (self.standing >= 0) & (self.carried < 0) & (lands < began + open_for)
        if struck.any():
            at, on_rig, old = drop[struck], rig[struck], before[struck]
            made.ends_s[old, on_rig] = np.minimum(made.ends_s[old, on_rig], lands[struck])
            made.in_crater[at, on_rig] = True
            made.crown_end_s[at, on_rig] = np.nan
            wild = np.exp(self.rigs.wild_luck[self.luck[at], on_rig])
            later = made.jet_delay_s[at, on_rig] * (wild**-0.5 - 1)
            for part in (made.jet_s, made.bead_s, made.jet_delay_s):
                part[at, on_rig] += later
            made.jet_m_s[at, on_rig] *= CRATER_JET_SHARE * wild
        self.standing = np.where(hits, drop, self.standing)
        self.carried = np.where(hits, -1, self.carried)
