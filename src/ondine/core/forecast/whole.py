"""What a sequence will do on this table: every event, and the state of the water at any instant."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ondine.core.belief.priors import Belief
from ondine.core.belief.rigs import Rigs, sample_rigs
from ondine.core.constants import STANDARD_GRAVITY_M_S2 as G
from ondine.core.constants import US_PER_S
from ondine.core.physics import drop, flight, meeting, splash
from ondine.core.physics.liquid import Liquid
from ondine.core.setup import Setup
from ondine.core.timing.sequence import Sequence

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]

LONGEST_FALL_SPEED_SHARE = 0.98
"""A drop cannot start faster than this share of its terminal speed: the drag law has no such branch."""


@dataclass(frozen=True, eq=False)
class Falls:
    """The drops on their way down. Arrays of shape (k, n): k drops by n rigs, NaN where a drop merged away."""

    diameter_m: Floats
    release_s: Floats
    terminal_m_s: Floats
    start_m_s: Floats
    height_m: Floats
    touchdown_s: Floats
    impact_m_s: Floats
    merged: Bools


@dataclass(frozen=True, eq=False)
class FirstSplash:
    """What the first drop does to the pool. Arrays of shape (n,): NaN where the impact is too weak."""

    crater_m: Floats
    deepest_s: Floats
    crown_end_s: Floats
    jet_s: Floats
    jet_m_s: Floats
    jet_slows_m_s2: Floats
    jet_delay_s: Floats
    bead_s: Floats


@dataclass(frozen=True, eq=False)
class Meetings:
    """Each later drop on the jet or on the sheet before it. Shape (k, n): row 0, and drops that miss, are NaN."""

    time_s: Floats
    height_m: Floats
    closing_m_s: Floats
    sheet_m_s: Floats
    sheet_life_s: Floats
    widest_m: Floats
    on_sheet: Bools


@dataclass(frozen=True, eq=False)
class Forecast:
    """The future of one sequence on n rigs drawn from the belief; rig 0 is its mean."""

    setup: Setup
    belief: Belief
    sequence: Sequence
    liquid: Liquid
    rigs: Rigs
    falls: Falls
    first: FirstSplash
    meetings: Meetings

    @cached_property
    def jet_spent_s(self) -> Floats:
        """When the first drop meets the jet, shape (n,) [s]; infinite where none does."""
        return np.asarray(np.fmin.reduce(self.meetings.time_s, axis=0, initial=np.inf))


def same_drops(one: Setup, other: Setup) -> bool:
    """Whether two set-ups differ only in what no drop feels: camera, light, bowl, names."""
    jitters = one.triggers.valve_jitter_s, other.triggers.valve_jitter_s
    return one.valves == other.valves and one.mix == other.mix and jitters[0] == jitters[1]


def forecast(setup: Setup, belief: Belief, sequence: Sequence, rigs: Rigs | None = None) -> Forecast:
    """Predict a sequence on a set-up, for `rigs` or for rigs drawn from the belief."""
    if rigs is None:
        rigs = sample_rigs(belief)
    liquid = setup.mix.liquid()
    falls = _falls(setup, sequence, rigs, liquid)
    first = _first_splash(falls, rigs, liquid)
    return Forecast(setup, belief, sequence, liquid, rigs, falls, first, _meetings(falls, first, rigs, liquid))


def _falls(setup: Setup, sequence: Sequence, rigs: Rigs, liquid: Liquid) -> Falls:
    open_s = np.array([[p.open_us / US_PER_S] for p in sequence.drops])
    start_s = np.array([[p.start_us / US_PER_S] for p in sequence.drops])
    gap_s = np.array([(b.start_us - a.end_us) / US_PER_S for a, b in pairwise(sequence.drops)])
    flow = setup.valves[0].flow_m3_s * rigs.flow_factor
    volume = drop.drop_volume_m3(open_s, flow, setup.valves[0].dead_time_s)
    count = len(sequence.drops)
    volume = volume * (1 + rigs.volume_luck[:count])
    release = start_s + drop.release_delay_s(open_s, rigs.lag_s, rigs.release_share)
    release = release + setup.triggers.valve_jitter_s * rigs.release_luck[:count]
    merged = np.zeros(volume.shape, dtype=bool)
    if count > 1:
        own = drop.drop_diameter_m(volume[:-1])
        reshaping = drop.capillary_time_s(own, liquid.density_kg_m3, liquid.surface_tension_n_m)
        merged[1:] = drop.merges(gap_s[:, None], reshaping, rigs.merge_ratio)
    if merged.any():
        # Backwards, so that a chain of merging drops ends up whole in its first one.
        for later in range(count - 1, 0, -1):
            volume[later - 1] += np.where(merged[later], volume[later], 0.0)
    exists = ~merged & (volume > 0)
    diameter = np.where(exists, drop.drop_diameter_m(volume), np.nan)
    terminal = flight.terminal_speed_m_s(diameter, liquid.density_kg_m3)
    start = np.minimum(rigs.start_speed_m_s, LONGEST_FALL_SPEED_SHARE * terminal)
    height = np.broadcast_to(np.maximum(setup.valves[0].nozzle_height_m + rigs.height_error_m, 1e-3), diameter.shape)
    fall = flight.fall_time_s(height, start, terminal)
    return Falls(
        diameter_m=diameter,
        release_s=np.where(exists, release, np.nan),
        terminal_m_s=terminal,
        start_m_s=start,
        height_m=height,
        touchdown_s=np.where(exists, release + fall, np.nan),
        impact_m_s=flight.fall_speed_m_s(fall, start, terminal),
        merged=merged,
    )


def _first_splash(falls: Falls, rigs: Rigs, liquid: Liquid) -> FirstSplash:
    diameter, speed, touchdown = falls.diameter_m[0], falls.impact_m_s[0], falls.touchdown_s[0]
    crater = splash.crater_radius_m(diameter, speed, rigs.energy_share)
    clock = splash.crater_clock_s(crater)
    jets = splash.makes_jet(diameter, speed, liquid)
    crowns = splash.makes_crown(diameter, speed, liquid)
    delay = rigs.jet_delay_factor * clock
    jet = np.where(jets, touchdown + delay, np.nan)
    return FirstSplash(
        crater_m=crater,
        deepest_s=touchdown + splash.CRATER_DEEPEST_SHARE * clock,
        crown_end_s=np.where(crowns, touchdown + rigs.crown_time_factor * splash.CROWN_END_SHARE * clock, np.nan),
        jet_s=jet,
        jet_m_s=np.where(jets, splash.jet_speed_m_s(crater, rigs.jet_speed_factor, liquid), np.nan),
        jet_slows_m_s2=G * rigs.jet_slowing_factor,
        jet_delay_s=delay,
        bead_s=jet + splash.bead_delay_s(crater, liquid),
    )


def _meetings(falls: Falls, first: FirstSplash, rigs: Rigs, liquid: Liquid) -> Meetings:
    rows: list[Floats] = [np.full((6, rigs.count), np.nan)]
    on_sheet = [np.zeros(rigs.count, dtype=bool)]
    jet_spent = on_sheet[0]
    onto_jet = _onto_jet(falls, first, rigs, liquid)
    for k in range(1, len(falls.diameter_m)):
        row = np.where(jet_spent, np.nan, onto_jet[:, k])
        hits_sheet = np.zeros(rigs.count, dtype=bool)
        if np.any(np.isfinite(rows[k - 1][0])):
            onto_sheet = _onto_sheet(k, falls, rows, rigs, liquid)
            hits_sheet = np.isfinite(onto_sheet[0])
            row = np.where(hits_sheet, onto_sheet, row)
        rows.append(row)
        on_sheet.append(hits_sheet)
        # The jet is spent by the first drop that meets it: a later one finds a sheet there, or nothing.
        jet_spent = jet_spent | np.isfinite(row[0])
    time, height, closing, drift, life, widest = np.stack(rows, axis=1)
    return Meetings(time, height, closing, drift, life, widest, np.array(on_sheet))


def _onto_jet(falls: Falls, first: FirstSplash, rigs: Rigs, liquid: Liquid) -> Floats:
    """Each drop alone meets the tip of the first one's jet: its six rows as `Meetings` names them, shape (6, k, n)."""
    speed = falls.impact_m_s
    x = meeting.meeting_delay_s(falls.touchdown_s - first.jet_s, speed, first.jet_m_s, first.jet_slows_m_s2)
    tip = first.jet_m_s - first.jet_slows_m_s2 * x
    height = splash.jet_height_m(x, first.jet_m_s, first.jet_slows_m_s2)
    share = rigs.tip_mass_share
    drift = (share * tip - speed) / (1 + share)
    return _sheet(first.jet_s + x, height, speed + tip, drift, falls.diameter_m, rigs, liquid)


