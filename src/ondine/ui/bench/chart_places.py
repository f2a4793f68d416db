"""Where the flight chart's curves lie, in pixels: asked for in every frame, and the same while a curve stays."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from PySide6.QtCore import QPointF

from ondine.core.forecast.curves import CraterCurve, Curve, FallCurve, SheetCurve
from ondine.ui.bench.label_room import Line
from ondine.ui.kit.scales import HeightScale, TimeScale

KEPT = 128
"""Curves whose places are kept: those of a few frames."""


@lru_cache(maxsize=KEPT)
def lines_of(curve: Curve, time: TimeScale, height: HeightScale) -> tuple[Line, ...]:
    """Return the lines of a curve: of a sheet its upper and its lower edge, of all others one."""
    xs = time.x(curve.time_s)
    if isinstance(curve, SheetCurve):
        return tuple((xs, height.y(curve.height_m + sign * curve.radius_m)) for sign in (1, -1))
    return ((xs, height.y(-curve.depth_m if isinstance(curve, CraterCurve) else curve.height_m)),)


@lru_cache(maxsize=KEPT)
def badge_of(fall: FallCurve, time: TimeScale, height: HeightScale) -> QPointF | None:
    """Return the point of its curve that carries a drop's number: those of drops that fall together stand apart.

    None where the curve is out of view.
    """
    ((xs, ys),) = lines_of(fall, time, height)
    point = len(xs) // 2 + (1, -2, 4)[fall.drop % 3] - 1
    inside = (fall.time_s > time.start_s) & (fall.time_s < time.end_s)
    inside &= (fall.height_m > height.base_m) & (fall.height_m < height.top_m)
    if not inside[point]:
        seen = np.flatnonzero(inside)
        if not len(seen):
            return None
        point = int(seen[len(seen) // 2])
    return QPointF(float(xs[point]), float(ys[point]))
