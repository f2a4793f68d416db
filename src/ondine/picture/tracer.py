"""Light through liquid, compiled: refraction and reflection by Snell and Fresnel, tint by Beer-Lambert.

A ray goes straight through thin films, bends at the walls of thick liquid, and is followed one mirror or lens far.
"""

from __future__ import annotations

import math
from typing import Any

from ondine.picture.compiled import jit
from ondine.picture.distance import (
    ALL_PARTS,
    BIG_PARTS,
    COLUMN_BIT,
    CRATER_BIT,
    CRATERS,
    POOL,
    SHEET_FILM,
    film_path,
    ink_at,
    liquid,
    normal,
    objects,
    parts_near,
    with_pool,
)
from ondine.picture.forms import FILLET, pool_height, ripple_slope
from ondine.picture.layout import (
    CRATER_STEEP,
    LIP,
    MAX_SPOTS,
    MIDDLE_X,
    MIDDLE_Y,
    REACH,
    TOP,
)
from ondine.picture.room import BASIN_MM, WATER_INDEX, fresnel, pool_light, scattered, soft, surroundings

TOUCH_MM = 0.008
"""A ray this close has arrived. Much coarser, and the way into thin walls shows as contour lines."""

MIRRORED_TOUCH_MM = 0.06
"""A mirrored ray is not followed into the walls that it meets."""

ENTRY_MM = 0.04
"""How far behind the surface a ray that enters begins: safely inside, well short of a film's other face."""

RIM_MM = 15.0
"""So near to the rim of the basin a picture is looked at closely: from low down the rim is a thin line."""

CLOSE_MM = 0.6
"""A ray that passes so close by liquid may have missed something thin."""

JET_SHORE_MM, SHORE_MM = 14.0, 2.0
"""Up to this height a jet, and what else stands in the water, takes the pool's colour."""

LEFT_MM = 0.6
"""So far from where it was turned a ray meets nothing."""

RIPPLED, LEVEL = 0.004, 0.9995
"""Slope of ripples that are seen, and upward part of a normal that counts as level."""

THIN_MM = 1.2
"""Fingers, rims and small drops bend light so strongly that they show the room, and nothing that stands in it."""

FILMS = 6
"""A ray goes through so many films; what lies behind more of them adds nothing to see."""

COLUMNS = ((1 << MAX_SPOTS) - 1) * COLUMN_BIT


@jit
def march(
    s: Any, x: float, y: float, z: float, dx: float, dy: float, dz: float, near: float, far: float, mask: int
) -> tuple[float, int, float, float]:  # fmt: skip
    """Walk a ray through air until it comes as close to liquid as TOUCH_MM.

    Returns distance (or -1), part, dye, and how close it passed by anything but the pool.
    """
    t, least = near, 1e9
    part, dye = POOL, 0.0
    craters = (mask & CRATERS) // CRATER_BIT if s[LIP] > 0.0 else 0
    lip = s[LIP] * 1.05 if craters else 0.0
    for _ in range(160):
        px, py, pz = x + t * dx, y + t * dy, z + t * dz
        d, part, dye = objects(s, px, py, pz, mask)
        least = min(least, d)
        pool = 1e9
        if d > FILLET or pz > FILLET + lip:
            # Clear of every fillet the pool is met where the ray's own slope takes it, not by small steps.
            if pz > lip:
                pool = (pz - lip) / max(-dz, 1e-6)
            elif craters:
                pool = (pz - pool_height(s, px, py, craters)) * s[CRATER_STEEP]
            else:
                pool = 0.0
        else:
            d, part, dye = with_pool(s, px, py, pz, d, part, dye, mask)
        if (
            pool < TOUCH_MM
            and pz <= lip + TOUCH_MM
            and (not craters or pz - pool_height(s, px, py, craters) < TOUCH_MM)
        ):
            return t, POOL, 0.0, least
        if d < TOUCH_MM:
            return t, part, dye, least
        t += max(min(d, pool), TOUCH_MM)
        if t > far:
            break
    return -1.0, part, dye, least


