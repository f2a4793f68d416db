"""What stands in front of the simulated camera at one instant, in millimetres, as arrays for the tracer."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


@dataclass
class Pool:
    """The water surface: a crater bowl and one outgoing packet of ripples."""

    crater_depth: float = 0.0
    crater_radius: float = 1.0
    ripple_height: float = 0.0
    ripple_length: float = 6.0
    ripple_front: float = 0.0
    ripple_width: float = 20.0


@dataclass
class Column:
    """The jet: from the pool to `top`, thick at the base, waisted, with a bead that may have let go."""

    top: float = 0.0
    base_radius: float = 0.0
    tip_radius: float = 0.0
    waist: float = 0.0
    bead_radius: float = 0.0
    bead_height: float = 0.0


@dataclass
class Crown:
    """The crown: a thin flared wall of `height` over `radius`, broken into `spikes`."""

    radius: float = 0.0
    height: float = 0.0
    flare: float = 0.0
    thickness: float = 0.25
    spikes: int = 17
    phase: float = 0.0


@dataclass
class Blob:
    """A drop: an ellipsoid of revolution about the vertical. `dye` is how much of the falling liquid it holds."""

    x: float
    y: float
    z: float
    across: float
    upright: float
    dye: float = 1.0


@dataclass
class Sheet:
    """The umbrella: a thin drooping disc with a thick rim, fingers, and holes once it tears."""

    height: float
    radius: float
    droop: float
    thickness: float
    rim: float
    fingers: int = 19
    finger_length: float = 0.0
    holes: float = 0.0
    phase: float = 0.0
    x: float = 0.0


@dataclass
class Scene:
    """All liquid at one instant. Lengths in mm, z up from the rest level, y away from the camera."""

    pool: Pool = field(default_factory=Pool)
    column: Column = field(default_factory=Column)
    crown: Crown = field(default_factory=Crown)
    blobs: list[Blob] = field(default_factory=list)
    sheets: list[Sheet] = field(default_factory=list)


MAX_BLOBS, MAX_SHEETS = 40, 3
BLOBS_AT = 22
SHEETS_AT = BLOBS_AT + 6 * MAX_BLOBS
RING = 512
"""Entries around the axis in the tables of lumps (crown spikes, rim fingers)."""

CROWN_RING_AT = SHEETS_AT + 10 * MAX_SHEETS
SHEET_RINGS_AT = CROWN_RING_AT + 2 * RING
COLUMN_AT = SHEET_RINGS_AT + 4 * RING * MAX_SHEETS
STEPS = 256
"""Entries up the jet in the table of its radius."""

CRATER_AT = COLUMN_AT + STEPS + 1
CRATER_REACH = 1.6
"""The pool is level beyond so many crater radii."""

PACKED_SIZE = CRATER_AT + STEPS + 1


def pack(scene: Scene) -> Floats:
    """Return the scene as one flat array, laid out as `distance.py` reads it, shape (PACKED_SIZE,).

    Around the axis the lumps are tabulated once, so that the tracer asks no sine at each step.
    """
    pool, column, crown = scene.pool, scene.column, scene.crown
    flat = np.zeros(PACKED_SIZE)
    flat[0:6] = (
        pool.crater_depth,
        max(pool.crater_radius, 0.5),
        pool.ripple_height,
        pool.ripple_length,
        pool.ripple_front,
        pool.ripple_width,
    )
    flat[6:12] = (
        column.top,
        column.base_radius,
        column.tip_radius,
        column.waist,
        column.bead_radius,
        column.bead_height,
    )
    flat[12:18] = (crown.radius, crown.height, crown.flare, crown.thickness, crown.spikes, crown.phase)
    blobs, sheets = scene.blobs[:MAX_BLOBS], scene.sheets[:MAX_SHEETS]
    flat[18:20] = len(blobs), len(sheets)
    flat[20] = _top(scene) + 1.0
    flat[21] = _reach(scene) + 1.0
    for i, b in enumerate(blobs):
        flat[BLOBS_AT + 6 * i : BLOBS_AT + 6 * i + 6] = (b.x, b.y, b.z, b.across, b.upright, b.dye)
    flat[COLUMN_AT:CRATER_AT] = _column_radius(column)
    flat[CRATER_AT:PACKED_SIZE] = _crater_height(pool)
    tops, teeth = _crown_ring(crown)
    flat[CROWN_RING_AT : CROWN_RING_AT + RING] = tops
    flat[CROWN_RING_AT + RING : CROWN_RING_AT + 2 * RING] = teeth
    start = SHEETS_AT
    for i, s in enumerate(sheets):
        flat[start + 10 * i : start + 10 * i + 10] = (
            s.height,
            s.radius,
            s.droop,
            s.thickness,
            s.rim,
            s.fingers,
            s.finger_length,
            s.holes,
            s.phase,
            s.x,
        )
        ring = SHEET_RINGS_AT + 4 * RING * i
        flat[ring : ring + 4 * RING] = np.concatenate(_sheet_ring(s))
    return flat


def _column_radius(column: Column) -> Floats:
    """Radius of the jet from its foot to its tip, shape (STEPS + 1,): thick below, waisted towards the tip."""
    share = np.linspace(0, 1, STEPS + 1)
    taper = column.tip_radius + (column.base_radius - column.tip_radius) * (1 - share) ** 2.4
    below_tip = column.top * (1 - share)
    swell = 0.5 + 0.5 * np.cos(2 * np.pi * below_tip / max(column.tip_radius * 4.6, 1e-3))
    return np.asarray(taper * (1 - column.waist * swell * share))


def _crater_height(pool: Pool) -> Floats:
    """Height of the pool's surface from the axis out to CRATER_REACH radii, shape (STEPS + 1,): bowl and raised lip."""
    q = np.linspace(0, CRATER_REACH, STEPS + 1)
    bowl = np.maximum(1 - q * q, 0) ** 0.8
    return np.asarray(0.13 * abs(pool.crater_depth) * np.exp(-((q - 1.12) ** 2) / 0.02) - pool.crater_depth * bowl)


