"""Signed distance to all liquid of a scene, compiled: which of its parts a ray can meet, and how they join."""

from __future__ import annotations

import math
from typing import Any

from ondine.picture.compiled import inlined, jit
from ondine.picture.forms import (
    FAR,
    FILLET,
    SHEET_FILLET,
    blob_distance,
    column_distance,
    crown_distance,
    pool_height,
    sheet_distance,
    smooth_min,
)
from ondine.picture.layout import (
    BEAD_RADIUS,
    BLOB,
    BLOB_COUNT,
    BLOBS_AT,
    COLUMN_BASE,
    COLUMN_STEEP,
    COLUMN_TIP,
    COLUMN_TOP,
    CRATER_OUT,
    CRATER_STEEP,
    CROWN_HEIGHT,
    CROWN_RADIUS,
    CROWN_REACH,
    CROWN_THICK,
    CROWN_TOP,
    INK,
    INKED,
    INKS_AT,
    LIP,
    MAX_BLOBS,
    MAX_SHEETS,
    MAX_SPOTS,
    SHEET,
    SHEET_CAP,
    SHEET_COUNT,
    SHEET_HEIGHT,
    SHEET_INK,
    SHEET_LOW,
    SHEET_REACH,
    SHEET_RIM,
    SHEET_THICK,
    SHEET_X,
    SHEET_Y,
    SHEETS_AT,
    SPOT,
    SPOT_COUNT,
    SPOT_INK,
    SPOT_X,
    SPOT_Y,
    SPOTS_AT,
)

SOLID, POOL, SHEET_FILM, CROWN_FILM = 0, 1, 2, 2 + MAX_SHEETS
"""What a surface belongs to: thick liquid, the pool, the film of a sheet or of a crown, each with its number added."""

GRAZING = 0.12
"""Least cosine that a film is crossed at: it bends, so that no ray stays in it for long."""

COLUMN_BIT, CROWN_BIT, CRATER_BIT = 1, 1 << MAX_SPOTS, 1 << 2 * MAX_SPOTS
SHEET_BIT = 1 << 3 * MAX_SPOTS
BLOB_BIT = SHEET_BIT << MAX_SHEETS
CRATERS = ((1 << MAX_SPOTS) - 1) * CRATER_BIT
ALL_PARTS = (BLOB_BIT << MAX_BLOBS) - 1
BIG_PARTS = BLOB_BIT - 1


@inlined
def join(d: float, dye: float, other: float, other_dye: float, fillet: float) -> tuple[float, float]:
    """Join two liquids by a fillet: distance and dye, which runs from the one into the other."""
    if max(d, other) > fillet + 1.0:
        return (d, dye) if d < other else (other, other_dye)
    share = min(max(0.5 + 0.5 * (d - other) / fillet, 0.0), 1.0)
    return smooth_min(d, other, fillet), dye + (other_dye - dye) * share


@jit
def parts_near(s: Any, x: float, y: float, z: float, dx: float, dy: float, dz: float, among: int, wide: float) -> int:
    """Which parts `among` those of a mask a bundle of rays as wide can meet, as bits: the rest need not be asked."""
    mask = 0
    flat = math.sqrt(dx * dx + dy * dy) + 1e-9
    steep = abs(dz) / flat
    for i in range(int(s[SPOT_COUNT])):
        o = SPOTS_AT + SPOT * i
        px, py = x - s[o + SPOT_X], y - s[o + SPOT_Y]
        apart = abs(px * dy - py * dx) / flat - wide
        at = z - (px * dx + py * dy) / (flat * flat) * dz
        if among & (COLUMN_BIT << i) and (s[o + COLUMN_BASE] > 0.0 or s[o + BEAD_RADIUS] > 0.0):
            base, tip = s[o + COLUMN_BASE] * 1.3, s[o + COLUMN_TIP]
            # Its distance is an underestimate: the fillet reaches farther out.
            foot = FILLET / s[o + COLUMN_STEEP]
            sway = steep * (base + foot + 1.0) + 0.5 + wide
            share = min(max((at - sway) / max(s[o + COLUMN_TOP], 0.1), 0.0), 1.0)
            fillet = foot if at - sway < 8.0 else 0.6
            if apart < max(tip + max(base - tip, 0.0) * (1.0 - share) ** 2.4, s[o + BEAD_RADIUS]) + fillet:
                mask |= COLUMN_BIT << i
        if among & (CROWN_BIT << i) and s[o + CROWN_HEIGHT] > 0.0:
            reach = s[o + CROWN_REACH] + FILLET
            if apart < reach and at - steep * reach < s[o + CROWN_TOP] + wide:
                mask |= CROWN_BIT << i
        if among & (CRATER_BIT << i) and s[o + CRATER_OUT] > 0.0:
            reach = s[o + CRATER_OUT]
            if apart < reach and at - steep * reach < 2.0 + wide:
                mask |= CRATER_BIT << i
    for i in range(int(s[SHEET_COUNT])):
        if not among & (SHEET_BIT << i):
            continue
        o = SHEETS_AT + SHEET * i
        px, py = x - s[o + SHEET_X], y - s[o + SHEET_Y]
        at = z - (px * dx + py * dy) / (flat * flat) * dz
        reach = s[o + SHEET_REACH] + 0.5
        sway = steep * reach + s[o + SHEET_RIM] + s[o + SHEET_CAP] + s[o + SHEET_THICK] + 0.4 + wide
        near = abs(px * dy - py * dx) / flat - wide < reach
        if near and s[o + SHEET_LOW] - sway < at < s[o + SHEET_HEIGHT] + sway:
            mask |= SHEET_BIT << i
    for i in range(int(s[BLOB_COUNT])):
        if not among & (BLOB_BIT << i):
            continue
        o = BLOBS_AT + BLOB * i
        bx, by, bz = s[o] - x, s[o + 1] - y, s[o + 2] - z
        along = bx * dx + by * dy + bz * dz
        off = bx * bx + by * by + bz * bz - along * along
        size = max(s[o + 3], s[o + 4]) + 0.8 + wide
        if off < size * size:
            mask |= BLOB_BIT << i
    return mask


