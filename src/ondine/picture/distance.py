"""Signed distance to the liquid, compiled. Millimetres; `s` is a scene packed by `scene.pack`.

The distances are underestimates rather than exact (bent walls, lumps), which is what sphere tracing needs.
"""

from __future__ import annotations

import math
from typing import Any

import numba as nb

from ondine.picture.scene import (
    BLOBS_AT,
    COLUMN_AT,
    CRATER_AT,
    CRATER_REACH,
    CROWN_RING_AT,
    MAX_BLOBS,
    RING,
    SHEET_RINGS_AT,
    SHEETS_AT,
    STEPS,
)

jit: Any = nb.njit(fastmath=True, error_model="numpy", nogil=True, cache=True)

FAR = 1e9
FILLET = 2.4
"""How softly the jet and the crown grow out of the pool [mm]."""

POOL, COLUMN, CROWN, BLOB, SHEET = 0, 1, 2, 3, 4


@jit
def smooth_min(a: float, b: float, k: float) -> float:
    """Union of two distances with a fillet of about `k` mm."""
    h = max(k - abs(a - b), 0.0) / k
    return min(a, b) - h * h * k * 0.25


@jit
def crater_height(s: Any, r: float) -> float:
    """Height of the pool's surface at radius `r`: the crater's bowl and its raised lip."""
    place = r / s[1] * (STEPS / CRATER_REACH)
    if s[0] == 0.0 or place >= STEPS:
        return 0.0
    left = int(place)
    return s[CRATER_AT + left] + (s[CRATER_AT + left + 1] - s[CRATER_AT + left]) * (place - left)


@jit
def ripple_slope(s: Any, r: float) -> float:
    """Slope of the ripples at radius `r`. They are too low to need a height, but they bend the mirror."""
    if s[2] == 0.0:
        return 0.0
    away = r - s[4]
    envelope = math.exp(-(away * away) / (s[5] * s[5])) / math.sqrt(1.0 + 0.15 * r)
    wave = 6.2831853 / s[3]
    return -s[2] * envelope * wave * math.sin(wave * away)


@jit
def column_distance(s: Any, r: float, z: float) -> float:
    """The jet and its bead."""
    top, base = s[6], s[7]
    d = FAR
    if base > 0.0:
        at = min(max(z, -6.0), top)
        place = min(max(at / max(top, 0.1), 0.0), 0.9999) * STEPS
        left = int(place)
        radius = s[COLUMN_AT + left] + (s[COLUMN_AT + left + 1] - s[COLUMN_AT + left]) * (place - left)
        dz = z - at
        d = (math.sqrt(r * r + dz * dz) - radius) * 0.8
    if s[10] > 0.0:
        dz = z - s[11]
        bead = math.sqrt(r * r + dz * dz) - s[10]
        d = smooth_min(d, bead, 0.9) if base > 0.0 else bead
    return d


@jit
def bearing(x: float, y: float) -> float:
    """Place of a direction in the tables of RING entries around the axis, as `scene.bearings` lays them out."""
    slant = y / (abs(x) + abs(y) + 1e-12)
    if x < 0.0:
        slant = 2.0 - slant if y >= 0.0 else -2.0 - slant
    return (slant + 2.0) * (RING / 4)


@jit
def around(s: Any, at: int, place: float) -> float:
    """Read the table that starts at `at` at a place of `bearing`."""
    left = int(place)
    share = place - left
    return s[at + (left & (RING - 1))] * (1.0 - share) + s[at + ((left + 1) & (RING - 1))] * share


@jit
def crown_distance(s: Any, r: float, place: float, z: float) -> float:
    """A flared wall with spikes, thicker along its edge."""
    radius, flare, thick = s[12], s[14], s[15]
    top = around(s, CROWN_RING_AT, place)
    tooth = around(s, CROWN_RING_AT + RING, place)
    at = min(max(z, -1.0), top)
    share = at / max(top, 0.1)
    wall = radius + flare * share * share
    dz = z - at
    edge = max(share - 0.7, 0.0) * 3.0
    half = thick * (1.0 - 0.3 * share) + 0.38 * thick * edge * edge * (0.4 + tooth)
    dr = r - wall
    return (math.sqrt(dr * dr + dz * dz) - half) * 0.72


