"""The forms of liquid, compiled: signed distance [mm] to a jet, a crown, a sheet, a drop; the pool's surface.

`s` is a scene packed by `pack.pack`. The distances are underestimates rather than exact (bent walls, uneven rims),
which is what sphere tracing needs.
"""

from __future__ import annotations

import math
from typing import Any

from ondine.picture.compiled import inlined, jit
from ondine.picture.layout import (
    BEAD_HEIGHT,
    BEAD_RADIUS,
    COLUMN_AT,
    COLUMN_BASE,
    COLUMN_STEEP,
    COLUMN_TOP,
    CRATER_AT,
    CRATER_OUT,
    CROWN_FLARE,
    CROWN_HEIGHT,
    CROWN_RADIUS,
    CROWN_RIM,
    CROWN_RIM_AT,
    CROWN_THICK,
    EDGE_AT,
    FINGER,
    FINGER_APART,
    FINGER_COUNT,
    FINGER_LONG,
    FINGERS_AT,
    HOLE_MIDDLE_AT,
    HOLE_WIDTH_AT,
    NEAREST_AT,
    NEXT_AT,
    RING,
    RIPPLE,
    RIPPLE_FRONT,
    RIPPLE_LENGTH,
    RIPPLE_WIDTH,
    SHEET_CAP,
    SHEET_DROOP,
    SHEET_HEIGHT,
    SHEET_HOLES,
    SHEET_LOW,
    SHEET_RADIUS,
    SHEET_REACH,
    SHEET_RIM,
    SHEET_RIM_AT,
    SHEET_STEEP,
    SHEET_THICK,
    SHEET_X,
    SHEET_Y,
    SPOT,
    SPOT_COUNT,
    SPOT_X,
    SPOT_Y,
    SPOTS_AT,
    STEPS,
)

FAR = 1e9
FILLET, SHEET_FILLET = 3.0, 1.5
"""How softly jet and crown grow out of the pool, and a sheet out of its column [mm].

A bound that stands for a distance must be greater, or it would be taken for liquid that is near.
"""
RIM_FILLET, FINGER_FILLET = 0.6, 0.4
"""How softly a rim grows out of its film, and fingers out of the rim [mm]."""


@inlined
def smooth_min(a: float, b: float, k: float) -> float:
    """Union of two distances with a fillet of about `k` mm."""
    h = max(k - abs(a - b), 0.0) / k
    return min(a, b) - h * h * k * 0.25


@inlined
def pool_height(s: Any, x: float, y: float, craters: int) -> float:
    """Height of the pool's surface: bowls and lips of the craters whose spots are the bits of `craters`."""
    height = 0.0
    for i in range(int(s[SPOT_COUNT])):
        o = SPOTS_AT + SPOT * i
        if not craters & (1 << i) or s[o + CRATER_OUT] == 0.0:
            continue
        px, py = x - s[o + SPOT_X], y - s[o + SPOT_Y]
        place = math.sqrt(px * px + py * py) * (STEPS / s[o + CRATER_OUT])
        if place < STEPS:
            left = int(place)
            at = o + CRATER_AT + left
            height += s[at] + (s[at + 1] - s[at]) * (place - left)
    return height


@jit
def ripple_slope(s: Any, x: float, y: float) -> tuple[float, float]:
    """Slope of the ripples, and of the water near a jet: too low to need a height, they bend the mirror."""
    across, away = 0.0, 0.0
    for i in range(int(s[SPOT_COUNT])):
        o = SPOTS_AT + SPOT * i
        base = s[o + COLUMN_BASE]
        if s[o + RIPPLE] == 0.0 and base == 0.0:
            continue
        px, py = x - s[o + SPOT_X], y - s[o + SPOT_Y]
        r = math.sqrt(px * px + py * py) + 1e-9
        off = r - s[o + RIPPLE_FRONT]
        # Rings fade towards the foot of what stands in the middle.
        inner = min(r / (2.0 * base + 4.0), 1.0)
        envelope = inner * math.exp(-(off * off) / (s[o + RIPPLE_WIDTH] * s[o + RIPPLE_WIDTH]))
        wave = 6.2831853 / s[o + RIPPLE_LENGTH]
        slope = -s[o + RIPPLE] * envelope / math.sqrt(1.0 + 0.15 * r) * wave * math.sin(wave * off)
        if base > 0.0:
            slope -= min(s[o + COLUMN_TOP] / 8.0, 1.0) * 0.14 * math.exp(-max(r - base, 0.0) / 4.5)
        across += slope * px / r
        away += slope * py / r
    return across, away


