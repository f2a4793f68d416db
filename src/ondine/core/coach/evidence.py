"""What a shot showed, and how likely that is on each rig."""

from __future__ import annotations

import math
from collections.abc import Sequence as Many
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ondine.core.belief.rigs import Rigs
from ondine.core.coach.pairs import Shown, is_pair, what_is_shown
from ondine.core.coach.tags import FLOOR, TAGGED_AS, TELLING_NOTHING
from ondine.core.coach.unknowns import Unknowns
from ondine.core.constants import US_PER_S
from ondine.core.forecast.phases import INDEX, Phases, phases
from ondine.core.forecast.whole import Forecast, forecast_each
from ondine.core.physics import meeting
from ondine.core.timing.sequence import Pulse, Sequence

Floats = NDArray[np.float64]

LOGISTIC = math.sqrt(3) / math.pi
"""Scale of a logistic distribution whose standard deviation is one."""

READ_ERROR_M, READ_ERROR_SHARE = 1.5e-3, 0.06
"""How well a height or a width read off a picture is known. An estimate."""


@dataclass(frozen=True)
class Seen:
    """What one shot showed: its `sequence`, the key of the `shape` that it was tagged with, and what was measured in
    the picture: the height over the water of the jet's tip or of the sheet, and the width of the sheet [m]. `shot` is
    its number in the log.
    """

    sequence: Sequence
    shape: str
    height_m: float | None = None
    shot: int = 0
    width_m: float | None = None

    @property
    def tells(self) -> bool:
        """Whether it says anything of when something stood."""
        known = self.shape in INDEX and self.shape not in TELLING_NOTHING
        return known and bool(self.sequence.drops) and bool(self.sequence.flashes)


def log_likelihood(seen: Many[Seen], unknowns: Unknowns, rigs: Rigs) -> Floats:
    """Logarithm of the probability of what each shot showed on each rig, shape (shots, n).

    Shots whose tag tells nothing are as likely on every rig.
    """
    made = np.zeros((len(seen), rigs.count))
    pairs = [index for index, one in enumerate(seen) if one.tells and is_pair(one, unknowns)]
    if pairs:
        made[pairs] = _of_pairs([seen[i] for i in pairs], unknowns, rigs)
    groups: dict[tuple[int, ...], list[int]] = {}
    for index, one in enumerate(seen):
        if one.tells and index not in pairs:
            groups.setdefault(_order(one.sequence), []).append(index)
    for members in groups.values():
        made[members] = _of_like_shots([seen[i] for i in members], unknowns, rigs)
    return made


def _of_pairs(seen: list[Seen], unknowns: Unknowns, rigs: Rigs) -> Floats:
    """The same for shots of one drop, or of two on one spot."""
    shown = what_is_shown(seen, unknowns, rigs)
    made = np.log(shown.probability)
    _add_measured(made, seen, shown, unknowns, rigs)
    return made


def _order(sequence: Sequence) -> tuple[int, ...]:
    """What shots must have in common to be forecast at once: which valves open, and in which order."""
    starts = np.array([pulse.start_us for pulse in sequence.drops])
    return (*(pulse.valve for pulse in sequence.drops), *np.argsort(starts, kind="stable").tolist())


def _of_like_shots(seen: list[Seen], unknowns: Unknowns, rigs: Rigs) -> Floats:
    """The same for shots that open the same valves in the same order."""
    firsts: dict[tuple[Pulse, ...], int] = {}
    whose = np.array([firsts.setdefault(one.sequence.drops, len(firsts)) for one in seen])
    what = forecast_each(unknowns.setup, unknowns.belief, [Sequence(drops, ()) for drops in firsts], rigs)
    flash_s = np.array([one.sequence.first_flash_us / US_PER_S for one in seen])
    tags = np.array([INDEX[one.shape] for one in seen])
    missed = np.ones((len(seen), rigs.count))
    for spot in what.spots:
        # Of several landing spots each may be what the tag speaks of.
        missed *= 1 - _of_spot(phases(what, spot), whose, flash_s, tags, rigs)
    made = np.log(1 - missed)
    if any(one.height_m is not None or one.width_m is not None for one in seen):
        when = flash_s[:, None], whose, rigs.count
        _add_measured(made, seen, Shown(1 - missed, *_heights(what, *when), *_widths(what, *when)), unknowns, rigs)
    return made


def _of_spot(course: Phases, whose: NDArray[np.intp], flash_s: Floats, tags: NDArray[np.intp], rigs: Rigs) -> Floats:
    """Probability of each tag on each rig, shape (shots, n); whose : the number of each shot's forecast."""
    count = rigs.count
    shapes = course.shapes
    scale = LOGISTIC * rigs.jitter_s
    probability = np.full((len(tags), count), FLOOR)
    for index, shape in enumerate(shapes):
        rows = np.flatnonzero(TAGGED_AS[tags, shape] > FLOOR * 1.001)
        if not len(rows):
            continue
        starts, ends = (edge.reshape(-1, count)[whose[rows]] for edge in (course.start_s[index], course.end_s[index]))
        weight = TAGGED_AS[tags[rows], shape] - FLOOR
        share = _until(flash_s[rows, None], starts, scale) - _until(flash_s[rows, None], ends, scale)
        probability[rows] += weight[:, None] * share
    return probability