def _onto_sheet(k: int, falls: Falls, rows: list[Floats], rigs: Rigs, liquid: Liquid) -> Floats:
    """Drop k meets the sheet that the drop before it opened, which drifts and falls freely meanwhile."""
    met, height, _, drift, life, _ = rows[k - 1]
    speed = falls.impact_m_s[k]
    reach = (drift + speed) ** 2 - 2 * G * (speed * (falls.touchdown_s[k] - met) - height)
    with np.errstate(invalid="ignore"):
        x = (drift + speed - np.sqrt(reach)) / G
        meets = (reach >= 0) & (x > 0) & (x < life)
    x = np.where(meets, x, np.nan)
    sheet_speed = drift - G * x
    closing = speed + sheet_speed
    at = height + drift * x - G * x * x / 2
    return _sheet(met + x, at, closing, (sheet_speed - speed) / 2, falls.diameter_m[k], rigs, liquid)


def _sheet(
    time_s: Floats,
    height_m: Floats,
    closing_m_s: Floats,
    drift_m_s: Floats,
    diameter_m: Floats,
    rigs: Rigs,
    liquid: Liquid,
) -> Floats:
    """Stack a meeting's six rows as `Meetings` names them, shape (6, n), or (6, k, n) for k drops."""
    meets = np.isfinite(time_s)
    life = np.where(meets, rigs.sheet_time_factor * meeting.sheet_time_s(diameter_m, liquid), np.nan)
    widest = rigs.sheet_width_factor * meeting.widest_sheet_m(diameter_m, closing_m_s, liquid)
    return np.stack([time_s, height_m, closing_m_s, drift_m_s, life, widest])