@jit
def march_aside(
    s: Any, x: float, y: float, z: float, dx: float, dy: float, dz: float, near: float, far: float, mask: int
) -> tuple[float, int, float, float]:
    """Walk a turned ray to liquid over the water, as `march`: it rose from the pool and does not meet it again."""
    t, least = near, 1e9
    part, dye = POOL, 0.0
    for _ in range(80):
        d, part, dye = objects(s, x + t * dx, y + t * dy, z + t * dz, mask)
        least = min(least, d)
        if d < MIRRORED_TOUCH_MM:
            return t, part, dye, least
        # What stands in a mirror need not be met to a hair: the distances are underestimates.
        t += 1.25 * d
        if t > far or z + t * dz < -0.5:
            break
    return -1.0, part, dye, least


@jit
def span(s: Any, x: float, y: float, z: float, dx: float, dy: float, dz: float, wide: float) -> tuple[float, float]:
    """Where a bundle of rays is inside the cylinder that holds all splash liquid: near and far, or far < near."""
    px, py = x - s[MIDDLE_X], y - s[MIDDLE_Y]
    a = dx * dx + dy * dy
    b = px * dx + py * dy
    c = px * px + py * py - (s[REACH] + wide) * (s[REACH] + wide)
    disc = b * b - a * c
    if disc < 0.0 or a < 1e-12:
        return 0.0, -1.0
    root = math.sqrt(disc)
    near, far = (-b - root) / a, (-b + root) / a
    top, foot = s[TOP] + wide, -s[LIP] * 20.0 - 4.0 - wide
    if abs(dz) > 1e-9:
        t1, t2 = (top - z) / dz, (foot - z) / dz
        near, far = max(near, min(t1, t2)), min(far, max(t1, t2))
    elif z > top:
        return 0.0, -1.0
    return max(near, 0.0), far


@jit
def aside(s: Any, look: Any, x: float, y: float, z: float, dx: float, dy: float, dz: float, out: Any) -> bool:
    """Radiance along a ray that a mirror or a lens has turned: thick liquid it meets is taken as a tinted lens.

    Returns whether it came close to any liquid.
    """
    near, far = span(s, x, y, z, dx, dy, dz, 0.0)
    mask = parts_near(s, x, y, z, dx, dy, dz, ALL_PARTS, 0.0) if far > near else 0
    if mask & ~CRATERS == 0:
        surroundings(look, x, y, z, dx, dy, dz, out)
        return False
    clear, touched = 1.0, False
    tint0, tint1, tint2 = 0.0, 0.0, 0.0
    # What it has just left is not what it meets.
    near = max(near, LEFT_MM)
    for _ in range(2):
        t, part, dye, least = march_aside(s, x, y, z, dx, dy, dz, near, far, mask)
        touched |= least < CLOSE_MM
        if t < 0.0:
            surroundings(look, x, y, max(z, 0.01), dx, dy, dz, out)
            break
        hx, hy, hz = x + t * dx, y + t * dy, z + t * dz
        nx, ny, nz = normal(s, hx, hy, hz, mask)
        cosine = abs(dx * nx + dy * ny + dz * nz)
        ink = ink_at(s, hx, hy, hz, mask)
        if part >= SHEET_FILM:
            path = film_path(s, part, cosine)
            near = t + path + 0.4
            clear *= 1.0 - fresnel(cosine, 1.0, WATER_INDEX)
            tint0 += path * (dye * look[ink] + (1.0 - dye) * look[12])
            tint1 += path * (dye * look[ink + 1] + (1.0 - dye) * look[13])
            tint2 += path * (dye * look[ink + 2] + (1.0 - dye) * look[14])
            surroundings(look, hx, hy, max(hz, 0.01), dx, dy, dz, out)
            continue
        # A strong lens turns the picture behind it upside down: bend towards the normal's opposite.
        bx, by, bz = dx - 0.9 * nx, dy - 0.9 * ny, dz - 0.9 * nz
        length = math.sqrt(bx * bx + by * by + bz * bz) + 1e-9
        surroundings(look, hx, hy, max(hz, 0.01), bx / length, by / length, bz / length, out)
        for c in range(3):
            out[c] *= math.exp(-3.0 * (dye * look[ink + c] + (1.0 - dye) * look[12 + c]))
        break
    out[0] *= clear * math.exp(-tint0)
    out[1] *= clear * math.exp(-tint1)
    out[2] *= clear * math.exp(-tint2)
    return touched