def _until(time_s: Floats, edge_s: Floats, scale_s: Floats) -> Floats:
    """Probability that an edge has passed at a time, with logistic jitter: it forgives what a normal one would not."""
    with np.errstate(invalid="ignore", over="ignore"):
        return np.asarray(0.5 + 0.5 * np.tanh((time_s - edge_s) / (2 * scale_s)))


def _add_measured(made: Floats, seen: list[Seen], shown: Shown, unknowns: Unknowns, rigs: Rigs) -> None:
    """Add to logarithms of shape (shots, n) how well the heights and widths fit that were measured."""
    camera = unknowns.setup.camera
    for values, expected, moves, frame_m in (
        ([one.height_m for one in seen], shown.height_m, shown.rises_m_s, camera.frame_top_m),
        ([one.width_m for one in seen], shown.width_m, shown.widens_m_s, camera.frame_width_m),
    ):
        known = [(row, value) for row, value in enumerate(values) if value is not None and math.isfinite(value)]
        if known:
            rows = [row for row, _ in known]
            measured = np.array([[value] for _, value in known])
            made[rows] += _of_measured(measured, expected[rows], moves[rows] * rigs.jitter_s, frame_m)


def _of_measured(measured: Floats, expected: Floats, moves: Floats, frame_m: float) -> Floats:
    """Log-likelihood of lengths that were read off pictures, shape (shots, n).

    measured : of shape (shots, 1) [m]; expected, moves : the length on each rig, and by how much jitter changes it [m];
    frame_m : the frame's extent.
    """
    error = np.hypot(READ_ERROR_M + READ_ERROR_SHARE * measured, moves)
    with np.errstate(invalid="ignore"):
        fits = np.exp(-0.5 * ((measured - expected) / error) ** 2) / error
    # What was measured may be the wrong thing: then it is anything in the picture.
    anything = 1 / max(frame_m, 0.1)
    return np.asarray(np.log(0.9 * np.nan_to_num(fits) / math.sqrt(2 * math.pi) + 0.1 * anything))


def _heights(what: Forecast, now: Floats, whose: NDArray[np.intp], count: int) -> tuple[Floats, Floats]:
    """Height of jet or sheet at a time, and its speed up or down: shape (shots, n) [m], [m/s]; NaN where neither is."""
    made, meets = what.splashes, what.meetings
    height, speed = np.full((len(whose), count), np.nan), np.full((len(whose), count), 0.0)
    for k in range(len(what.sequence.drops)):
        parts = (
            made.jet_s,
            made.jet_m_s,
            made.jet_slows_m_s2,
            made.ends_s,
            meets.stops_s,
            meets.height_m,
            meets.sheet_m_s,
            meets.brake_m,
        )
        jet, rises, slows, ends, met, met_at, drifts, brake = (part[k].reshape(-1, count)[whose] for part in parts)
        since, age = now - jet, now - met
        with np.errstate(invalid="ignore"):
            up = (since > 0) & (now < ends) & (rises * since > slows * since**2 / 2)
            on = age > 0
        height = np.where(up, rises * since - slows * since**2 / 2, height)
        speed = np.where(up, rises - slows * since, speed)
        moved, moves = meeting.sheet_sinking_m(age, drifts, brake)
        height = np.where(on, met_at + moved, height)
        speed = np.where(on, moves, speed)
    # Drops that ran together make a jet of another size: nobody measures that for the one that was meant.
    merged = what.falls.merged.any(axis=0).reshape(-1, count)[whose]
    return np.where(merged, np.nan, height), np.abs(speed)


def _widths(what: Forecast, now: Floats, whose: NDArray[np.intp], count: int) -> tuple[Floats, Floats]:
    """Width of the last sheet at a time, and its speed: shape (shots, n) [m], [m/s]; NaN where none is open."""
    meets = what.meetings
    width, speed = np.full((len(whose), count), np.nan), np.zeros((len(whose), count))
    for k in range(len(what.sequence.drops)):
        parts = (meets.stops_s[k], meets.sheet_life_s[k], meets.widest_m[k], what.falls.diameter_m[k])
        met, life, widest, diameter = (part.reshape(-1, count)[whose] for part in parts)
        peak = what.rigs.sheet_peak_share.reshape(-1, count)[whose]
        radius = meeting.sheet_radius_m(now - met, life, peak, widest, diameter)
        width = np.where(radius > 0, 2 * radius, width)
        speed = np.where(radius > 0, 2 * meeting.sheet_edge_speed_m_s(now - met, life, peak, widest), speed)
    merged = what.falls.merged.any(axis=0).reshape(-1, count)[whose]
    return np.where(merged, np.nan, width), np.abs(speed)
