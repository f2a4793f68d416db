"""What surrounds the splash, compiled: background sheet, lamps, basin, pool, as seen along a ray.

Radiance is relative: 1 is the background sheet where it is lit fully. `look` is `Look.packed`.
"""

from __future__ import annotations

import math
from typing import Any

from ondine.picture.compiled import jit

WATER_INDEX = 1.333

BASIN_MM = 118.0
SHEET_AT_MM = 330.0
"""Distance of the background sheet behind the axis."""


@jit
def fresnel(cosine: float, n1: float, n2: float) -> float:
    """Unpolarised reflectance at an interface from index n1 to n2."""
    sine2 = (n1 / n2) ** 2 * (1.0 - cosine * cosine)
    if sine2 >= 1.0:
        return 1.0
    ct = math.sqrt(1.0 - sine2)
    rs = (n1 * cosine - n2 * ct) / (n1 * cosine + n2 * ct)
    rp = (n1 * ct - n2 * cosine) / (n1 * ct + n2 * cosine)
    return 0.5 * (rs * rs + rp * rp)


@jit
def soft(a: float, b: float, x: float) -> float:
    """Smooth step from 0 at a to 1 at b."""
    t = min(max((x - a) / (b - a), 0.0), 1.0)
    return t * t * (3.0 - 2.0 * t)


@jit
def pool_light(look: Any, x: float, deep: float, c: int) -> float:
    """What wells up out of the pool: brightest where the sheet shines in, darker from deep down."""
    return look[9 + c] * (0.55 + 0.45 * math.exp(-(x * x) / 6000.0) - 0.2 * deep)


@jit
def surroundings(look: Any, x: float, y: float, z: float, dx: float, dy: float, dz: float, out: Any) -> None:
    """Radiance that arrives from the room along a ray, into out[0:3]."""
    rim = 0.0
    if dz < -1e-4:
        t = -z / dz
        px, py = x + t * dx, y + t * dy
        edge = math.sqrt(px * px + py * py)
        if edge < BASIN_MM:
            # Seen from above the rest level: the pool's own colour, and the sheet that it mirrors.
            glance = fresnel(min(-dz, 1.0), 1.0, WATER_INDEX)
            for c in range(3):
                out[c] = pool_light(look, px, 0.0, c) * (1.0 - glance) + glance * (0.35 * look[6 + c] + 0.3 * look[c])
            return
        rim = math.exp(-(((edge - BASIN_MM - 6.0) / 5.0) ** 2))
        if dy < 0.05 or rim > 0.02:
            for c in range(3):
                out[c] = 0.04 + rim * (0.25 + 0.35 * look[6 + c])
            if dy < 0.05:
                return
    if dy > 0.05:
        t = (SHEET_AT_MM - y) / dy
        px, pz = x + t * dx, z + t * dz
        rise = soft(-40.0, 170.0, pz)
        centre = math.exp(-(px * px / 6500.0 + (pz - 55.0) * (pz - 55.0) / 4200.0))
        fall = 1.0 - soft(260.0, 420.0, abs(px)) * 0.93
        top = 1.0 - soft(330.0, 520.0, pz) * 0.93
        for c in range(3):
            base = look[c] + (look[3 + c] - look[c]) * rise
            out[c] = (base + (look[6 + c] - base) * centre) * fall * top
            if rim > 0.0:
                out[c] += (0.25 + 0.35 * look[6 + c] - out[c]) * rim
    else:
        for c in range(3):
            out[c] = 0.05 + 0.10 * look[9 + c] + 0.04 * look[6 + c]
    # Two soft boxes: a tall strip at the left, a smaller one high at the right.
    strip = soft(0.80, 0.92, -dx) * soft(-0.02, 0.06, dz) * (1.0 - soft(0.42, 0.52, dz))
    bank = soft(0.955, 0.975, 0.62 * dx + 0.15 * dy + 0.77 * dz)
    light = look[15] * (strip + 0.6 * bank)
    for c in range(3):
        out[c] += light * look[16 + c]


@jit
def scattered(look: Any, ink: int, nx: float, ny: float, nz: float, c: int) -> float:
    """What clouded liquid sends back: light from behind all around its edges, more from the side that the lamps are.

    ink : where its numbers begin in the look.
    """
    side = max(-0.86 * nx + 0.3 * nz, 0.0) + 0.6 * max(0.62 * nx + 0.15 * ny + 0.77 * nz, 0.0)
    return look[ink + 4 + c] * (0.28 * look[6 + c] + 0.45 * max(ny, 0.0) * look[6 + c] + 0.11 * look[15] * side)