@inlined
def spots_distance(s: Any, x: float, y: float, z: float, mask: int) -> tuple[float, int, float]:
    """The jets and crowns, as `objects`."""
    d, part, dye = FAR, SOLID, 0.0
    for i in range(int(s[SPOT_COUNT])):
        o = SPOTS_AT + SPOT * i
        if not mask & ((COLUMN_BIT | CROWN_BIT) << i):
            continue
        px, py = x - s[o + SPOT_X], y - s[o + SPOT_Y]
        r = math.sqrt(px * px + py * py)
        if mask & (COLUMN_BIT << i) and (s[o + COLUMN_BASE] > 0.0 or s[o + BEAD_RADIUS] > 0.0):
            c = column_distance(s, o, r, z)
            if c < d:
                # A jet is the pool's water below, and ever more of what fell towards its tip.
                d, part, dye = c, SOLID, 0.45 * min(max(z / 12.0, 0.0), 1.0)
        if mask & (CROWN_BIT << i) and s[o + CROWN_HEIGHT] > 0.0:
            # Far inside, outside and above there is no need to ask how the wall runs.
            inside = s[o + CROWN_RADIUS] - 3.0 * s[o + CROWN_THICK] - 0.7 - r
            c, film = max(r - s[o + CROWN_REACH], max(z - s[o + CROWN_TOP], inside)), False
            if c < FILLET + 0.1:
                c, film = crown_distance(s, o, px, py, z, r)
            if c < d:
                part = CROWN_FILM + i if film else SOLID
            d, dye = join(d, dye, c, 0.25, 1.2)
    return d, part, dye


@inlined
def objects(s: Any, x: float, y: float, z: float, mask: int) -> tuple[float, int, float]:
    """Distance to all liquid but the pool, which part is nearest, and its share of dye; `mask` as of `parts_near`."""
    d, part, dye = spots_distance(s, x, y, z, mask)
    for i in range(int(s[SHEET_COUNT])):
        if not mask & (SHEET_BIT << i):
            continue
        c, film = sheet_distance(s, SHEETS_AT + SHEET * i, x, y, z)
        if c < d:
            part = SHEET_FILM + i if film else SOLID
        d, dye = join(d, dye, c, 0.8, SHEET_FILLET)
    left, o = (mask // BLOB_BIT) & ((1 << int(s[BLOB_COUNT])) - 1), BLOBS_AT - BLOB
    while left > 0:
        o += BLOB
        left, asked = left >> 1, left & 1
        if asked == 0:
            continue
        c = blob_distance(s, o, x, y, z, d)
        if c < d:
            part = SOLID
        d, dye = join(d, dye, c, s[o + 5], 0.7)
    return d, part, dye


@inlined
def with_pool(
    s: Any, x: float, y: float, z: float, d: float, part: int, dye: float, mask: int
) -> tuple[float, int, float]:
    """Join the distance to all other liquid with the pool."""
    cratered = s[LIP] > 0.0 and mask & CRATERS
    pool = z - pool_height(s, x, y, (mask & CRATERS) // CRATER_BIT) if cratered else z
    if pool < d:
        part = POOL
    d, dye = join(d, dye, pool, 0.0, FILLET)
    if cratered and pool * s[CRATER_STEEP] < d:
        # Beside a crater's walls less of it is sure. The surface stays where it is for rays that do not ask the crater.
        d *= s[CRATER_STEEP]
    return d, part, dye


@jit
def liquid(s: Any, x: float, y: float, z: float, mask: int) -> tuple[float, int, float]:
    """Distance to all liquid, pool and fillets included, which part is nearest, and how much dye it holds."""
    d, part, dye = objects(s, x, y, z, mask)
    return with_pool(s, x, y, z, d, part, dye, mask)


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


@jit
def film_path(s: Any, part: int, cosine: float) -> float:
    """How far a ray runs in the film that it crosses."""
    if part >= CROWN_FILM:
        half = s[SPOTS_AT + SPOT * (part - CROWN_FILM) + CROWN_THICK]
    else:
        half = s[SHEETS_AT + SHEET * (part - SHEET_FILM) + SHEET_THICK]
    return 2.0 * half / max(cosine, GRAZING)


@jit
def ink_at(s: Any, x: float, y: float, z: float, mask: int) -> int:
    """Where the numbers of the ink begin, in the look, that the nearest part has: asked where a ray meets liquid."""
    if s[INKED] == 0.0:
        return INKS_AT
    least, ink = FAR, 0.0
    for i in range(int(s[SPOT_COUNT])):
        d = spots_distance(s, x, y, z, mask & ((COLUMN_BIT | CROWN_BIT) << i))[0]
        if d < least:
            least, ink = d, s[SPOTS_AT + SPOT * i + SPOT_INK]
    for i in range(int(s[SHEET_COUNT])):
        d = sheet_distance(s, SHEETS_AT + SHEET * i, x, y, z)[0] if mask & (SHEET_BIT << i) else FAR
        if d < least:
            least, ink = d, s[SHEETS_AT + SHEET * i + SHEET_INK]
    for i in range(int(s[BLOB_COUNT])):
        o = BLOBS_AT + BLOB * i
        d = blob_distance(s, o, x, y, z, least) if mask & (BLOB_BIT << i) else FAR
        if d < least:
            least, ink = d, s[o + 6]
    return INKS_AT + INK * int(ink)