@jit
def through(
    s: Any, look: Any, x: float, y: float, z: float, dx: float, dy: float, dz: float, dye: float, ink: int,
    mask: int, shore: float, out: Any, work: Any,
) -> None:  # fmt: skip
    """Radiance along a ray that has entered liquid at a point: on to the far wall, out, and into the room.

    ink : where the liquid's numbers begin in the look; shore : height up to which what stands there takes the pool's
    colour [mm].
    """
    px, py, pz = x + ENTRY_MM * dx, y + ENTRY_MM * dy, z + ENTRY_MM * dz
    path = 0.0
    for _ in range(60):
        d = liquid(s, px + path * dx, py + path * dy, pz + path * dz, mask)[0]
        if d > -0.004:
            break
        path += max(-d * 1.3, 0.04)
        if path > 60.0:
            break
    px, py, pz = px + path * dx, py + path * dy, pz + path * dz
    deep = soft(0.0, 0.8, -dz)
    if pz < -1.5 or path > 60.0:
        # Down into the pool: what is left of the light takes the pool's colour.
        for c in range(3):
            out[c] = pool_light(look, px, deep, c)
        path = min(path, 5.0)
    else:
        nx, ny, nz = normal(s, px, py, pz, mask)
        cosine = max(dx * nx + dy * ny + dz * nz, 0.001)
        # What the far wall throws back is followed no further than to the room: it leaves by some other wall.
        back = fresnel(cosine, WATER_INDEX, 1.0)
        surroundings(look, px, py, max(pz, 0.01), dx - 2.0 * cosine * nx, dy - 2.0 * cosine * ny, abs(dz), work)
        k = 1.0 - WATER_INDEX * WATER_INDEX * (1.0 - cosine * cosine)
        if k > 0.0:
            f = math.sqrt(k) - WATER_INDEX * cosine
            ex, ey, ez = WATER_INDEX * dx + f * nx, WATER_INDEX * dy + f * ny, WATER_INDEX * dz + f * nz
            if path < THIN_MM:
                surroundings(look, px, py, max(pz, 0.01), ex, ey, ez, out)
            else:
                aside(s, look, px + 0.06 * nx, py + 0.06 * ny, max(pz + 0.06 * nz, 0.01), ex, ey, ez, out)
        # Near the water the far wall and the pool run into each other.
        wet = 1.0 - soft(0.3, shore, pz)
        for c in range(3):
            inside = 0.4 * min(work[c], 1.0) + 0.25 * look[6 + c]
            seen = back * inside + (1.0 - back) * out[c] if k > 0.0 else inside
            out[c] = seen + (pool_light(look, px, deep, c) - seen) * wet
    for c in range(3):
        out[c] *= math.exp(-path * (dye * look[ink + c] + (1.0 - dye) * look[12 + c]))


