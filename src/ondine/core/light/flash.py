"""The flash as shutter: how long it shines at each power, from its manual or from a model."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ondine.core.setup.light import DurationPoint, Flash, FlashKind, Measure

Floats = NDArray[np.float64]

BATTERY_FLASH_DECAY_S = 1.33e-3
BATTERY_FLASH_SWITCHING_S = 13e-6
"""Time constant and switching time fitted to the durations of practice-known battery flashes."""

STUDIO_FLASH_FULL_S = 1.0e-3
STUDIO_FLASH_EXPONENT = 0.15
"""A mains studio flash that lowers its voltage: about 1/1000 s at full power, longer at less. Common practice."""

TENTH_PER_HALF = math.log(10) / math.log(2)
"""t0.1 over t0.5 of an exponential discharge that is not cut off: 3.32."""

UNKNOWN_FACTOR = 1.8
"""How far off a duration may be when nothing of the unit is known: units differ. Common practice."""

FITTED_FACTOR = 1.1
"""How far off a duration may be between the points of a manual."""


class FlashError(ValueError):
    """A unit that cannot be so; the text says which number, and what to do."""


@dataclass(frozen=True)
class LightCurve:
    """Two parameters. Cut-off units: time constant of the discharge and switching time [s]. Voltage units: duration
    t0.5 at full power [s], and the exponent [1] with which it grows at less.
    """

    kind: FlashKind
    scale_s: float
    shape: float

    def duration_s(self, power: ArrayLike, measure: Measure = Measure.HALF) -> Floats:
        """Duration at a power, as t0.5 or t0.1. power : fraction of full, over 0 to 1 [1]. Returns its shape [s].

        Cut-off: min(-τ·ln(1 - p), τ·ln 2 or τ·ln 10) + r. Voltage: t·p^-k, 3.32 times as long as t0.1.
        """
        p = np.asarray(power, dtype=float)
        if self.kind is FlashKind.VOLTAGE:
            half = self.scale_s * p**-self.shape
            return np.asarray(half if measure is Measure.HALF else half * TENTH_PER_HALF)
        with np.errstate(divide="ignore"):
            cut_off = -self.scale_s * np.log1p(-np.minimum(p, 1.0))
        longest = self.scale_s * math.log(2 if measure is Measure.HALF else 10)
        return np.asarray(np.minimum(cut_off, longest) + self.shape)


DEFAULT_CURVES = {
    FlashKind.CUT_OFF: LightCurve(FlashKind.CUT_OFF, BATTERY_FLASH_DECAY_S, BATTERY_FLASH_SWITCHING_S),
    FlashKind.VOLTAGE: LightCurve(FlashKind.VOLTAGE, STUDIO_FLASH_FULL_S, STUDIO_FLASH_EXPONENT),
}


def check_points(points: Iterable[DurationPoint], kind: FlashKind, least_power: float) -> None:
    """Raise FlashError for a table that no unit has."""
    ordered = sorted(points, key=lambda point: point.power)
    if len({point.measure for point in ordered}) > 1:
        raise FlashError(
            "The table mixes t0.5 and t0.1. Write all durations the same way: t0.1 is about three times t0.5."
        )
    for point in ordered:
        if not least_power * 0.99 <= point.power <= 1.0:
            raise FlashError(
                f"1/{1 / point.power:.0f} is outside the unit's powers, 1/{1 / least_power:.0f} to full. "
                "Correct the row, or the unit's least power."
            )
    for lower, upper in pairwise(ordered):
        if lower.power == upper.power:
            raise FlashError(f"1/{1 / lower.power:.0f} stands there twice. Keep one of the rows.")
        if kind is FlashKind.CUT_OFF and lower.duration_s > upper.duration_s:
            raise FlashError(
                f"1/{1 / lower.power:.0f} would shine longer than 1/{1 / upper.power:.0f}: durations fall with the "
                "power in a unit that cuts off. Correct one, or choose the other kind of unit."
            )


def fit_curve(points: Iterable[DurationPoint], kind: FlashKind) -> LightCurve:
    """Fit the two parameters to durations of a manual, by least squares in the logarithm.

    points : two or more at different powers, all of one measure; with one point the scale alone is fitted, with none
    the usual curve is returned. Gauss-Newton on the logarithms of the parameters, so that both stay over zero.
    """
    listed = list(points)
    usual = DEFAULT_CURVES[kind]
    if not listed:
        return usual
    power = np.array([point.power for point in listed])
    seen = np.log([point.duration_s for point in listed])
    measure = listed[0].measure

    def misfit(parameters: Floats) -> Floats:
        curve = LightCurve(kind, float(np.exp(parameters[0])), float(np.exp(parameters[1])))
        return np.asarray(np.log(curve.duration_s(power, measure)) - seen)

    free = 2 if len(listed) > 1 else 1
    found = np.log([usual.scale_s, usual.shape])
    for _ in range(60):
        off = misfit(found)
        slopes = np.stack([(misfit(found + 1e-5 * np.eye(2)[i]) - off) / 1e-5 for i in range(free)], axis=1)
        # A little damping carries it over the kink where the discharge is cut off.
        step = np.linalg.solve(slopes.T @ slopes + 1e-9 * np.eye(free), -slopes.T @ off)
        step = np.clip(step, -0.5, 0.5)
        found[:free] += step
        if np.abs(step).max() < 1e-10:
            break
    # No unit switches in less than a microsecond, or changes its duration faster than its power.
    low, high = (1e-6, 1e-3) if kind is FlashKind.CUT_OFF else (1e-3, 1.0)
    return LightCurve(kind, float(np.exp(found[0])), float(np.clip(np.exp(found[1]), low, high)))


@dataclass(frozen=True)
class Duration:
    """A duration t0.5 [s], and the least and greatest that it may be."""

    half_s: float
    low_s: float
    high_s: float


def curve_of(flash: Flash) -> LightCurve:
    """Return the light curve of a unit, fitted to its table if it has one."""
    return _fitted(flash.durations, flash.kind)


@lru_cache(maxsize=64)
def _fitted(points: tuple[DurationPoint, ...], kind: FlashKind) -> LightCurve:
    return fit_curve(points, kind)


def duration_of(flash: Flash, power: float, curve: LightCurve | None = None) -> Duration:
    """How long a unit shines at a power. The table wins; the curve fills between and beyond it.

    Between two points of the table the curve is bent so as to go through both. With automatic metering the power is not
    known: the duration is that of any power of the unit.
    """
    if flash.automatic:
        return _any_duration(curve or curve_of(flash), flash.least_power)
    return _duration(flash.durations, curve or curve_of(flash), power)


def _any_duration(curve: LightCurve, least_power: float) -> Duration:
    low, high = sorted(float(curve.duration_s(p)) for p in (least_power, 1.0))
    return Duration(math.sqrt(low * high), low, high)


@lru_cache(maxsize=512)
def _duration(points: tuple[DurationPoint, ...], curve: LightCurve, power: float) -> Duration:
    """Kept, because a dragged power asks for the same clicks again and again."""
    half = float(curve.duration_s(power))
    if not points:
        return Duration(half, half / UNKNOWN_FACTOR, half * UNKNOWN_FACTOR)
    ordered = sorted(points, key=lambda point: point.power)
    at = np.log([point.power for point in ordered])
    off = [math.log(point.duration_s / float(curve.duration_s(point.power, point.measure))) for point in ordered]
    bent = half * math.exp(float(np.interp(math.log(power), at, off)))
    beyond = power < ordered[0].power * 0.99 or power > ordered[-1].power * 1.01
    factor = UNKNOWN_FACTOR if beyond else FITTED_FACTOR
    return Duration(bent, bent / factor, bent * factor)


def cautions_of(flash: Flash) -> tuple[str, ...]:
    """Say what of a unit's mode would spoil the picture."""
    found = []
    if flash.high_speed_sync:
        found.append("High-speed sync burns for the whole exposure: it freezes nothing. Switch it off.")
    if flash.kind is FlashKind.VOLTAGE:
        found.append("A studio flash is often too long for drops: take its least power, and read its manual.")
    if flash.automatic:
        found.append("Automatic metering chooses the power, so the duration is not known. Set the power by hand.")
    if not flash.durations:
        found.append("No durations of this unit are known: the usual curve is taken, good to a factor of two.")
    if flash.power < 1 / 64 - 1e-9 and flash.kind is FlashKind.CUT_OFF:
        found.append("So far down many units turn bluer: look at the white balance of a test frame.")
    return tuple(found)
