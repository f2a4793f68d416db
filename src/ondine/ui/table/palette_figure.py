"""The picture's colours under its light, and the background sheet that stands behind them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from ondine.core.light.colour import APART, Palette, mired_words
from ondine.ui.kit.foresight import Foresight
from ondine.ui.kit.lettering import CENTRE, RIGHT, Lettering
from ondine.ui.kit.pictures import reddened
from ondine.ui.kit.theme import DAY, LARGE_PX, Theme, font

SCALE_MIRED = 160.0


class PaletteFigure(QWidget):
    """The foreseen picture, the shift on a scale, distances, and the sheet."""

    def __init__(self, foresight: Foresight) -> None:
        super().__init__()
        self.theme: Theme = DAY
        self._foresight = foresight
        foresight.changed.connect(self.update)
        self._palette: Palette | None = None
        self._sheet: QImage | None = None
        self._sheet_words = ""
        self.setAccessibleName("Colours as pictured")

    def show_palette(self, palette: Palette, sheet: NDArray[np.uint8] | None, words: str) -> None:
        """Show colours and a preview of the sheet as printed."""
        self._palette, self._sheet_words = palette, words
        self._sheet = None
        if sheet is not None:
            height, width = sheet.shape[:2]
            self._sheet = QImage(sheet.tobytes(), width, height, 3 * width, QImage.Format.Format_RGB888).copy()
        self.setAccessibleDescription(palette.words)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw scene, scale, distances, sheet."""
        if self._palette is None:
            return
        with QPainter(self) as p:
            p.fillRect(self.rect(), self.theme.colour("air"))
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            wide = self.width() * 0.52
            self._scene(p, QRectF(24, 36, wide, self.height() * 0.46))
            self._distances(p, QRectF(48 + wide, 36, self.width() - wide - 72, self.height() * 0.46))
            self._scale(p, QRectF(24, self.height() * 0.46 + 84, self.width() - 48, 30))
            self._paper(p, QRectF(24, self.height() * 0.46 + 178, self.width() - 48, self.height() * 0.54 - 196))

    def _scene(self, p: QPainter, room: QRectF) -> None:
        assert self._palette is not None
        found = self._palette
        Lettering(p, self.theme).write(
            QRectF(room.left(), room.top() - 24, room.width(), 18), "as the picture will show them"
        )
        if self._foresight.paint(p, self, self._foresight.fitted(room), self.theme):
            return
        # Until there is a picture: drop on bowl before background.
        water = room.top() + 0.72 * room.height()
        colours = {"background": found.background, "bowl": found.bowl, "drop": found.drop}
        if self.theme.dark:
            # Patches of colour would be lamps: only their lightness is shown, dimly.
            colours = {name: _dim(colour) for name, colour in colours.items()}
        p.fillRect(QRectF(room.left(), room.top(), room.width(), water - room.top()), QColor(colours["background"]))
        p.fillRect(QRectF(room.left(), water, room.width(), room.bottom() - water), QColor(colours["bowl"]))
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(QColor(colours["drop"]))
        centre = QPointF(room.center().x(), room.top() + 0.34 * room.height())
        p.drawEllipse(centre, 0.13 * room.height(), 0.13 * room.height())
        p.drawEllipse(QPointF(centre.x(), water - 4), 0.30 * room.height(), 10)
        p.setPen(QPen(self.theme.colour("line"), 1))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRect(room)

    def _distances(self, p: QPainter, room: QRectF) -> None:
        assert self._palette is not None
        Lettering(p, self.theme).write(
            QRectF(room.left(), room.top() - 24, room.width(), 18), "how far apart they look, ΔE"
        )
        for index, (name, apart) in enumerate(self._palette.pairs):
            y = room.top() + index * 72
            p.setFont(font(LARGE_PX, bold=True))
            p.setPen(self.theme.colour("ink"))
            p.drawText(QRectF(room.left(), y, 90, 40), Qt.AlignmentFlag.AlignVCenter, f"{apart:.0f}")
            Lettering(p, self.theme).write(QRectF(room.left(), y + 40, room.width(), 18), name, "ink")
            if apart < APART:
                Lettering(p, self.theme).write(
                    QRectF(room.left() + 90, y + 12, room.width() - 90, 18), "alike", "ink", bold=True
                )

    def _scale(self, p: QPainter, room: QRectF) -> None:
        """From blue to warm in mired, and where the light stands."""
        assert self._palette is not None
        p.setPen(QPen(self.theme.colour("line"), 2))
        p.drawLine(QPointF(room.left(), room.center().y()), QPointF(room.right(), room.center().y()))
        for value in range(-150, 151, 50):
            x = room.left() + (value + SCALE_MIRED) / (2 * SCALE_MIRED) * room.width()
            p.drawLine(QPointF(x, room.center().y() - 5), QPointF(x, room.center().y() + 5))
            Lettering(p, self.theme).write(
                QRectF(x - 40, room.bottom() - 2, 80, 18), f"{value:+d}" if value else "0", side=CENTRE
            )
        Lettering(p, self.theme).write(QRectF(room.left(), room.top() - 22, 200, 18), "blue")
        Lettering(p, self.theme).write(QRectF(room.right() - 200, room.top() - 22, 200, 18), "warm", side=RIGHT)
        # Units of the same colour are one mark.
        named: dict[float, list[str]] = {}
        for name, shift in self._palette.shifts:
            named.setdefault(round(shift), []).append(name)
        for row, (shift, names) in enumerate(sorted(named.items())):
            held = min(max(shift, -SCALE_MIRED), SCALE_MIRED)
            x = room.left() + (held + SCALE_MIRED) / (2 * SCALE_MIRED) * room.width()
            p.setPen(QPen(self.theme.colour("light"), 3))
            p.drawLine(QPointF(x, room.top() - 4), QPointF(x, room.bottom() - 6))
            says = mired_words(shift) if len(named) == 1 else ", ".join(names)
            y = room.top() - 24 - 18 * row
            Lettering(p, self.theme).write(QRectF(x - 80, y, 160, 18), says, "light_text", side=CENTRE, bold=True)

    def _paper(self, p: QPainter, room: QRectF) -> None:
        Lettering(p, self.theme).write(QRectF(room.left(), room.top() - 26, room.width(), 18), self._sheet_words, "ink")
        if self._sheet is None:
            return
        shown = reddened(self._sheet) if self.theme.dark else self._sheet
        scale = min(room.width() / shown.width(), room.height() / shown.height())
        place = QRectF(room.left(), room.top(), shown.width() * scale, shown.height() * scale)
        p.drawImage(place, shown)
        p.setPen(QPen(self.theme.colour("line"), 1))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRect(place)


def _dim(colour: str) -> str:
    return f"#{round(QColor(colour).lightnessF() * 120):02x}0000"
