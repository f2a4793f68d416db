"""Everything that is added to a sketch is drawn, kind by kind."""

import numpy as np
import pytest
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QColor, QImage, QPainter, QPen

from ondine.ui.kit.sketch import BADGE_PX, Sketch
from ondine.ui.kit.strokes import polygon
from ondine.ui.kit.theme import SMALL_PX, font

RED, BLUE, WHITE, BLACK = (QColor(name) for name in ("red", "blue", "white", "black"))
SQUARE = np.array([20.0, 80, 80, 20]), np.array([20.0, 20, 80, 80])


def painted(sketch: Sketch, scale: float = 1.0) -> QImage:
    image = QImage(round(100 * scale), round(100 * scale), QImage.Format.Format_RGB32)
    image.setDevicePixelRatio(scale)
    image.fill(WHITE)
    with QPainter(image) as p:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setFont(font(SMALL_PX))
        sketch.paint(p)
    return image


def add(sketch: Sketch, kind: str) -> None:
    if kind == "area":
        sketch.fill(RED, polygon(*SQUARE))
    elif kind == "line":
        sketch.line(RED, 3, QPointF(10, 50), QPointF(90, 50))
    elif kind == "curve":
        sketch.curve(RED, 3, np.array([10.0, 50, 90]), np.full(3, 50.0))
    elif kind == "dashed":
        sketch.curve(RED, 3, np.array([10.0, 50, 90]), np.full(3, 50.0), (4, 1))
    elif kind == "ring":
        sketch.ring(QPointF(50, 60), 10, QPen(RED, 3))
    elif kind == "badge":
        sketch.badge("", QPointF(50, 50), RED, WHITE)


@pytest.mark.parametrize("kind", ["area", "line", "curve", "dashed", "ring", "badge"])
def test_each_kind_is_drawn_where_it_was_put(qapp, kind):
    sketch = Sketch()
    add(sketch, kind)
    assert painted(sketch).pixelColor(50, 50) == RED
    assert painted(sketch).pixelColor(3, 3) == WHITE


def test_words_are_written_into_their_room(qapp):
    sketch = Sketch()
    sketch.words(BLACK, QRectF(10, 40, 80, 16), "350 ms")
    image = painted(sketch)
    inked = [(x, y) for x in range(100) for y in range(100) if image.pixelColor(x, y).lightness() < 128]
    assert len(inked) > 40 and all(9 <= x <= 91 and 38 <= y <= 58 for x, y in inked)


def test_lines_lie_over_areas_that_were_added_later(qapp):
    sketch = Sketch()
    sketch.line(BLUE, 3, QPointF(10, 50), QPointF(90, 50))
    add(sketch, "area")
    assert painted(sketch).pixelColor(50, 50) == BLUE and painted(sketch).pixelColor(50, 30) == RED


@pytest.mark.parametrize("scale", [1.0, 2.0])
def test_a_badge_has_its_number_and_while_it_is_in_hand_a_rim(qapp, scale):
    plain, held = Sketch(), Sketch()
    plain.badge("8", QPointF(50, 50), RED, WHITE)
    held.badge("8", QPointF(50, 50), RED, WHITE, BLACK)
    at = round((50 - BADGE_PX) * scale), round(50 * scale)
    assert painted(plain, scale).pixelColor(*at).lightness() > painted(held, scale).pixelColor(*at).lightness() + 60
    image = painted(plain, scale)
    middle = [image.pixelColor(round(x * scale), round(50 * scale)) for x in np.arange(44, 57, 0.5)]
    assert any(colour.green() > 150 for colour in middle) and any(colour == RED for colour in middle)
