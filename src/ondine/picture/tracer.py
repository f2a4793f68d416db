"""Light through liquid, compiled: two refractions and one reflection by Snell and Fresnel, tint by Beer-Lambert.

Radiance is relative: 1 is the background sheet where it is lit fully.
"""

from __future__ import annotations

import math
from typing import Any

from ondine.picture.distance import (
    ALL_PARTS,
    BIG_PARTS,
    CROWN_BIT,
    FILLET,
    POOL,
    crater_height,
    jit,
    liquid,
    normal,
    objects,
    parts_near,
    ripple_slope,
    with_pool,
)

WATER_INDEX = 1.333
TOUCH_MM = 0.008
"""A ray this close has arrived. Much coarser, and the way into thin walls shows as contour lines."""

MIRRORED_TOUCH_MM = 0.04
"""A mirrored ray is not followed into the walls that it meets."""

ENTRY_MM = 0.04
"""How far behind the surface a ray that enters begins: safely inside, well short of a sheet's other face."""

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
def surroundings(look: Any, x: float, y: float, z: float, dx: float, dy: float, dz: float, out: Any) -> None:
    """Radiance that arrives from the room along a ray, into out[0:3]."""
    rim = 0.0
    if dz < -1e-4:
        t = -z / dz
        px, py = x + t * dx, y + t * dy
        edge = math.sqrt(px * px + py * py)
        if edge < BASIN_MM:
            # Seen from above the rest level: the pool's own colour, brighter where the sheet shines in.
            glance = fresnel(min(-dz, 1.0), 1.0, WATER_INDEX)
            lit = 0.55 + 0.45 * math.exp(-((px * px) / 6000.0))
            for c in range(3):
                out[c] = look[9 + c] * lit * (1.0 - glance) + glance * (0.35 * look[6 + c] + 0.3 * look[c])
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
    light = look[18] * (strip + 0.6 * bank)
    out[0] += light
    out[1] += light * 0.98
    out[2] += light * 0.95


@jit
def march(
    s: Any,
    x: float,
    y: float,
    z: float,
    dx: float,
    dy: float,
    dz: float,
    near: float,
    far: float,
    mask: int,
    touch: float,
) -> tuple[float, int, float]:
    """Walk a ray through air until it comes as close to liquid as `touch`: distance (or -1), part, dye."""
    t = near
    part, dye = 0, 0.0
    lip = 0.14 * abs(s[0])
    for _ in range(140):
        px, py, pz = x + t * dx, y + t * dy, z + t * dz
        r = math.sqrt(px * px + py * py)
        d, part, dye = objects(s, px, py, pz, r, mask)
        pool = 1e9
        if d > FILLET or pz > FILLET + lip:
            # Clear of every fillet the pool is met where the ray's own slope takes it, not by small steps.
            if pz > lip:
                pool = (pz - lip) / max(-dz, 1e-6)
            elif s[0] != 0.0:
                pool = (pz - crater_height(s, r)) * 0.8
            else:
                pool = 0.0
        else:
            d, part, dye = with_pool(s, pz, r, d, part, dye)
        if pool < touch and pz <= lip + touch and (s[0] == 0.0 or pz - crater_height(s, r) < touch):
            return t, POOL, 0.0
        if d < touch:
            return t, part, dye
        t += max(min(d, pool), touch)
        if t > far:
            break
    return -1.0, part, dye


@jit
def span(s: Any, x: float, y: float, z: float, dx: float, dy: float, dz: float, wide: float) -> tuple[float, float]:
    """Where a bundle of rays is inside the cylinder that holds all splash liquid: near and far, or far < near."""
    a = dx * dx + dy * dy
    b = x * dx + y * dy
    c = x * x + y * y - (s[21] + wide) * (s[21] + wide)
    disc = b * b - a * c
    if disc < 0.0 or a < 1e-12:
        return 0.0, -1.0
    root = math.sqrt(disc)
    near, far = (-b - root) / a, (-b + root) / a
    top, foot = s[20] + wide, -s[0] * 1.3 - 4.0 - wide
    if abs(dz) > 1e-9:
        t1, t2 = (top - z) / dz, (foot - z) / dz
        near, far = max(near, min(t1, t2)), min(far, max(t1, t2))
    elif z > top:
        return 0.0, -1.0
    return max(near, 0.0), far


