"""The splash at the flash: what will be in the picture, to scale, in the camera's frame."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from ondine.core.forecast.prediction import AtFlash, Prediction
from ondine.ui.kit.foresight import Foresight, Over
from ondine.ui.kit.splash_paint import axis_of, mirrored, paint_splash
from ondine.ui.kit.strokes import fill, polygon
from ondine.ui.kit.theme import DAY, SMALL_PX, Theme, font

NARROW_PX = 260
OTHER_FLASH = 0.4
"""How strongly the splash at the flashes that are not in hand is drawn."""


class SplashView(QWidget):
    """A side view in the frame's proportions: the foreseen picture of the mean rig under thin outlines of other likely
    ones; a drawing until there is a picture, and where none can be had.
    """

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.theme: Theme = DAY
        self.foresight: Foresight | None = None
        self._prediction: Prediction | None = None
        self._flash = 0
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAccessibleName("Splash at the flash")

    def show_prediction(self, prediction: Prediction, flash: int) -> None:
        """Draw another prediction, as the flash of this number shows it; what the others show lies faintly over it."""
        self._prediction, self._flash = prediction, flash
        self.update()

    def show_bright(self, bright: bool) -> None:
        """Show the picture in its own light in the dark room too, or reddened."""
        if self.foresight is not None:
            self.foresight.bright = bright
            self.update()

    @property
    def _seen(self) -> AtFlash:
        assert self._prediction is not None
        return self._prediction.at(self._flash)

    def water_line(self) -> float:
        """Where the waterline runs, in the widget's pixels."""
        if self._prediction is None:
            return self.height() * 0.8
        room, _ = self._frame()
        return room.bottom() - self._prediction.forecast.setup.camera.water_line_share * room.height()

    def _frame(self) -> tuple[QRectF, float]:
        """The frame's place in the widget, and the scale: a portrait frame leaves room at its sides."""
        assert self._prediction is not None
        camera = self._prediction.forecast.setup.camera
        scale = min(self.width() / camera.frame_width_m, self.height() / camera.frame_height_m)
        wide, tall = camera.frame_width_m * scale, camera.frame_height_m * scale
        return QRectF((self.width() - wide) / 2, (self.height() - tall) / 2, wide, tall), scale

    def sizeHint(self) -> QSize:
        """Three to two, as the frame."""
        return QSize(400, 267)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw frame, water, ghosts, splash, scale."""
        if self._prediction is None:
            return
        room, scale = self._frame()
        middle = QPointF(self.width() / 2, self.water_line())
        with QPainter(self) as p:
            surface = round(middle.y())
            p.fillRect(self.rect(), self.theme.colour("air"))
            p.fillRect(self.rect().adjusted(0, surface, 0, 0), self.theme.colour("water"))
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            if self._photograph(p, room):
                assert self.foresight is not None
                if self.foresight.over is Over.OUTLINES:
                    p.setClipRect(room)
                    self._haunt(p, middle, scale, "ink", 0.38)
                    p.setClipping(False)
            else:
                self._draw(p, middle, scale)
            p.setPen(QPen(self.theme.colour("line"), 1))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(room.adjusted(0.5, 0.5, -0.5, -0.5))
            self._scale_bar(p, scale)

    def _photograph(self, p: QPainter, room: QRectF) -> bool:
        """Show the foreseen picture; returns whether there is one, and it is wished for."""
        foresight = self.foresight
        if foresight is None or foresight.over is Over.DRAWING:
            return False
        return foresight.paint(p, self, room, self.theme)

    def _draw(self, p: QPainter, middle: QPointF, scale: float) -> None:
        assert self._prediction is not None
        self._haunt(p, middle, scale, "water_ink", 0.30)
        self._reflect(p, middle, scale)
        for index, other in enumerate(self._prediction.flashes):
            if index != self._flash:
                p.setOpacity(OTHER_FLASH)
                paint_splash(p, self.theme, other, middle, scale)
        p.setOpacity(1.0)
        paint_splash(p, self.theme, self._seen, middle, scale)

    def _haunt(self, p: QPainter, middle: QPointF, scale: float, role: str, opacity: float) -> None:
        """Draw the other rigs as faint lines, a pixel wide: those are quick."""
        p.setPen(QPen(self.theme.colour(role, opacity), 1.0))
        p.setBrush(Qt.BrushStyle.NoBrush)
        ghosts = self._seen.ghosts
        for profiles, aside_m in ((ghosts.columns, ghosts.columns_x_m), (ghosts.sheets, ghosts.sheets_x_m)):
            outlines = mirrored(profiles[:, ::2], middle, scale)
            for xs, ys, aside in zip(*outlines, (aside_m * scale).tolist(), strict=True):
                p.drawPolygon(polygon(xs + aside, ys))
        over = middle.y() / scale
        for aside, height, radius in ghosts.drops[ghosts.drops[:, 1] - ghosts.drops[:, 2] < over].tolist():
            centre = QPointF(middle.x() + aside * scale, middle.y() - height * scale)
            p.drawEllipse(centre, radius * scale, radius * scale)

    def _reflect(self, p: QPainter, middle: QPointF, scale: float) -> None:
        """The pool mirrors what stands on it; the mirror image also says where the surface is."""
        assert self._prediction is not None
        p.save()
        p.setClipRect(QRectF(0, middle.y(), self.width(), self.height() - middle.y()))
        p.translate(0, 2 * middle.y())
        p.scale(1, -1)
        shape = self._seen.outline
        for form in (*shape.columns, *shape.sheets):
            outline = mirrored(form.profile, axis_of(form.x_m, middle, scale), scale)
            fill(p, self.theme.colour("water_ink", 0.10), polygon(*outline))
        p.restore()

    def _scale_bar(self, p: QPainter, scale: float) -> None:
        length_mm = 20 if self._prediction and self._prediction.forecast.setup.camera.frame_width_m > 0.06 else 10
        length = length_mm / 1e3 * scale
        # On a narrow picture the mark in the other corner needs the lowest line.
        right, y = self.width() - 12, self.height() - (12 if self.width() > NARROW_PX else 28)
        p.setPen(QPen(self.theme.colour("soft_ink"), 1.5))
        p.drawLine(QPointF(right - length, y), QPointF(right, y))
        for x in (right - length, right):
            p.drawLine(QPointF(x, y - 3), QPointF(x, y + 3))
        p.setFont(font(SMALL_PX))
        room = QRectF(right - length - 60, y - 9, 52, 18)
        p.drawText(room, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, f"{length_mm} mm")
