"""Says what a simulated firing showed, as an attentive photographer would tag it. For demo and tests only."""

from __future__ import annotations

import math

from ondine.bench.simulated.splashes import Splash
from ondine.bench.simulated.world import Happening

LOPSIDED = 0.3
"""A drop that meets a jet so many of its diameters off the axis opens a lopsided sheet."""

DULLEST_FIRST = ("ripples", "collapsed", "crater", "crown", "touchdown")
"""Of several splashes in one picture the eye takes the one that is none of these, or the last of these."""


def seen(what: Happening, time_s: float, frame_top_m: float) -> str:
    """Return the key of the shape that stands in the picture at a time of the firing [s]."""
    begun = [splash for splash in what.splashes if splash.drop.landed <= time_s]
    if not begun:
        flying = [drop.height(time_s) for drop in what.drops if drop.flies(time_s)]
        return "in-flight" if any(height < frame_top_m for height in flying) else "nothing-in-frame"
    if what.merged:
        return "merged-drop"
    shapes = [_shape(what, splash, time_s) for splash in begun]
    return max(shapes, key=lambda shape: DULLEST_FIRST.index(shape) if shape in DULLEST_FIRST else len(DULLEST_FIRST))


def _shape(what: Happening, splash: Splash, now: float) -> str:
    if any(umbrella.met <= now for umbrella in splash.umbrellas):
        return _umbrella(what, splash, now)
    return _single(what, splash, now)


def _umbrella(what: Happening, splash: Splash, now: float) -> str:
    latest = [u for u in splash.umbrellas if u.met <= now][-1]
    if now >= latest.gone:
        if _hangs_over(what, now, latest.column(now)[0]):
            return "near-miss-above"
        return "collapsed" if now < latest.gone + 0.02 else "ripples"
    axis = splash.drop.across + (splash.jet.leans * latest.column(latest.met)[0] if splash.jet else 0.0)
    if abs(latest.across - axis) > LOPSIDED * latest.diameter:
        return "off-axis"
    if any(drop.passed is not None and drop.passed <= now < drop.landed for drop in what.drops):
        return "pass-through"
    if latest.on == "sheet":
        return "double-umbrella"
    radius, speed = (float(v) for v in latest.track(now)[:2])
    if now - latest.met < 1.2e-3:
        return "contact"
    if radius > 0.92 * latest.peak:
        return "full-umbrella"
    return "opening-umbrella" if speed > 0 else "torn-umbrella"


def _single(what: Happening, splash: Splash, now: float) -> str:
    since, cavity = now - splash.drop.landed, splash.cavity
    if splash.in_crater and now < cavity.closed:
        return "crater-hit"
    if since < 1.8e-3:
        return "touchdown"
    if now < cavity.closed:
        return "crown" if splash.crowned and now < cavity.uncrowned else "crater"
    jet = splash.jet
    if jet is None or now >= jet.sunk:
        return "ripples"
    height, speed = (float(v) for v in jet.track(now))
    if _hangs_over(what, now, height):
        return "near-miss-above"
    top = max(float(jet.track(t)[0]) for t in _span(jet.risen, jet.sunk))
    if height > 0.95 * top:
        return "jet-top"
    if speed < 0:
        return "falling-jet"
    return "beaded-jet" if now > jet.beaded else "rising-jet"


def _hangs_over(what: Happening, now: float, top_m: float) -> bool:
    """Whether a drop is just above a height."""
    return any(drop.flies(now) and 0 < drop.height(now) - top_m < 4 * drop.diameter for drop in what.drops[1:])


def _span(start: float, end: float, count: int = 60) -> list[float]:
    return [start + (end - start) * i / (count - 1) for i in range(count)] if math.isfinite(end) else [start]
