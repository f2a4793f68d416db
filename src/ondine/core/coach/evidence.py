"""What a shot showed, and how likely that is on each rig."""

from __future__ import annotations

import math
from collections.abc import Sequence as Many
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ondine.core.belief.rigs import Rigs
from ondine.core.coach.pairs import is_pair, tag_probability
from ondine.core.coach.tags import FLOOR, TAGGED_AS, TELLING_NOTHING
from ondine.core.coach.unknowns import Unknowns
from ondine.core.constants import STANDARD_GRAVITY_M_S2 as G
from ondine.core.constants import US_PER_S
from ondine.core.forecast.phases import INDEX, Phases, phases
from ondine.core.forecast.whole import Forecast, forecast_each
from ondine.core.timing.sequence import Pulse, Sequence

Floats = NDArray[np.float64]

LOGISTIC = math.sqrt(3) / math.pi
"""Scale of a logistic distribution whose standard deviation is one."""

HEIGHT_ERROR_M, HEIGHT_ERROR_SHARE = 1.5e-3, 0.06
"""How well a height read off a picture is known. An estimate."""


@dataclass(frozen=True)
class Seen:
    """What one shot showed: its `sequence`, the key of the `shape` that it was tagged with, and the height over the
    water of the jet's tip or of the sheet, where it was measured [m]. `shot` is its number in the log.
    """

    sequence: Sequence
    shape: str
    height_m: float | None = None
    shot: int = 0

    @property
    def measured(self) -> bool:
        """Whether a height was read off the picture that can be one."""
        return self.height_m is not None and math.isfinite(self.height_m)

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
    probability, height, speed = tag_probability(seen, unknowns, rigs)
    made = np.log(probability)
    measured = [i for i, one in enumerate(seen) if one.measured]
    if measured:
        top_m = unknowns.setup.camera.frame_top_m
        made[measured] += _of_heights([seen[i] for i in measured], height[measured], speed[measured], rigs, top_m)
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
    measured = [i for i, one in enumerate(seen) if one.measured]
    if measured:
        height, speed = _heights_m(what, flash_s[measured, None], whose[measured], rigs.count)
        top_m = unknowns.setup.camera.frame_top_m
        made[measured] += _of_heights([seen[i] for i in measured], height, speed, rigs, top_m)
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


def _of_heights(seen: list[Seen], expected: Floats, moves: Floats, rigs: Rigs, top_m: float) -> Floats:
    """Log-likelihood of measured heights, shape (shots, n): of the jet's tip, or of a sheet that has opened on it.

    expected, moves : height and speed on each rig [m], [m/s]; top_m : the top of the frame.
    """
    measured = np.array([[one.height_m or 0.0] for one in seen])
    error = np.hypot(HEIGHT_ERROR_M + HEIGHT_ERROR_SHARE * measured, moves * rigs.jitter_s)
    with np.errstate(invalid="ignore"):
        fits = np.exp(-0.5 * ((measured - expected) / error) ** 2) / error
    # A height of the wrong thing may be anything in the picture.
    anything = 1 / max(top_m, 0.1)
    return np.asarray(np.log(0.9 * np.nan_to_num(fits) / math.sqrt(2 * math.pi) + 0.1 * anything))


def _heights_m(what: Forecast, now: Floats, whose: NDArray[np.intp], count: int) -> tuple[Floats, Floats]:
    """Height of jet or sheet at a time, and its speed up or down: shape (shots, n) [m], [m/s]; NaN where neither is."""
    made, meets = what.splashes, what.meetings
    height, speed = np.full((len(whose), count), np.nan), np.full((len(whose), count), 0.0)
    for k in range(len(what.sequence.drops)):
        parts = (
            made.jet_s,
            made.jet_m_s,
            made.jet_slows_m_s2,
            made.ends_s,
            meets.time_s,
            meets.height_m,
            meets.sheet_m_s,
        )
        jet, rises, slows, ends, met, met_at, drifts = (part[k].reshape(-1, count)[whose] for part in parts)
        since, age = now - jet, now - met
        with np.errstate(invalid="ignore"):
            up = (since > 0) & (now < ends) & (rises * since > slows * since**2 / 2)
            on = age > 0
        height = np.where(up, rises * since - slows * since**2 / 2, height)
        speed = np.where(up, rises - slows * since, speed)
        height = np.where(on, met_at + drifts * age - G * age**2 / 2, height)
        speed = np.where(on, drifts - G * age, speed)
    # Drops that ran together make a jet of another size: nobody measures that for the one that was meant.
    merged = what.falls.merged.any(axis=0).reshape(-1, count)[whose]
    return np.where(merged, np.nan, height), np.abs(speed)
