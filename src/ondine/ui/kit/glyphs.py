"""Ondine's own glyph for each shape: a side view in a few strokes over a waterline."""

from __future__ import annotations

from functools import lru_cache

from PySide6.QtCore import QByteArray, QRectF, Qt
from PySide6.QtGui import QPainter, QPixmap
from PySide6.QtSvg import QSvgRenderer

from ondine.ui.kit.own_shapes import drawing_of

# Drawn on 24 by 24, the water at y = 18. Capitals in a path are absolute places.
_WATER = "M2 18H22"
_SIGNS = {"keeper": "M7 3h10v17l-5-4-5 4z", "clear": "M6 6l12 12M18 6l-12 12"}
"""No shapes, but drawn as they are: the mark of a shot to keep, and what empties a field."""

_GLYPHS: dict[str, str] = {
    "in-flight": f"{_WATER}M12 5a3 3 0 1 0 .01 0M9 2v1M15 2v1",
    "touchdown": "M2 18H7M17 18H22M8 18a4 4 0 0 1 8 0M7 18q5 4 10 0M5 15l-1-2M19 15l1-2",
    "crown": "M2 18H7M17 18H22M7 18L5 8l3 4 2-5 2 5 2-5 2 5 3-4-2 10M7 18q5 2 10 0",
    "crater": "M2 17q4-1 5 1a5 5 0 0 0 10 0q1-2 5-1",
    "rising-jet": "M2 18H8M16 18H22M8 18q3-1 3-8a1 1 0 0 1 2 0q0 7 3 8M18 12V7m-2 2l2-2 2 2",
    "jet-top": "M2 18H8M16 18H22M8 18q3-1 3-12a1 1 0 0 1 2 0q0 11 3 12M8 3h8",
    "beaded-jet": "M2 18H8M16 18H22M8 18q3-1 3-6a1 1 0 0 1 2 0q0 5 3 6M12 7.500a1.700 1.700 0 1 0 .01 0M12 2.500a1.500 1.500 0 1 0 .01 0",
    "falling-jet": "M2 18H7M17 18H22M7 18q4-1 4-6a1 1 0 0 1 2 0q0 5 4 6M19 5v5m-2-2l2 2 2-2",
    "ripples": "M2 12q2.500-3 5 0t5 0 5 0 5 0M4 16q2-2 4 0t4 0 4 0 4 0M7 20q1.500-1.500 3 0t3 0 3 0",
    "near-miss-above": "M2 18H9M15 18H22M9 18q2-1 2-4a1 1 0 0 1 2 0q0 3 2 4M12 3a2.500 2.500 0 1 0 .01 0M8 10.500h8",
    "contact": "M2 18H9M15 18H22M9 18q2-1 2-7M15 18q-2-1-2-7M6 10q0-3 6-3t6 3q-6 2-12 0",
    "opening-umbrella": "M2 18H9M15 18H22M9 18q2-1 2-7M15 18q-2-1-2-7M6 12q1-5 6-5t6 5q-6-2-12 0",
    "full-umbrella": "M2 18H9M15 18H22M9 18q2-1 2-9M15 18q-2-1-2-9M2 12q2-7 10-7t10 7q-2-2-3.300 0-2-2-3.400 0-1.700-2-3.300 0-1.700-2-3.300 0-1.500-2-3.400 0-1.500-2-3.300 0",
    "torn-umbrella": "M2 18H9M15 18H22M9 18q2-1 2-7M15 18q-2-1-2-7M3 14q1-6 5-7.500M11 6q2-.300 4 .500M18 8q3 2 3 6M6 15v.500M18 15v.500M9 10l1 1.500M15 10l-1 1.500",
    "collapsed": "M2 18H7M17 18H22M7 18q5-9 10 0M4 11v.600M8 8v.600M12 6v.600M16 8v.600M20 11v.600M5 14.500v.600M19 14.500v.600",
    "crater-hit": "M2 17q4-1 5 1a5 5 0 0 0 10 0q1-2 5-1M12 12a2.500 2.500 0 1 0 .01 0M12 4v4m-2-2l2 2 2-2",
    "double-umbrella": "M2 18H9M15 18H22M9 18q2-1 2-5M15 18q-2-1-2-5M3 15q2-5 9-5t9 5M6 9q1-5 6-5t6 5",
    "pass-through": "M2 18H9M15 18H22M3 11q2-4 6-4.500M21 11q-2-4-6-4.500M12 2v13m-2.500-3l2.500 3 2.500-3",
    "merged-drop": f"{_WATER}M9 5a4 4 0 1 0 .01 0M15 6a3 3 0 1 0 .01 0",
    "off-axis": "M2 18H9M15 18H22M9 18q2-1 2-7a1 1 0 0 1 2 0q0 6 2 7M18 4a2.500 2.500 0 1 0 .01 0M12 2v2M12 6v1",
    "satellites-or-bubbles": f"{_WATER}M7 6a2 2 0 1 0 .01 0M14 4a1.300 1.300 0 1 0 .01 0M17 10a2 2 0 1 0 .01 0M9 13a1 1 0 1 0 .01 0",
    "nothing-in-frame": "M3 5h4M17 5h4M3 5v4M21 5v4M3 19v-4M21 19v-4M3 19h4M17 19h4",
    "blurred": "M5 6q7-4 14 0M4 9q8-4 16 0M5 12q7-3 14 0M7 15q5-2 10 0M9 18q3-1 6 0",
    "ghosted": "M9 4a4 4 0 1 0 .01 0M15 4a4 4 0 0 1 0 8M2 18H22M6 15v.100M10 15v.100M14 15v.100",
}

