"""Says what a simulated firing showed, as an attentive photographer would tag it. For demo and tests only."""

from __future__ import annotations

import math

from ondine.bench.simulated.world import Happening


def seen(what: Happening, time_s: float, frame_top_m: float) -> str:
    """Return the key of the shape that stands in the picture at a time of the firing [s]."""
    first = what.drops[0]
    if time_s < first.landed:
        flying = [d.height(time_s) for d in what.drops if d.released <= time_s < d.landed]
        return "in-flight" if any(h < frame_top_m for h in flying) else "nothing-in-frame"
    if what.merged:
        return "merged-drop"
    if what.umbrellas and time_s >= what.umbrellas[0].met:
        return _umbrella(what, time_s)
    return _single(what, time_s)


def _umbrella(what: Happening, now: float) -> str:
    latest = [u for u in what.umbrellas if u.met <= now][-1]
    if now >= latest.gone:
        column = latest.column(now)[0]
        for drop in what.drops[2:]:
            if drop.released <= now < drop.landed and 0 < drop.height(now) - column < 4 * drop.diameter:
                return "near-miss-above"
        return "collapsed" if now < latest.gone + 0.02 else "ripples"
    if latest.on_sheet:
        return "double-umbrella"
    radius, speed = (float(v) for v in latest.track(now)[:2])
    if now - latest.met < 1.2e-3:
        return "contact"
    if radius > 0.92 * latest.peak:
        return "full-umbrella"
    return "opening-umbrella" if speed > 0 else "torn-umbrella"


def _single(what: Happening, now: float) -> str:
    since, cavity = now - what.drops[0].landed, what.cavities[0]
    for drop in what.drops[1:]:
        if drop.landed <= now and drop.landed < cavity.closed:
            return "crater-hit"
    if since < 1.8e-3:
        return "touchdown"
    if now < cavity.closed:
        return "crown" if what.crowned and since < 0.45 * (cavity.closed - cavity.opened) else "crater"
    jet = what.jet
    if jet is None or now >= jet.sunk:
        return "ripples"
    height, speed = (float(v) for v in jet.track(now))
    for drop in what.drops[1:]:
        if drop.released <= now < drop.landed and 0 < drop.height(now) - height < 4 * drop.diameter:
            return "near-miss-above"
    top = max(float(jet.track(t)[0]) for t in _span(jet.risen, jet.sunk))
    if height > 0.95 * top:
        return "jet-top"
    if speed < 0:
        return "falling-jet"
    return "beaded-jet" if now - jet.risen > 0.045 else "rising-jet"


def _span(start: float, end: float, count: int = 60) -> list[float]:
    return [start + (end - start) * i / (count - 1) for i in range(count)] if math.isfinite(end) else [start]