@jit
def wave(x: float) -> float:
    """Within 0.06 of the cosine, from parabolas: the ripples of a sheet need no better, at each step of each ray."""
    turn = x * (1.0 / 6.2831853)
    arc = abs(4.0 * (turn - math.floor(turn + 0.5))) - 1.0
    return -arc * (2.0 - abs(arc))


@jit
def sheet_distance(s: Any, i: int, x: float, y: float, z: float) -> float:
    """One umbrella."""
    o = SHEETS_AT + 10 * i
    height, radius, droop, thick, rim = s[o], s[o + 1], s[o + 2], s[o + 3], s[o + 4]
    px = x - s[o + 9]
    r = math.sqrt(px * px + y * y)
    reach = radius * 1.2 + s[o + 6] + rim
    above, below = z - height - rim - 0.15, height - 1.45 * droop - rim - 0.15 - z
    coarse = max(r - reach, max(above, below))
    if coarse > 0.3:
        return coarse
    slope = 2.0 * droop / max(radius, 0.1)
    steep = 0.9 / math.sqrt(1.0 + slope * slope)
    if r < 0.97 * radius - 2.2 * rim:
        # Well inside the rim only holes matter, and those only from near.
        share = r / max(radius, 0.1)
        d = abs(z - height + droop * share * share - 0.10 * wave(2.2 * r) * share) - thick
        if s[o + 7] == 0.0 or d > 0.3:
            return d * steep
    place = bearing(px, y)
    ring = SHEET_RINGS_AT + 4 * RING * i
    edge = around(s, ring, place)
    tooth = around(s, ring + RING, place)
    at = min(r, edge)
    share = at / max(radius, 0.1)
    surface = height - droop * share * share + 0.10 * wave(2.2 * at) * share
    lip = max(at - (edge - 2.2 * rim), 0.0) / (2.2 * rim)
    half = thick + (rim - thick) * lip * lip * (0.55 + 0.45 * tooth)
    if s[o + 7] > 0.0:
        inside = around(s, ring + 3 * RING, place) - abs(share - around(s, ring + 2 * RING, place))
        if inside > 0.0:
            half -= 4.0 * inside
    dr, dz = r - at, z - surface
    return (math.sqrt(dr * dr + dz * dz) - half) * steep


COLUMN_BIT, CROWN_BIT, SHEET_BIT, BLOB_BIT = 1, 2, 4, 32
BIG_PARTS = 31
ALL_PARTS = (1 << (5 + MAX_BLOBS)) - 1


@jit
def parts_near(s: Any, x: float, y: float, z: float, dx: float, dy: float, dz: float, among: int, wide: float) -> int:
    """Which parts `among` those of a mask a bundle of rays as wide can meet, as bits: the rest need not be asked."""
    mask = 0
    flat = math.sqrt(dx * dx + dy * dy) + 1e-9
    apart = abs(x * dy - y * dx) / flat - wide
    passing = -(x * dx + y * dy) / (flat * flat)
    at = z + passing * dz
    steep = abs(dz) / flat
    if among & COLUMN_BIT and (s[7] > 0.0 or s[10] > 0.0):
        sway = steep * (s[7] + 3.0) + 0.5 + wide
        share = min(max((at - sway) / max(s[6], 0.1), 0.0), 1.0)
        thin = (1.0 - share) ** 2.4
        fillet = 3.0 if at - sway < 8.0 else 0.5
        if apart < max(s[8] + max(s[7] - s[8], 0.0) * thin, s[10]) + fillet:
            mask |= COLUMN_BIT
    if among & CROWN_BIT and s[13] > 0.0:
        reach = s[12] + s[14] * 1.6 + 3.0
        if apart < reach and at - steep * reach < 1.9 * s[13] + 1.0 + wide:
            mask |= CROWN_BIT
    for i in range(int(s[19])):
        o = SHEETS_AT + 10 * i
        reach = s[o + 1] * 1.2 + s[o + 6] + s[o + 4] + abs(s[o + 9]) + 0.5
        sway = steep * reach + s[o + 4] + 0.4 + wide
        if among & (SHEET_BIT << i) and apart < reach and s[o] - 1.45 * s[o + 2] - sway < at < s[o] + sway:
            mask |= SHEET_BIT << i
    for i in range(int(s[18])):
        if not among & (BLOB_BIT << i):
            continue
        o = BLOBS_AT + 6 * i
        bx, by, bz = s[o] - x, s[o + 1] - y, s[o + 2] - z
        along = bx * dx + by * dy + bz * dz
        off = bx * bx + by * by + bz * bz - along * along
        size = max(s[o + 3], s[o + 4]) + 0.8 + wide
        if off < size * size:
            mask |= BLOB_BIT << i
    return mask