OWN_GLYPHS: dict[str, str] = {
    "ring": f"{_WATER}M12 3a5.500 5.500 0 1 0 .01 0M12 6a2.500 2.500 0 1 0 .01 0",
    "star": f"{_WATER}M12 2v12M6 5l12 6M18 5L6 11",
    "twin": "M2 18H22M3 18l-1-8 3 3 2-4 2 4 3-3-1 8M13 18l-1-8 3 3 2-4 2 4 3-3-1 8",
    "arch": "M2 18H22M4 18q0-14 8-14t8 14M9 18q0-8 3-8t3 8",
    "spiral": f"{_WATER}M12 9a1.500 1.500 0 0 1 1.500 1.500 3 3 0 0 1-6 0 5 5 0 0 1 10 0 6.500 6.500 0 0 1-5.500 5",
    "tree": "M2 18H9M15 18H22M12 18V4M12 8L7 4M12 8l5-4M12 13l-6-4M12 13l6-4",
    "plate": "M2 18H22M12 18V11M3 8q9 6 18 0M3 8q9-4 18 0",
    "fan": "M2 18H22M12 18L3 6M12 18L8 3M12 18V2M12 18l4-15M12 18l9-12",
    "wing": "M2 18H22M12 17q-1-9-10-11 2 8 10 11M12 17q1-9 10-11-2 8-10 11",
    "chain": f"{_WATER}M5 13a2 2 0 1 0 .01 0M9.500 8.500a2 2 0 1 0 .01 0M14 5a2 2 0 1 0 .01 0M19 2.500a1.500 1.500 0 1 0 .01 0",
    "bell": "M2 18H22M5 15q3-2 3-7 0-4 4-4t4 4q0 5 3 7zM12 2v2",
    "tilted": "M2 18H9M15 18H22M9 18q3-3 4-8M15 18q0-4 2-7M7 7q3-5 9-2t6 8q-6-5-15-6",
}
"""What the photographer's own shapes may be drawn as."""

_UNKNOWN = "M6 6H18V18H6Z"


def glyph(shape: str, colour: str, pixels: int, ratio: float) -> QPixmap:
    """Return the glyph of a shape at a size in logical pixels; unknown shapes get an open square."""
    return _drawn(drawing_of(shape), colour, pixels, ratio)


@lru_cache(maxsize=256)
def _drawn(drawing: str, colour: str, pixels: int, ratio: float) -> QPixmap:
    path = _SIGNS.get(drawing) or _GLYPHS.get(drawing) or OWN_GLYPHS.get(drawing, _UNKNOWN)
    svg = (
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 24 24"><path d="' + path + '" fill="none" '
        f'stroke="{colour}" stroke-width="1.8" stroke-linecap="round" stroke-linejoin="round"/></svg>'
    )
    picture = QPixmap(round(pixels * ratio), round(pixels * ratio))
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    QSvgRenderer(QByteArray(svg.encode())).render(painter, QRectF(picture.rect()))
    painter.end()
    picture.setDevicePixelRatio(ratio)
    return picture


def known_glyphs() -> frozenset[str]:
    """Return the shapes that have a glyph."""
    return frozenset(_GLYPHS)
