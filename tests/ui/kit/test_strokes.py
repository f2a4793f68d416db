"""Lines from arrays: the same ink as Qt's own polyline, and dashes of the lengths that were asked for."""

import numpy as np
import pytest
from PySide6.QtGui import QColor, QImage, QPainter, QPen

from ondine.ui.kit.strokes import draw_curve, draw_shape, polygon

XS = np.linspace(10, 190, 24)
YS = 50 + 30 * np.sin(XS / 30)


def painted(paint) -> np.ndarray:
    image = QImage(200, 100, QImage.Format.Format_Grayscale8)
    image.fill(255)
    with QPainter(image) as p:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint(p)
    return np.frombuffer(image.constBits(), np.uint8).reshape(100, image.bytesPerLine())[:, :200].astype(float)


def test_a_polygon_holds_the_points_in_their_order(qapp):
    made = polygon(XS, YS)
    assert [(p.x(), p.y()) for p in made.toList()] == list(zip(XS.tolist(), YS.tolist(), strict=True))
    assert polygon(np.zeros(0), np.zeros(0)).isEmpty()


def test_a_curve_is_the_polyline_that_qt_would_draw(qapp):
    def theirs(p: QPainter) -> None:
        p.setPen(QPen(QColor("black"), 2.0))
        p.drawPolyline(polygon(XS, YS))

    ours = painted(lambda p: draw_curve(p, QColor("black"), 2.0, XS, YS))
    reference = painted(theirs)
    # As much ink, in the same places: where they differ it is by a shade at the joints.
    assert (255 - ours).sum() == pytest.approx((255 - reference).sum(), rel=0.05)
    assert np.mean(np.abs(ours - reference) > 60) < 0.002


def test_dashes_cover_their_share_and_leave_gaps(qapp):
    line = painted(lambda p: draw_curve(p, QColor("black"), 2.0, np.array([10.0, 60, 190]), np.full(3, 50.0), (7, 3)))
    # On for 14 pixels and off for 6, from the start and over the joint at 60.
    inked = [bool(line[49:51, x].min() < 128) for x in (11, 22, 26, 28, 31, 43, 47, 58, 62, 67, 71)]
    assert inked == [True, True, False, False, True, True, False, True, True, False, True]
    dotted = painted(lambda p: draw_curve(p, QColor("black"), 2.0, XS, YS, (7, 3)))
    whole = painted(lambda p: draw_curve(p, QColor("black"), 2.0, XS, YS))
    assert 0.6 < (255 - dotted).sum() / (255 - whole).sum() < 0.8


def test_a_shape_is_filled_and_closed(qapp):
    square = np.array([50.0, 150, 150, 50]), np.array([20.0, 20, 80, 80])
    image = painted(lambda p: draw_shape(p, QColor(128, 128, 128), QColor("black"), 2.0, *square))
    assert image[50, 100] == pytest.approx(128, abs=1) and image[50, 50] < 20 and image[50, 20] == 255
