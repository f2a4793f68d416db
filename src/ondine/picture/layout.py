"""How a packed scene lies in one flat array: for `pack` that writes it and the compiled code that reads it."""

from __future__ import annotations

MAX_SPOTS, MAX_BLOBS, MAX_SHEETS, MAX_FINGERS = 4, 40, 9, 28

RING = 256
"""Entries around the axis in the tables of a rim."""

STEPS = 256
"""Entries up the jet, and out from the axis, in the tables of its radius and of the pool's height."""

CRATER_REACH = 1.8
"""The lip of a crater ends at so many of its radii."""

# Head: numbers of spots, blobs, sheets; top; middle and radius of the cylinder that holds all; lip over rest level;
# share of a height over a crater that is sure as a distance, its walls being steep.
# Last whether anything is of another ink than the first.
SPOT_COUNT, BLOB_COUNT, SHEET_COUNT, TOP, MIDDLE_X, MIDDLE_Y, REACH, LIP, CRATER_STEEP, INKED = range(10)
HEAD = 10

# A rim: how many fingers, how far apart, how long; then by bearing its edge, the nearest finger and the next.
FINGER_COUNT, FINGER_APART, FINGER_LONG = range(3)
EDGE_AT, NEAREST_AT, NEXT_AT, FINGERS_AT = 3, 3 + RING, 3 + 2 * RING, 3 + 3 * RING
FINGER = 17
"""Numbers of a finger: root, tip and bead in space, radii of the three, one over its squared length; middle and radius
of the ball that holds it.
"""

RIM = FINGERS_AT + FINGER * MAX_FINGERS

(
    SPOT_X, SPOT_Y, CRATER_OUT, RIPPLE, RIPPLE_LENGTH, RIPPLE_FRONT, RIPPLE_WIDTH,
    COLUMN_TOP, COLUMN_BASE, COLUMN_TIP, COLUMN_STEEP, BEAD_RADIUS, BEAD_HEIGHT,
    CROWN_RADIUS, CROWN_HEIGHT, CROWN_FLARE, CROWN_THICK, CROWN_RIM, CROWN_TOP, CROWN_REACH, SPOT_INK,
) = range(21)  # fmt: skip
COLUMN_AT = 21
CRATER_AT = COLUMN_AT + STEPS + 1
CROWN_RIM_AT = CRATER_AT + STEPS + 1
SPOT = CROWN_RIM_AT + RIM

(
    SHEET_X, SHEET_Y, SHEET_HEIGHT, SHEET_RADIUS, SHEET_DROOP, SHEET_THICK, SHEET_RIM, SHEET_CAP, SHEET_HOLES,
    SHEET_STEEP, SHEET_REACH, SHEET_LOW, SHEET_INK,
) = range(13)  # fmt: skip
HOLE_MIDDLE_AT, HOLE_WIDTH_AT = 13, 13 + RING
SHEET_RIM_AT = 13 + 2 * RING
SHEET = SHEET_RIM_AT + RIM

BLOB = 7
SPOTS_AT = HEAD
BLOBS_AT = SPOTS_AT + SPOT * MAX_SPOTS
SHEETS_AT = BLOBS_AT + BLOB * MAX_BLOBS
PACKED_SIZE = SHEETS_AT + SHEET * MAX_SHEETS

INKS_AT, INK = 19, 7
"""Where the inks lie in a packed `Look`, and how many numbers each has."""