@jit
def objects(s: Any, x: float, y: float, z: float, r: float, mask: int) -> tuple[float, int, float]:
    """Distance to all liquid but the pool, which part is nearest, and its share of dye; `mask` as of `parts_near`."""
    d, part, dye = FAR, POOL, 0.0
    if mask & COLUMN_BIT and (s[7] > 0.0 or s[10] > 0.0):
        d, part, dye = column_distance(s, r, z), COLUMN, 0.6
    if mask & CROWN_BIT and s[13] > 0.0:
        # Far inside, outside and above there is no need to ask how the wall runs.
        c = max(r - s[12] - s[14] - 2.0, z - 1.9 * s[13], s[12] - 2.0 * s[15] - r)
        if c < 0.3:
            c = crown_distance(s, r, bearing(x, y), z)
        if c < d:
            part, dye = CROWN, 0.25
        d = smooth_min(d, c, 1.2) if max(c, d) < 3.0 else min(d, c)
    left, o = mask // BLOB_BIT, BLOBS_AT - 6
    while left > 0:
        o += 6
        left, asked = left >> 1, left & 1
        if asked == 0:
            continue
        bx, by, bz = x - s[o], y - s[o + 1], z - s[o + 2]
        a, b = s[o + 3], s[o + 4]
        size = max(a, b)
        away = bx * bx + by * by + bz * bz
        if d + size < 0.0 or away > (d + size) * (d + size):
            # What is nearer than this drop is known already, without a root.
            continue
        apart = math.sqrt(away) - size
        if apart < 1.0:
            k0 = math.sqrt((bx * bx + by * by) / (a * a) + bz * bz / (b * b))
            k1 = math.sqrt((bx * bx + by * by) / (a * a * a * a) + bz * bz / (b * b * b * b))
            apart = k0 * (k0 - 1.0) / max(k1, 1e-9)
        if apart < d:
            part, dye = BLOB, s[o + 5]
        d = smooth_min(d, apart, 0.7) if max(apart, d) < 2.0 else min(d, apart)
    for i in range(int(s[19])):
        if not mask & (SHEET_BIT << i):
            continue
        c = sheet_distance(s, i, x, y, z)
        if c < d:
            part, dye = SHEET, 0.8
        d = smooth_min(d, c, 0.8) if max(c, d) < 2.0 else min(d, c)
    return d, part, dye


@jit
def with_pool(s: Any, z: float, r: float, d: float, part: int, dye: float) -> tuple[float, int, float]:
    """Join the distance to all other liquid with the pool, by a fillet."""
    pool = (z - crater_height(s, r)) * (0.8 if s[0] != 0.0 else 1.0)
    if pool < d:
        part, dye = POOL, 0.0
    d = smooth_min(d, pool, FILLET) if max(pool, d) < FILLET + 1.0 else min(d, pool)
    return d, part, dye


@jit
def liquid(s: Any, x: float, y: float, z: float, mask: int) -> tuple[float, int, float]:
    """Distance to all liquid, pool and fillets included, which part is nearest, and how much dye it holds."""
    r = math.sqrt(x * x + y * y)
    d, part, dye = objects(s, x, y, z, r, mask)
    return with_pool(s, z, r, d, part, dye)


@jit
def normal(s: Any, x: float, y: float, z: float, mask: int) -> tuple[float, float, float]:
    """Outward unit normal of the liquid's surface, by central tetrahedral differences."""
    e = 0.02
    a = liquid(s, x + e, y - e, z - e, mask)[0]
    b = liquid(s, x - e, y - e, z + e, mask)[0]
    c = liquid(s, x - e, y + e, z - e, mask)[0]
    d = liquid(s, x + e, y + e, z + e, mask)[0]
    nx, ny, nz = a - b - c + d, -a - b + c + d, -a + b - c + d
    length = math.sqrt(nx * nx + ny * ny + nz * nz) + 1e-12
    return nx / length, ny / length, nz / length
