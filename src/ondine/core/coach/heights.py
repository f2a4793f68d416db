"""Heights that a photographer has read off a picture and written into the note of its shot."""

from __future__ import annotations

import re

from ondine.core.numbers import NumberError, read_number

METRES = {"mm": 1e-3, "cm": 1e-2, "in": 0.0254, '"': 0.0254}

LEAST_M, MOST_M = 1e-3, 1.0
"""What can stand over the water at all."""

_HEIGHT = re.compile(r"\b(?:height|high)\b\s*[:=]?\s*([^\s:=]+?)\s*(mm|cm|in\b|\")", re.IGNORECASE)


def height_in(note: str) -> float | None:
    """Return the height over the water that a note tells, as in "height 23 mm" [m]; None where it tells none.

    Of several the last one counts. A number without a unit is none.
    """
    for number, unit in reversed(_HEIGHT.findall(note)):
        try:
            height_m = read_number(number) * METRES[unit.lower()]
        except NumberError:
            continue
        if LEAST_M <= height_m <= MOST_M:
            return height_m
    return None