@jit
def solid(
    s: Any, look: Any, x: float, y: float, z: float, dx: float, dy: float, dz: float, part: int, dye: float, mask: int,
    out: Any, work: Any,
) -> bool:  # fmt: skip
    """Radiance leaving a point of the surface of thick liquid, or of the pool, back along the ray (dx, dy, dz).

    Returns whether any liquid but the open pool had a part in it.
    """
    open_water = part == POOL and z > -0.02 and not mask & CRATERS and objects(s, x, y, z, mask)[0] > FILLET
    nx, ny, nz = (0.0, 0.0, 1.0) if open_water else normal(s, x, y, z, mask)
    rippled = False
    if part == POOL and nz > 0.6:
        across, away = ripple_slope(s, x, y)
        rippled = abs(across) + abs(away) > RIPPLED
        flat = soft(0.6, 0.95, nz)
        nx, ny = nx - flat * across, ny - flat * away
        length = math.sqrt(nx * nx + ny * ny + nz * nz)
        nx, ny, nz = nx / length, ny / length, nz / length
    cosine = max(-(dx * nx + dy * ny + dz * nz), 0.001)
    share = fresnel(cosine, 1.0, WATER_INDEX)
    rx, ry, rz = dx + 2.0 * cosine * nx, dy + 2.0 * cosine * ny, dz + 2.0 * cosine * nz
    ox, oy, oz = x + 0.05 * nx, y + 0.05 * ny, z + 0.05 * nz
    touched = part != POOL or rippled or nz < LEVEL
    if part == POOL:
        touched |= aside(s, look, ox, oy, oz, rx, ry, max(rz, 0.002), work)
    else:
        # The curved walls of a splash mirror mostly the room: what they mirror of each other is too small to see.
        surroundings(look, ox, oy, max(oz, 0.01), rx, ry, rz, work)
    mirror0, mirror1, mirror2 = work[0], work[1], work[2]
    k = 1.0 - (1.0 - cosine * cosine) / (WATER_INDEX * WATER_INDEX)
    f = cosine / WATER_INDEX - math.sqrt(k)
    tx, ty, tz = dx / WATER_INDEX + f * nx, dy / WATER_INDEX + f * ny, dz / WATER_INDEX + f * nz
    # Level water is its own colour; where it rises into a wall the view goes more and more through it.
    level = soft(0.75, 0.98, nz) * (1.0 - soft(0.2, 1.4, z)) if part == POOL else 0.0
    if level < 1.0:
        ink = ink_at(s, x, y, z, mask)
        cloud = look[ink + 3] * dye
        # A jet rises out of the pool; what else comes near it only touches it.
        shore = JET_SHORE_MM if mask & COLUMNS else SHORE_MM
        if cloud < 1.0:
            through(s, look, x, y, z, tx, ty, tz, dye, ink, mask | BIG_PARTS, shore, out, work)
        for c in range(3):
            out[c] = (1.0 - cloud) * out[c] + cloud * scattered(look, ink, nx, ny, nz, c)
    deep = soft(0.0, 14.0, -z)
    for c in range(3):
        out[c] = level * pool_light(look, x, deep, c) + (1.0 - level) * out[c]
    out[0] = share * mirror0 + (1.0 - share) * out[0]
    out[1] = share * mirror1 + (1.0 - share) * out[1]
    out[2] = share * mirror2 + (1.0 - share) * out[2]
    return touched


@jit
def approach(s: Any, x: float, y: float, z: float, dx: float, dy: float, dz: float, wide: float) -> tuple[float, int]:
    """How far a bundle of rays with this radius runs through free air, and which parts any of it can meet."""
    near, far = span(s, x, y, z, dx, dy, dz, wide)
    if far <= near:
        return 0.0, 0
    mask = parts_near(s, x, y, z, dx, dy, dz, ALL_PARTS, wide)
    t = near
    if mask == 0:
        return t, mask
    for _ in range(60):
        free = liquid(s, x + t * dx, y + t * dy, z + t * dz, mask)[0] - wide
        if free < 0.05 or t > far:
            break
        t += free
    return t, mask