@jit
def reflected(s: Any, look: Any, x: float, y: float, z: float, dx: float, dy: float, dz: float, out: Any) -> bool:
    """Radiance along a reflected ray: liquid it meets is taken as a tinted lens, not followed further.

    Returns whether it came near any liquid.
    """
    near, far = span(s, x, y, z, dx, dy, dz, 0.0)
    t = -1.0
    dye = 0.0
    part = 0
    mask = parts_near(s, x, y, z, dx, dy, dz, ALL_PARTS, 0.0) if far > near else 0
    if mask != 0:
        t, part, dye = march(s, x, y, z, dx, dy, dz, near, far, mask, MIRRORED_TOUCH_MM)
    if t < 0.0:
        surroundings(look, x, y, z, dx, dy, dz, out)
        return mask != 0
    hx, hy, hz = x + t * dx, y + t * dy, z + t * dz
    nx, ny, nz = normal(s, hx, hy, hz, mask)
    if part == POOL:
        surroundings(look, hx, hy, 0.01, dx, dy, -0.5, out)
        return True
    # A strong lens turns the picture behind it upside down: bend towards the normal's opposite.
    bx, by, bz = dx - 0.9 * nx, dy - 0.9 * ny, dz - 0.9 * nz
    length = math.sqrt(bx * bx + by * by + bz * bz) + 1e-9
    surroundings(look, hx, hy, max(hz, 0.01), bx / length, by / length, bz / length, out)
    for c in range(3):
        out[c] *= math.exp(-3.0 * (dye * look[12 + c] + (1.0 - dye) * look[15 + c]))
    return True


@jit
def through(
    s: Any, look: Any, x: float, y: float, z: float, dx: float, dy: float, dz: float, dye: float, mask: int, out: Any
) -> None:
    """Radiance along a ray that has entered liquid at a point: on to the far wall, out, and into the room."""
    path = 0.0
    px, py, pz = x + ENTRY_MM * dx, y + ENTRY_MM * dy, z + ENTRY_MM * dz
    for bounce in range(2):
        t = 0.0
        for _ in range(60):
            d = liquid(s, px + t * dx, py + t * dy, pz + t * dz, mask)[0]
            if d > -0.004:
                break
            t += max(-d * 1.3, 0.04)
            if t > 60.0:
                break
        path += t
        px, py, pz = px + t * dx, py + t * dy, pz + t * dz
        if pz < -0.8 or t > 60.0:
            # Down into the pool: what is left of the light takes the pool's colour.
            for c in range(3):
                out[c] = look[9 + c] * 1.3 + 0.06 * look[6 + c]
            path = min(path, 3.0)
            break
        nx, ny, nz = normal(s, px, py, pz, mask)
        cosine = dx * nx + dy * ny + dz * nz
        k = 1.0 - WATER_INDEX * WATER_INDEX * (1.0 - cosine * cosine)
        if k < 0.0 and bounce == 0:
            dx, dy, dz = dx - 2.0 * cosine * nx, dy - 2.0 * cosine * ny, dz - 2.0 * cosine * nz
            px, py, pz = px + 0.03 * dx, py + 0.03 * dy, pz + 0.03 * dz
            continue
        if k < 0.0:
            # Light caught inside for good: it ends as a glow of the pool and the sheet.
            for c in range(3):
                out[c] = 0.5 * look[9 + c] + 0.12 * look[6 + c]
            break
        if k >= 0.0:
            f = math.sqrt(k) - WATER_INDEX * cosine
            dx, dy, dz = WATER_INDEX * dx + f * nx, WATER_INDEX * dy + f * ny, WATER_INDEX * dz + f * nz
        surroundings(look, px, py, max(pz, 0.01), dx, dy, dz, out)
        break
    for c in range(3):
        out[c] *= math.exp(-path * (dye * look[12 + c] + (1.0 - dye) * look[15 + c]))


