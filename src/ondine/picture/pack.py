"""A scene as one flat array, laid out for the compiled code: what hangs on a bearing or a height alone is tabulated."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from ondine.picture.layout import (
    BEAD_HEIGHT,
    BLOB,
    BLOB_COUNT,
    BLOBS_AT,
    COLUMN_AT,
    COLUMN_TOP,
    CRATER_AT,
    CRATER_OUT,
    CRATER_REACH,
    CRATER_STEEP,
    CROWN_RADIUS,
    CROWN_REACH,
    CROWN_RIM,
    CROWN_RIM_AT,
    CROWN_TOP,
    EDGE_AT,
    FINGER,
    FINGER_APART,
    FINGER_COUNT,
    FINGER_LONG,
    FINGERS_AT,
    HOLE_MIDDLE_AT,
    HOLE_WIDTH_AT,
    INKED,
    LIP,
    MAX_BLOBS,
    MAX_FINGERS,
    MAX_SHEETS,
    MAX_SPOTS,
    MIDDLE_X,
    MIDDLE_Y,
    NEAREST_AT,
    NEXT_AT,
    PACKED_SIZE,
    REACH,
    RIM,
    RING,
    RIPPLE_WIDTH,
    SHEET,
    SHEET_COUNT,
    SHEET_INK,
    SHEET_REACH,
    SHEET_RIM_AT,
    SHEETS_AT,
    SPOT,
    SPOT_COUNT,
    SPOT_INK,
    SPOT_X,
    SPOTS_AT,
    STEPS,
    TOP,
)
from ondine.picture.scene import Blob, Column, Fingers, Pool, Scene, Sheet, Spot

Floats = NDArray[np.float64]

FOOT_MM = 8.0
"""Beyond its foot the water is level again so far from a jet at most."""

LIP_SHARE = 0.035
"""How high the lip of a crater stands, as a share of its depth."""


def pack(scene: Scene) -> Floats:
    """Return the scene as one flat array, shape (PACKED_SIZE,); what is beyond its room is left out."""
    flat = np.zeros(PACKED_SIZE)
    spots, blobs, sheets = scene.spots[:MAX_SPOTS], scene.blobs[:MAX_BLOBS], scene.sheets[:MAX_SHEETS]
    flat[SPOT_COUNT], flat[BLOB_COUNT], flat[SHEET_COUNT] = len(spots), len(blobs), len(sheets)
    for i, spot in enumerate(spots):
        _pack_spot(flat[SPOTS_AT + SPOT * i : SPOTS_AT + SPOT * (i + 1)], spot)
    for i, b in enumerate(blobs):
        flat[BLOBS_AT + BLOB * i : BLOBS_AT + BLOB * (i + 1)] = (b.x, b.y, b.z, b.across, b.upright, b.dye, b.ink)
    for i, sheet in enumerate(sheets):
        _pack_sheet(flat[SHEETS_AT + SHEET * i : SHEETS_AT + SHEET * (i + 1)], sheet)
    flat[INKED] = any([*(s.ink for s in spots), *(b.ink for b in blobs), *(s.ink for s in sheets)])
    flat[CRATER_STEEP] = min((_crater_steep(spot.pool) for spot in spots), default=1.0)
    # Where lips overlap they add.
    flat[LIP] = sum(LIP_SHARE * abs(spot.pool.crater_depth) for spot in spots)
    rooms = [_spot_room(flat, i, spot) for i, spot in enumerate(spots)]
    rooms += [_blob_room(b) for b in blobs] + [_sheet_room(flat, i, s) for i, s in enumerate(sheets)]
    flat[TOP] = max((top for *_, top in rooms), default=0.0) + 1.0
    if rooms:
        left, right = min(x - r for x, _, r, _ in rooms), max(x + r for x, _, r, _ in rooms)
        middle_x, middle_y = (left + right) / 2, (min(y for _, y, *_ in rooms) + max(y for _, y, *_ in rooms)) / 2
        flat[MIDDLE_X], flat[MIDDLE_Y] = middle_x, middle_y
        flat[REACH] = max(math.hypot(x - middle_x, y - middle_y) + r for x, y, r, _ in rooms) + 1.0
    return flat


Room = tuple[float, float, float, float]
"""Middle, radius and top of the upright cylinder that holds a part."""


def _spot_room(flat: Floats, i: int, spot: Spot) -> Room:
    block = flat[SPOTS_AT + SPOT * i : SPOTS_AT + SPOT * (i + 1)]
    column = spot.column
    reach = max(2.0, block[CRATER_OUT], column.base_radius * 1.3 + FOOT_MM)
    top = max(column.top + column.tip_radius, column.bead_height + column.bead_radius, block[CROWN_TOP], 4.0)
    return spot.x, spot.y, max(reach, block[CROWN_REACH]), top


def _blob_room(blob: Blob) -> Room:
    return blob.x, blob.y, blob.across, blob.z + blob.upright


def _sheet_room(flat: Floats, i: int, sheet: Sheet) -> Room:
    block = flat[SHEETS_AT + SHEET * i : SHEETS_AT + SHEET * (i + 1)]
    return sheet.x, sheet.y, float(block[SHEET_REACH]), sheet.height + sheet.thickness + sheet.cap + sheet.rim


def _pack_spot(block: Floats, spot: Spot) -> None:
    pool, column, crown = spot.pool, spot.column, spot.crown
    block[SPOT_X : RIPPLE_WIDTH + 1] = (
        spot.x, spot.y, pool.crater_radius * CRATER_REACH if pool.crater_depth else 0.0,
        pool.ripple_height, pool.ripple_length, pool.ripple_front, pool.ripple_width,
    )  # fmt: skip
    block[SPOT_INK] = spot.ink
    radii = column_radius(column)
    slope = float(np.abs(np.diff(radii[STEPS // 16 :])).max()) * STEPS / max(column.top, 0.1)
    block[COLUMN_TOP : BEAD_HEIGHT + 1] = (
        column.top, column.base_radius, column.tip_radius, max(0.45, 1 / math.hypot(1, slope)),
        column.bead_radius, column.bead_height,
    )  # fmt: skip
    block[COLUMN_AT : COLUMN_AT + STEPS + 1] = radii
    block[CRATER_AT : CRATER_AT + STEPS + 1] = crater_heights(pool)
    if crown.height:
        angle = bearings()
        n, phase = max(crown.fingers.count, 1), crown.fingers.phase
        uneven = 0.06 * np.sin(2 * angle + phase) + 0.05 * np.sin(3 * angle - 2 * phase)
        edge = crown.height * (1 + uneven + 0.05 * np.cos(n * angle - n * phase))
        block[CROWN_RADIUS : CROWN_RIM + 1] = (
            crown.radius, crown.height, crown.flare, crown.thickness, crown.rim,
        )  # fmt: skip
        wall = crown.radius + crown.flare * (edge / crown.height) ** 2
        lean = np.full(RING, math.atan2(crown.height, 2 * crown.flare + 1e-6))
        rim = _rim(edge, crown.fingers, wall, edge, lean, crown.rim)
        block[CROWN_RIM_AT : CROWN_RIM_AT + RIM] = rim
        outmost, _, topmost = _extent(rim, float(wall.max()), 0.0, float(edge.max()))
        block[CROWN_TOP], block[CROWN_REACH] = topmost + crown.rim, outmost + crown.rim


def _pack_sheet(block: Floats, sheet: Sheet) -> None:
    angle, phase = bearings(), sheet.fingers.phase
    n = max(sheet.fingers.count, 1)
    edge = sheet.radius * (1 + 0.02 * np.cos(2 * angle + phase) + 0.02 * np.cos(n * angle - n * phase))
    height = sheet.height - sheet.droop * (edge / sheet.radius) ** 2
    slope = 2 * sheet.droop / max(sheet.radius, 0.1)
    rim = _rim(edge, sheet.fingers, edge, height, np.full(RING, -math.atan(slope) * 0.8), sheet.rim)
    outmost, lowest, _ = _extent(rim, float(edge.max()), float(height.min()), sheet.height)
    block[: SHEET_INK + 1] = (
        sheet.x, sheet.y, sheet.height, sheet.radius, sheet.droop, sheet.thickness, sheet.rim, sheet.cap, sheet.holes,
        0.95 / math.hypot(1, slope), outmost + sheet.rim, lowest - sheet.rim, sheet.ink,
    )  # fmt: skip
    wide = np.sin(4 * angle + 2 * phase) * np.sin(7 * angle + phase) - 1 + sheet.holes
    block[HOLE_MIDDLE_AT : HOLE_MIDDLE_AT + RING] = 0.66 + 0.12 * np.sin(3 * angle + phase)
    block[HOLE_WIDTH_AT : HOLE_WIDTH_AT + RING] = 0.34 * np.maximum(wide, 0.0)
    block[SHEET_RIM_AT : SHEET_RIM_AT + RIM] = rim


def column_radius(column: Column) -> Floats:
    """Radius of the jet from its foot to its tip, shape (STEPS + 1,).

    It rises from a broad smooth foot, thins, and has a neck under its tip.
    """
    share = np.linspace(0, 1, STEPS + 1)
    up = column.top * share
    taper = column.tip_radius + (column.base_radius - column.tip_radius) * (1 - share) ** 2.4
    foot = 0.3 * column.base_radius * np.exp(-up / max(0.25 * column.base_radius, 0.2))
    below_tip = (column.top - up) / max(column.tip_radius, 1e-3)
    neck = 1 - column.waist * np.exp(-(((below_tip - 2.4) / 1.3) ** 2))
    return np.asarray((taper + foot) * neck)


def crater_heights(pool: Pool) -> Floats:
    """Height of the pool's surface from the axis out to CRATER_REACH radii, shape (STEPS + 1,): bowl and soft lip."""
    q = np.linspace(0, CRATER_REACH, STEPS + 1)
    bowl = np.maximum(1 - q * q, 0)
    lip = LIP_SHARE * np.exp(-(((q - 1.15) / 0.22) ** 2)) * np.clip((CRATER_REACH - q) / 0.3, 0, 1)
    return np.asarray(abs(pool.crater_depth) * lip - pool.crater_depth * bowl)