@inlined
def column_distance(s: Any, o: int, r: float, z: float) -> float:
    """The jet and its bead, in the spot that begins at `o`."""
    top, base = s[o + COLUMN_TOP], s[o + COLUMN_BASE]
    d = FAR
    if base > 0.0:
        at = min(max(z, -6.0), top)
        place = min(max(at / max(top, 0.1), 0.0), 0.9999) * STEPS
        left = int(place)
        radius = s[o + COLUMN_AT + left]
        radius += (s[o + COLUMN_AT + left + 1] - radius) * (place - left)
        dz = z - at
        d = (math.sqrt(r * r + dz * dz) - radius) * s[o + COLUMN_STEEP]
    if s[o + BEAD_RADIUS] > 0.0:
        dz = z - s[o + BEAD_HEIGHT]
        bead = math.sqrt(r * r + dz * dz) - s[o + BEAD_RADIUS]
        d = smooth_min(d, bead, 1.2) if base > 0.0 else bead
    return d


@inlined
def bearing(x: float, y: float) -> float:
    """Place of a direction in the tables of RING entries around the axis, as `pack.bearings` lays them out."""
    slant = y / (abs(x) + abs(y) + 1e-12)
    if x < 0.0:
        slant = 2.0 - slant if y >= 0.0 else -2.0 - slant
    return (slant + 2.0) * (RING / 4)


@inlined
def around(s: Any, at: int, place: float) -> float:
    """Read the table that starts at `at` at a place of `bearing`."""
    left = int(place)
    share = place - left
    return s[at + (left & (RING - 1))] * (1.0 - share) + s[at + ((left + 1) & (RING - 1))] * share


@jit
def one_finger(s: Any, f: int, x: float, y: float, z: float, known: float) -> float:
    """A tapered finger and its bead; `f` is where its numbers begin. `known` where it is no nearer than that."""
    px, py, pz = x - s[f + 13], y - s[f + 14], z - s[f + 15]
    # By how much the distance is less than that of the ball, see below.
    reach = (known + 0.09) / 0.9 + s[f + 16]
    if reach < 0.0 or px * px + py * py + pz * pz > reach * reach:
        return known
    ax, ay, az = s[f], s[f + 1], s[f + 2]
    bx, by, bz = s[f + 3] - ax, s[f + 4] - ay, s[f + 5] - az
    px, py, pz = x - ax, y - ay, z - az
    h = min(max((px * bx + py * by + pz * bz) * s[f + 12], 0.0), 1.0)
    qx, qy, qz = px - h * bx, py - h * by, pz - h * bz
    # Thick at its root, soon thin: as drawn out of the rim.
    thin = (1.0 - h) * (1.0 - h)
    stalk = math.sqrt(qx * qx + qy * qy + qz * qz) - (s[f + 10] + (s[f + 9] - s[f + 10]) * thin)
    qx, qy, qz = x - s[f + 6], y - s[f + 7], z - s[f + 8]
    bead = math.sqrt(qx * qx + qy * qy + qz * qz) - s[f + 11]
    return smooth_min(stalk * 0.9, bead, 0.35)


@jit
def with_fingers(s: Any, o: int, d: float, x: float, y: float, z: float, place: float, film: float) -> float:
    """Let the fingers grow out of a rim whose distance is `d`; `o` is where the rim's numbers begin.

    film : distance to what the rim joins by a fillet of RIM_FILLET: fingers that are farther away change nothing.
    """
    if s[o + FINGER_COUNT] == 0.0:
        return d
    beyond = d - s[o + FINGER_LONG]
    if beyond > FILLET + 0.1:
        return beyond
    entry = int(place) & (RING - 1)
    known = min(d + FINGER_FILLET, film + RIM_FILLET + FINGER_FILLET)
    first = one_finger(s, o + FINGERS_AT + FINGER * int(s[o + NEAREST_AT + entry]), x, y, z, known)
    second = one_finger(s, o + FINGERS_AT + FINGER * int(s[o + NEXT_AT + entry]), x, y, z, min(known, first))
    # The third is farther than it looks from here: no step goes past it.
    return smooth_min(d, min(first, second, max(0.5 * s[o + FINGER_APART], beyond)), FINGER_FILLET)


