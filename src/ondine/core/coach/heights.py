"""Heights over the water as photographers write them: in the note of a shot, or as what is wanted."""

from __future__ import annotations

import re

from ondine.core.numbers import NumberError, read_number

METRES = {"mm": 1e-3, "cm": 1e-2, "in": 0.0254, '"': 0.0254}

LEAST_M, MOST_M = 1e-3, 1.0
"""What can stand over the water at all."""

_HEIGHT = re.compile(r"\b(?:height|high)\b\s*[:=]?\s*([^\s:=]+?)\s*(mm|cm|in\b|\")", re.IGNORECASE)


def read_height(text: str) -> float | None:
    """Return the height that a text means, in millimetres where it names no unit [m]; None for what is none."""
    found = re.fullmatch(r"\s*(\S+?)\s*(mm|cm|in|\")?\s*", text, re.IGNORECASE)
    return None if found is None else _metres(found[1], found[2] or "mm")


def _metres(number: str, unit: str) -> float | None:
    try:
        height_m = read_number(number) * METRES[unit.lower()]
    except NumberError:
        return None
    return height_m if LEAST_M <= height_m <= MOST_M else None


def height_in(note: str) -> float | None:
    """Return the height over the water that a note tells, as in "height 23 mm" [m]; None where it tells none.

    Of several the last one counts. A number without a unit is none.
    """
    found = [_metres(number, unit) for number, unit in _HEIGHT.findall(note)]
    return next((height_m for height_m in reversed(found) if height_m is not None), None)