@jit
def radiance(
    s: Any, look: Any, x: float, y: float, z: float, dx: float, dy: float, dz: float, clear: float, among: int,
    out: Any, work: Any,
) -> bool:  # fmt: skip
    """Radiance that reaches the camera along one ray, into out[0:3]; whether it came close to any liquid.

    `clear` and `among` are what `approach` found for the bundle that holds the ray.
    """
    near, far = span(s, x, y, z, dx, dy, dz, 0.0)
    mask = parts_near(s, x, y, z, dx, dy, dz, among, 0.0) if far > near and among != 0 else 0
    if mask == 0 or z + near * dz < -1e-3:
        return beyond(s, look, x, y, z, dx, dy, dz, out, work)
    glow0, glow1, glow2 = 0.0, 0.0, 0.0
    left0, left1, left2 = 1.0, 1.0, 1.0
    t, start = 0.0, max(near, clear)
    touched = False
    for _ in range(FILMS):
        t, part, dye, least = march(s, x, y, z, dx, dy, dz, start, far, mask)
        touched |= least < CLOSE_MM
        if t < 0.0:
            break
        hx, hy, hz = x + t * dx, y + t * dy, z + t * dz
        if part >= SHEET_FILM:
            nx, ny, nz = normal(s, hx, hy, hz, mask)
            cosine = abs(dx * nx + dy * ny + dz * nz)
            path = film_path(s, part, cosine)
            after = t + path + 0.1
            if liquid(s, x + after * dx, y + after * dy, z + after * dz, mask)[0] > TOUCH_MM:
                ink = ink_at(s, hx, hy, hz, mask)
                share = fresnel(cosine, 1.0, WATER_INDEX)
                both = 2.0 * share / (1.0 + share)
                turn = 2.0 * (dx * nx + dy * ny + dz * nz)
                surroundings(look, hx, hy, max(hz, 0.01), dx - turn * nx, dy - turn * ny, dz - turn * nz, work)
                cloud = look[ink + 3] * (1.0 - math.exp(-1.5 * path * dye))
                glow0 += left0 * (both * work[0] + (1.0 - both) * cloud * scattered(look, ink, nx, ny, nz, 0))
                glow1 += left1 * (both * work[1] + (1.0 - both) * cloud * scattered(look, ink, nx, ny, nz, 1))
                glow2 += left2 * (both * work[2] + (1.0 - both) * cloud * scattered(look, ink, nx, ny, nz, 2))
                passed = (1.0 - both) * (1.0 - cloud)
                left0 *= passed * math.exp(-path * (dye * look[ink] + (1.0 - dye) * look[12]))
                left1 *= passed * math.exp(-path * (dye * look[ink + 1] + (1.0 - dye) * look[13]))
                left2 *= passed * math.exp(-path * (dye * look[ink + 2] + (1.0 - dye) * look[14]))
                start = after
                continue
        touched |= solid(s, look, hx, hy, hz, dx, dy, dz, part, dye, mask, out, work)
        break
    if t < 0.0:
        touched |= beyond(s, look, x, y, z, dx, dy, dz, out, work)
    out[0] = glow0 + left0 * out[0]
    out[1] = glow1 + left1 * out[1]
    out[2] = glow2 + left2 * out[2]
    return touched


@jit
def beyond(
    s: Any, look: Any, x: float, y: float, z: float, dx: float, dy: float, dz: float, out: Any, work: Any
) -> bool:
    """Radiance along a ray that meets no splash on its way: the level pool, or the room."""
    edge = 1e9
    if dz < -1e-4:
        t = -z / dz
        px, py = x + t * dx, y + t * dy
        edge = math.sqrt(px * px + py * py)
        if edge < BASIN_MM:
            touched = solid(s, look, px, py, 0.0, dx, dy, dz, POOL, 0.0, 0, out, work)
            return touched or BASIN_MM - edge < RIM_MM
    surroundings(look, x, y, z, dx, dy, dz, out)
    return edge < BASIN_MM + 2 * RIM_MM
