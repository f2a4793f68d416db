"""Weighing pulses: from grams in a cup to flow, dead time and drop volume, with their errors."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ondine.core.belief.priors import Belief, Prior
from ondine.core.physics.drop import drop_diameter_m
from ondine.core.setup import Setup

CONTRADICTION_CHI2 = 9.0
"""A weighing that lies more than three of its own errors off the line contradicts the others."""

LEAST_FLOW_SPREAD = 0.005
"""From shot to shot a valve varies by about so much, however well it was weighed. Common practice."""


@dataclass(frozen=True)
class Weighing:
    """`pulses` openings of `open_us` each gave `grams`, known to `error_g` (one standard deviation of the scale)."""

    open_us: int
    pulses: int
    grams: float
    error_g: float = 0.02


class WeighingError(ValueError):
    """Weighings that give no flow; the text says why and what to do."""


@dataclass(frozen=True)
class Flow:
    """The line through the weighings: volume per pulse = flow·(open - dead time).

    Standard errors come from the scale's error alone. `covariance` is that of slope [m3/s] and offset [m3], shape
    (2, 2). `misfit` is each weighing's distance from the line in its own errors.
    """

    flow_m3_s: float
    flow_sd_m3_s: float
    dead_time_s: float
    dead_time_sd_s: float
    covariance: tuple[tuple[float, float], tuple[float, float]]
    misfit: tuple[float, ...]
    warning: str = ""

    def volume_m3(self, open_us: int) -> tuple[float, float]:
        """Volume of one drop of this open time and its standard error [m3]."""
        open_s = open_us / 1e6
        (vs, vso), (_, vo) = self.covariance
        spread = math.sqrt(max(vs * open_s**2 + 2 * vso * open_s + vo, 0.0))
        return self.flow_m3_s * max(open_s - self.dead_time_s, 0.0), spread

    def diameter_m(self, open_us: int) -> tuple[float, float]:
        """Diameter of one drop of this open time and its standard error [m]."""
        volume, spread = self.volume_m3(open_us)
        diameter = float(drop_diameter_m(volume))
        return diameter, diameter * spread / (3 * volume) if volume > 0 else 0.0


def flow_from(weighings: Sequence[Weighing], density_kg_m3: float) -> Flow:
    """Fit flow and dead time by weighted least squares.

    weighings : of two or more different open times; density_kg_m3 : of the liquid [kg/m3].
    Raises WeighingError if they give no line, or one that no valve has.
    """
    used = [w for w in weighings if w.grams > 0]
    for w in used:
        if w.pulses < 1 or w.open_us <= 0 or w.error_g <= 0:
            raise WeighingError("Each weighing needs at least one pulse, an open time, and the scale's error.")
    if len({w.open_us for w in used}) < 2:
        raise WeighingError("Weigh at two open times or more, for example 15 and 40 ms: one gives no dead time.")
    open_s = np.array([w.open_us / 1e6 for w in used])
    per_pulse = np.array([w.pulses * density_kg_m3 * 1e3 for w in used])
    volume = np.array([w.grams for w in used]) / per_pulse
    error = np.array([w.error_g for w in used]) / per_pulse
    (slope, offset), cov = _line(open_s, volume, error)
    if slope <= 0:
        raise WeighingError("The longer openings gave no more liquid. Check which weighing is which, then weigh again.")
    dead = -offset / slope
    # First-order propagation of errors through offset/slope.
    spread = cov[1][1] + dead**2 * cov[0][0] + 2 * dead * cov[0][1]
    dead_sd = math.sqrt(max(spread, 0.0)) / slope
    misfit = tuple(float(x) for x in (volume - slope * open_s - offset) / error)
    found = Flow(slope, math.sqrt(cov[0][0]), dead, dead_sd, cov, misfit)
    return replace(found, warning=_contradiction(used, found))


def with_flow(setup: Setup, belief: Belief, flow: Flow, number: int = 0) -> tuple[Setup, Belief]:
    """Return a set-up in which one valve goes by a weighed flow, and the belief in it as far as its error allows."""
    weighed = replace(
        setup.valve(number),
        flow_m3_s=flow.flow_m3_s,
        flow_sd_m3_s=flow.flow_sd_m3_s,
        dead_time_s=max(flow.dead_time_s, 0.0),
        dead_time_sd_s=flow.dead_time_sd_s,
    )
    spread = max(flow.flow_sd_m3_s / flow.flow_m3_s, LEAST_FLOW_SPREAD)
    valves = (*setup.valves[:number], weighed, *setup.valves[number + 1 :])
    return replace(setup, valves=valves), replace(belief, flow_factor=Prior(1.0, spread))


def _line(
    x: np.ndarray, y: np.ndarray, error: np.ndarray
) -> tuple[tuple[float, float], tuple[tuple[float, float], tuple[float, float]]]:
    """Weighted straight line: (slope, offset) and their covariance, in the units given."""
    # Scaled to be near one: volumes of 1e-8 m3 would be lost in the fit's own rounding tolerance.
    sx, sy = float(np.abs(x).max()), float(np.abs(y).max())
    weight = sy / error
    if len(x) > 2:
        (a, b), cov = np.polyfit(x / sx, y / sy, 1, w=weight, cov="unscaled")
    else:
        design = np.stack([x / sx, np.ones_like(x)], axis=1)
        a, b = np.linalg.solve(design, y / sy)
        cov = np.linalg.inv((design * weight[:, None] ** 2).T @ design)
    slope_unit = sy / sx
    return (float(a) * slope_unit, float(b) * sy), (
        (float(cov[0][0]) * slope_unit**2, float(cov[0][1]) * slope_unit * sy),
        (float(cov[0][1]) * slope_unit * sy, float(cov[1][1]) * sy**2),
    )


def _contradiction(used: Sequence[Weighing], found: Flow) -> str:
    """Say which weighings cannot both be right, or nothing."""
    if found.dead_time_s < -3 * found.dead_time_sd_s and found.dead_time_s < -1e-4:
        return (
            f"The line asks for a dead time of {found.dead_time_s * 1e3:.1f} ms, which no valve has. "
            "Weigh the shortest opening again; did the cup hold liquid before?"
        )
    for (i, a), (j, b) in ((p, q) for p in enumerate(used) for q in enumerate(used) if p[0] < q[0]):
        if a.open_us == b.open_us:
            apart = abs(a.grams / a.pulses - b.grams / b.pulses)
            error = math.hypot(a.error_g / a.pulses, b.error_g / b.pulses)
            if apart**2 > CONTRADICTION_CHI2 * error**2:
                return (
                    f"Weighings {i + 1} and {j + 1}, both of {a.open_us / 1000:g} ms, are {apart / error:.0f} errors "
                    "apart. Has the reservoir sunk or air come in? Weigh that open time again."
                )
    worst = max(range(len(used)), key=lambda k: abs(found.misfit[k]))
    if len(used) > 2 and found.misfit[worst] ** 2 > CONTRADICTION_CHI2:
        return (
            f"Weighing {worst + 1} ({used[worst].open_us / 1000:g} ms) lies {abs(found.misfit[worst]):.0f} errors off "
            "the line through the others. Weigh it again."
        )
    return ""