def bearings() -> Floats:
    """Angles of the RING entries of a table around the axis [rad].

    They stand evenly around a square rather than a circle, so that to find one asks for no arctangent.
    """
    slant = np.arange(RING) * 4 / RING - 2
    y = np.where(np.abs(slant) <= 1, slant, np.sign(slant) * 2 - slant)
    return np.asarray(np.arctan2(y, np.where(np.abs(slant) <= 1, 1, -1) * (1 - np.abs(y))))


def _crown_ring(crown: Crown) -> tuple[Floats, Floats]:
    """Height of the crown's edge and how far each angle is into a spike, shape (RING,)."""
    angle = bearings()
    tooth = 0.5 + 0.5 * np.cos(crown.spikes * angle + crown.phase)
    uneven = 0.75 + 0.25 * np.sin(3 * angle + 2 * crown.phase) + 0.12 * np.sin(7 * angle - crown.phase)
    return crown.height * (0.62 + 0.75 * uneven * tooth**3), tooth


def _sheet_ring(sheet: Sheet) -> tuple[Floats, Floats, Floats, Floats]:
    """The sheet's edge, its fingers, and where holes lie (middle and half width, in radii), each of shape (RING,)."""
    angle = bearings()
    wander = 0.8 * np.sin(2 * angle + sheet.phase)
    tooth = 0.5 + 0.5 * np.cos(sheet.fingers * angle + sheet.phase + wander)
    uneven = 0.6 + 0.4 * np.sin(5 * angle + 3 * sheet.phase)
    edge = sheet.radius * (1 + 0.025 * np.cos(2 * angle + sheet.phase)) + sheet.finger_length * tooth**4 * uneven
    wide = np.sin(4 * angle + 2 * sheet.phase) * np.sin(7 * angle + sheet.phase) - 1 + sheet.holes
    middle = 0.58 + 0.16 * np.sin(3 * angle + sheet.phase)
    return edge, tooth, middle, 0.34 * np.maximum(wide, 0.0)


def _top(scene: Scene) -> float:
    """Height over which there is only air."""
    tops = [4.0, scene.column.top + scene.column.tip_radius, scene.column.bead_height + scene.column.bead_radius]
    tops.append(scene.crown.height * 1.9)
    tops += [b.z + b.upright for b in scene.blobs]
    tops += [s.height + abs(s.droop) + s.rim for s in scene.sheets]
    return max(tops)


def _reach(scene: Scene) -> float:
    """Radius about the axis beyond which the pool is a plane with ripples."""
    reaches = [2.0, scene.pool.crater_radius * 1.7 if scene.pool.crater_depth else 0.0, scene.column.base_radius + 4.0]
    reaches.append(scene.crown.radius + scene.crown.flare * 1.6 + 2.0 if scene.crown.height else 0.0)
    reaches += [float(np.hypot(b.x, b.y)) + b.across for b in scene.blobs]
    reaches += [abs(s.x) + s.radius * 1.05 + s.finger_length + s.rim for s in scene.sheets]
    return max(reaches)