def _crater_steep(pool: Pool) -> float:
    """Cosine of the steepest slope of a crater's surface."""
    if not pool.crater_depth:
        return 1.0
    step = CRATER_REACH * max(pool.crater_radius, 0.5) / STEPS
    return 1 / math.hypot(1, float(np.abs(np.diff(crater_heights(pool))).max()) / step)


def bearings() -> Floats:
    """Angles of the RING entries of a table around the axis [rad].

    They stand evenly around a square rather than a circle, so that to find one asks for no arctangent.
    """
    slant = np.arange(RING) * 4 / RING - 2
    y = np.where(np.abs(slant) <= 1, slant, np.sign(slant) * 2 - slant)
    return np.asarray(np.arctan2(y, np.where(np.abs(slant) <= 1, 1, -1) * (1 - np.abs(y))))


def _rim(edge: Floats, fingers: Fingers, radius: Floats, height: Floats, lean: Floats, thick: float) -> Floats:
    """A rim's block: `edge` as it is read by bearing; fingers rise at `lean` [rad] over level from (radius, height)."""
    block = np.zeros(RIM)
    block[EDGE_AT : EDGE_AT + RING] = edge
    count = min(fingers.count, MAX_FINGERS)
    if not count or fingers.length <= 0:
        return block
    block[FINGER_COUNT], block[FINGER_APART] = count, 2 * math.pi / count * float(radius.mean())
    block[FINGER_LONG] = 2.5 * fingers.length + 2.0 * fingers.radius
    rng = np.random.default_rng(int(abs(fingers.phase) * 1e6) + count)
    turn = fingers.phase + (np.arange(count) + rng.uniform(-0.22, 0.22, count)) * 2 * math.pi / count
    turn = (turn + math.pi) % (2 * math.pi) - math.pi
    angle = bearings()
    off = np.abs((angle[:, None] - turn + math.pi) % (2 * math.pi) - math.pi)
    order = np.argsort(off, axis=1)
    block[NEAREST_AT : NEAREST_AT + RING] = order[:, 0]
    block[NEXT_AT : NEXT_AT + RING] = order[:, 1 if count > 1 else 0]
    at = off.argmin(axis=0)
    length = fingers.length * rng.uniform(0.45, 1.15, count)
    has_shed = rng.random(count) < fingers.shed
    for k in range(count):
        out = np.array([math.cos(turn[k]), math.sin(turn[k]), 0.0])
        way = math.cos(lean[at[k]]) * out + math.sin(lean[at[k]]) * np.array([0.0, 0.0, 1.0])
        root = radius[at[k]] * out + np.array([0.0, 0.0, height[at[k]]])
        tip = root + length[k] * way * (0.7 if has_shed[k] else 1.0)
        bead_radius = fingers.radius * (1.55 if has_shed[k] else 1.35)
        bead = tip + (1.3 * fingers.length * way if has_shed[k] else 0.4 * fingers.radius * way)
        root_radius, tip_radius = max(thick, fingers.radius), fingers.radius * 0.75
        middle = (root + bead) / 2
        balls = (root, root_radius), (tip, tip_radius), (bead, bead_radius)
        ball = max(float(np.linalg.norm(place - middle)) + radius for place, radius in balls)
        start = FINGERS_AT + FINGER * k
        block[start : start + FINGER] = (
            *root, *tip, *bead, root_radius, tip_radius, bead_radius, 1 / max(float(((tip - root) ** 2).sum()), 1e-6),
            *middle, ball,
        )  # fmt: skip
    return block


def _extent(rim: Floats, out: float, low: float, high: float) -> tuple[float, float, float]:
    """How far out, down and up a rim reaches with its fingers."""
    for k in range(int(rim[FINGER_COUNT])):
        finger = rim[FINGERS_AT + FINGER * k : FINGERS_AT + FINGER * (k + 1)]
        for x, y, z, radius in ((*finger[3:6], finger[10]), (*finger[6:9], finger[11])):
            out, low, high = max(out, math.hypot(x, y) + radius), min(low, z - radius), max(high, z + radius)
    return out, low, high
