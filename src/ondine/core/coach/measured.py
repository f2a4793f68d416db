"""What photographers read off a picture: heights over the water and widths of sheets, as they write them."""

from __future__ import annotations

import re

from ondine.core.numbers import NumberError, read_number

METRES = {"mm": 1e-3, "cm": 1e-2, "m": 1.0, "in": 0.0254, '"': 0.0254}

LEAST_M, MOST_M = 1e-3, 1.0
"""What can stand over the water, and how wide it can be, at all."""

MOST_WANTED_M = 100.0
"""What can be wished for is more: the coach says what the table cannot."""

_VALUE = r"\b\s*[:=]?\s*([^\s:=]+?)\s*(mm|cm|in\b|\")"
_HEIGHT = re.compile(r"\b(?:height|high)" + _VALUE, re.IGNORECASE)
_WIDTH = re.compile(r"\b(?:width|wide)" + _VALUE, re.IGNORECASE)


def read_height(text: str) -> float | None:
    """Return the height that is wanted, in millimetres where the text names no unit [m]; None for what is none."""
    found = re.fullmatch(r"\s*(\S+?)\s*(mm|cm|m|in|\")?\s*", text, re.IGNORECASE)
    return None if found is None else _metres(found[1], found[2] or "mm", MOST_WANTED_M)


def _metres(number: str, unit: str, most_m: float = MOST_M) -> float | None:
    try:
        metres = read_number(number) * METRES[unit.lower()]
    except NumberError:
        return None
    return metres if LEAST_M <= metres <= most_m else None


def height_in(note: str) -> float | None:
    """Return the height over the water that a note tells, as in "height 23 mm" [m]; None where it tells none.

    Of several the last one counts. A number without a unit is none.
    """
    return _last(_HEIGHT, note)


def width_in(note: str) -> float | None:
    """Return the width of the sheet that a note tells, as in "width 40 mm" [m]; None where it tells none.

    Of several the last one counts. A number without a unit is none.
    """
    return _last(_WIDTH, note)


def _last(pattern: re.Pattern[str], note: str) -> float | None:
    found = [_metres(number, unit) for number, unit in pattern.findall(note)]
    return next((metres for metres in reversed(found) if metres is not None), None)