@jit
def crown_distance(s: Any, o: int, x: float, y: float, z: float, r: float) -> tuple[float, bool]:
    """A thin flared wall, its rim and fingers; and whether it is the wall that is nearest."""
    height, radius, flare = s[o + CROWN_HEIGHT], s[o + CROWN_RADIUS], s[o + CROWN_FLARE]
    if z < 0.8 * height:
        share = max(z, -2.0) / height
        away = 0.7 * abs(r - radius - flare * share * abs(share)) - 2.5 * s[o + CROWN_THICK]
        if away > FILLET + 0.1:
            return away, True
    place = bearing(x, y)
    top = around(s, o + CROWN_RIM_AT + EDGE_AT, place)
    at = min(max(z, -2.0), top)
    share = at / height
    slope = 2.0 * flare * abs(share) / height
    foot = max(1.5 - max(at, 0.0), 0.0)
    half = s[o + CROWN_THICK] * (1.0 + 0.5 * foot * foot)
    away = abs(r - radius - flare * share * abs(share))
    away /= math.sqrt(1.0 + slope * slope)
    dz = z - at
    film = (math.sqrt(away * away + dz * dz) - half) * 0.9
    if top - z - s[o + CROWN_RIM] > film + 0.6:
        return film, True
    share = top / height
    edge_r, edge_z = r - radius - flare * share * share, z - top
    rim = (math.sqrt(edge_r * edge_r + edge_z * edge_z) - s[o + CROWN_RIM]) * 0.9
    if edge_z > -1.0:
        # They rise: below the rim it is nearer than they are.
        rim = with_fingers(s, o + CROWN_RIM_AT, rim, x, y, z, place, film)
    return smooth_min(film, rim, RIM_FILLET), film < rim


@jit
def sheet_distance(s: Any, o: int, x: float, y: float, z: float) -> tuple[float, bool]:
    """One umbrella; and whether its film is nearest rather than its rim."""
    px, py = x - s[o + SHEET_X], y - s[o + SHEET_Y]
    r = math.sqrt(px * px + py * py)
    height, radius, droop, rim = s[o + SHEET_HEIGHT], s[o + SHEET_RADIUS], s[o + SHEET_DROOP], s[o + SHEET_RIM]
    thick = s[o + SHEET_THICK]
    coarse = max(r - s[o + SHEET_REACH], max(z - height - rim - s[o + SHEET_CAP] - thick, s[o + SHEET_LOW] - z))
    if coarse > SHEET_FILLET + 0.1:
        return coarse, False
    share = r / radius
    half = thick
    if s[o + SHEET_CAP] > 0.0 and share < 1.2:
        bulge = 1.0 - 0.7 * share * share
        half += s[o + SHEET_CAP] * bulge * bulge * bulge if bulge > 0.0 else 0.0
    if r < 0.9 * radius - 3.0 * rim and s[o + SHEET_HOLES] == 0.0:
        # Well inside the rim it is a matter of the film alone.
        return (abs(z - height + droop * share * share) - half) * s[o + SHEET_STEEP], True
    place = bearing(px, py)
    edge = around(s, o + SHEET_RIM_AT + EDGE_AT, place)
    at = min(r, edge) / radius
    surface = height - droop * at * at
    if s[o + SHEET_HOLES] > 0.0:
        inside = around(s, o + HOLE_WIDTH_AT, place) - abs(share - around(s, o + HOLE_MIDDLE_AT, place))
        half -= 4.0 * max(inside, 0.0)
    beyond, off = max(r - edge, 0.0), abs(z - surface)
    film = (math.sqrt(beyond * beyond + off * off) - half) * s[o + SHEET_STEEP]
    at = edge / radius
    edge_z = z - height + droop * at * at
    tube = math.sqrt((r - edge) * (r - edge) + edge_z * edge_z) - rim
    tube *= 0.9
    if r > edge - 1.0:
        tube = with_fingers(s, o + SHEET_RIM_AT, tube, px, py, z, place, film)
    return smooth_min(film, tube, 0.5), film < tube


@inlined
def blob_distance(s: Any, o: int, x: float, y: float, z: float, known: float) -> float:
    """A drop, whose numbers begin at `o`; FAR where it is farther away than a distance that is `known` already."""
    bx, by, bz = x - s[o], y - s[o + 1], z - s[o + 2]
    a, b = s[o + 3], s[o + 4]
    size = max(a, b)
    away = bx * bx + by * by + bz * bz
    if known + size < 0.0 or away > (known + size) * (known + size):
        return FAR
    apart = math.sqrt(away) - size
    if apart < 1.0:
        k0 = math.sqrt((bx * bx + by * by) / (a * a) + bz * bz / (b * b))
        k1 = math.sqrt((bx * bx + by * by) / (a * a * a * a) + bz * bz / (b * b * b * b))
        apart = k0 * (k0 - 1.0) / max(k1, 1e-9)
    return apart