@jit
def surface(
    s: Any,
    look: Any,
    x: float,
    y: float,
    z: float,
    dx: float,
    dy: float,
    dz: float,
    part: int,
    dye: float,
    mask: int,
    out: Any,
    work: Any,
) -> bool:
    """Radiance leaving a point of the liquid's surface back along the ray (dx, dy, dz).

    Returns whether any liquid but the open pool had a part in it.
    """
    if (
        part == POOL
        and z > -0.02
        and (s[0] == 0.0 or x * x + y * y > 2.56 * s[1] * s[1])
        and objects(s, x, y, z, math.sqrt(x * x + y * y), mask)[0] > FILLET
    ):
        r = math.sqrt(x * x + y * y)
        slope = ripple_slope(s, r)
        length = math.sqrt(1.0 + slope * slope)
        nx, ny, nz = -slope * x / (r + 1e-9) / length, -slope * y / (r + 1e-9) / length, 1.0 / length
    else:
        nx, ny, nz = normal(s, x, y, z, mask)
    cosine = -(dx * nx + dy * ny + dz * nz)
    if cosine < 0.0:
        cosine = 0.001
    share = fresnel(cosine, 1.0, WATER_INDEX)
    rx, ry, rz = dx + 2.0 * cosine * nx, dy + 2.0 * cosine * ny, dz + 2.0 * cosine * nz
    ox, oy, oz = x + 0.05 * nx, y + 0.05 * ny, z + 0.05 * nz
    touched = True
    if part == POOL:
        touched = reflected(s, look, ox, oy, oz, rx, ry, max(rz, 0.002), work)
    else:
        # The curved walls of a splash mirror mostly the room: what they mirror of each other is too small to see.
        surroundings(look, ox, oy, max(oz, 0.01), rx, ry, rz, work)
    if part == POOL and z < 0.6 and nz > 0.5:
        lit = 0.55 + 0.45 * math.exp(-(x * x) / 6000.0) - 0.25 * soft(0.0, 14.0, -z)
        for c in range(3):
            out[c] = share * work[c] + (1.0 - share) * look[9 + c] * lit
        return touched
    k = 1.0 - (1.0 - cosine * cosine) / (WATER_INDEX * WATER_INDEX)
    f = cosine / WATER_INDEX - math.sqrt(k)
    tx, ty, tz = dx / WATER_INDEX + f * nx, dy / WATER_INDEX + f * ny, dz / WATER_INDEX + f * nz
    through(s, look, x, y, z, tx, ty, tz, dye, mask | BIG_PARTS, out)
    for c in range(3):
        out[c] = share * work[c] + (1.0 - share) * out[c]
    return True


SPIKE_SHARE, SPIKE_STEP_MM = 0.3, 0.2
"""How a bundle goes on among the spikes of a crown: by a share of what looks free, and no farther than this."""


@jit
def approach(s: Any, x: float, y: float, z: float, dx: float, dy: float, dz: float, wide: float) -> tuple[float, int]:
    """How far a bundle of rays with this radius runs through free air, and which parts any of it can meet."""
    near, far = span(s, x, y, z, dx, dy, dz, wide)
    if far <= near:
        return 0.0, 0
    mask = parts_near(s, x, y, z, dx, dy, dz, ALL_PARTS, wide)
    t = near
    if mask == 0 and s[0] == 0.0:
        return t, mask
    for _ in range(100):
        px, py, pz = x + t * dx, y + t * dy, z + t * dz
        free = liquid(s, px, py, pz, mask)[0] - wide
        if mask & CROWN_BIT and among_spikes(s, px, py, pz, wide):
            # From between two of them a spike looks farther away than it is.
            free = min(free * SPIKE_SHARE, SPIKE_STEP_MM)
        if free < 0.05 or t > far:
            break
        t += free
    return t, mask


@jit
def among_spikes(s: Any, x: float, y: float, z: float, wide: float) -> bool:
    """Whether a place is where a crown's wall and its spikes can be, or so near."""
    r = math.sqrt(x * x + y * y)
    inner, outer = s[12] - 2.0 * s[15] - 0.3 - wide, s[12] + s[14] + 2.3 + wide
    return s[13] > 0.0 and inner < r < outer and z < 1.9 * s[13] + 0.3 + wide


@jit
def radiance(
    s: Any,
    look: Any,
    x: float,
    y: float,
    z: float,
    dx: float,
    dy: float,
    dz: float,
    clear: float,
    among: int,
    out: Any,
    work: Any,
) -> bool:
    """Radiance that reaches the camera along one ray, into out[0:3]; whether it came near any liquid.

    `clear` and `among` are what `approach` found for the bundle that holds the ray.
    """
    near, far = span(s, x, y, z, dx, dy, dz, 0.0)
    mask = parts_near(s, x, y, z, dx, dy, dz, among, 0.0) if far > near and among != 0 else 0
    near_liquid = mask != 0 or (s[0] != 0.0 and far > near)
    if near_liquid and z + near * dz > -1e-3:
        t, part, dye = march(s, x, y, z, dx, dy, dz, max(near, clear), far, mask, TOUCH_MM)
        if t >= 0.0:
            surface(s, look, x + t * dx, y + t * dy, z + t * dz, dx, dy, dz, part, dye, mask, out, work)
            return True
    if dz < -1e-4:
        t = -z / dz
        px, py = x + t * dx, y + t * dy
        edge = math.sqrt(px * px + py * py)
        if edge < BASIN_MM:
            return surface(s, look, px, py, 0.0, dx, dy, dz, POOL, 0.0, 0, out, work) or near_liquid
    surroundings(look, x, y, z, dx, dy, dz, out)
    return near_liquid
