"""The mixing bench: a glass with its parts to scale, and what the mix does compared with water."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from ondine.core.physics.liquid import Liquid
from ondine.core.table.mixing import Effect
from ondine.ui.kit.theme import BODY_PX, DAY, LARGE_PX, SMALL_PX, Theme, font

LEAST_LAYER_PX = 24
HATCH = {
    "water": Qt.BrushStyle.NoBrush,
    "glycerine": Qt.BrushStyle.BDiagPattern,
    "milk": Qt.BrushStyle.Dense6Pattern,
    "cream": Qt.BrushStyle.Dense4Pattern,
    "gum": Qt.BrushStyle.CrossPattern,
    "dye": Qt.BrushStyle.VerPattern,
}


class GlassFigure(QWidget):
    """Draws grams, properties and effects; the words carry everything, colour only helps."""

    def __init__(self) -> None:
        super().__init__()
        self.theme: Theme = DAY
        self._grams: dict[str, float] = {}
        self._liquid: Liquid | None = None
        self._effect: Effect | None = None
        self._tint = "#ffffff"
        self._bowl = ("#ffffff", "")
        self.setAccessibleName("The mix in grams and what it does")

    def show_mix(
        self, grams: dict[str, float], liquid: Liquid, effect: Effect, tint: str, bowl: tuple[str, str]
    ) -> None:
        """Show another mix; `bowl` is the colour of the bowl now and a sentence about it."""
        self._grams, self._liquid, self._effect, self._tint, self._bowl = grams, liquid, effect, tint, bowl
        self.setAccessibleDescription(", ".join(f"{name} {g:.1f} g" for name, g in grams.items()))
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw the glass on the left, the numbers on the right, the bowl below."""
        if self._liquid is None or self._effect is None:
            return
        with QPainter(self) as p:
            p.fillRect(self.rect(), self.theme.colour("air"))
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._glass(p, QRectF(48, 56, 150, self.height() - 250))
            self._properties(p, QRectF(400, 48, self.width() - 420, 130))
            self._effects(p, QRectF(400, 210, self.width() - 420, 210))
            self._pool(p, QRectF(48, self.height() - 136, self.width() - 96, 100))

    def _glass(self, p: QPainter, room: QRectF) -> None:
        total = sum(self._grams.values())
        parts = [(name, grams) for name, grams in self._grams.items() if grams > 0]
        heights = [max(LEAST_LAYER_PX, grams / total * room.height()) for _, grams in parts]
        scale = room.height() / sum(heights)
        y = room.bottom()
        for (name, grams), height in zip(parts, heights, strict=True):
            layer = QRectF(room.left(), y - height * scale, room.width(), height * scale)
            y = layer.top()
            p.setPen(QPen(self.theme.colour("line"), 1))
            p.setBrush(self.theme.colour("water_ink", 0.18))
            p.drawRect(layer)
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.fillRect(layer, QBrush(self.theme.colour("water_ink", 0.6), HATCH[name]))
            p.setPen(self.theme.colour("ink"))
            p.setFont(font(BODY_PX, bold=True))
            p.drawText(QRectF(layer.right() + 12, layer.center().y() - 10, 90, 20), f"{grams:.1f} g")
            p.setFont(font(BODY_PX))
            p.drawText(QRectF(layer.right() + 96, layer.center().y() - 10, 100, 20), name)
        p.setPen(QPen(self.theme.colour("ink"), 2.4))
        left, right = room.left(), room.right()
        p.drawPolyline(
            [QPointF(left, room.top() - 14), room.bottomLeft(), room.bottomRight(), QPointF(right, room.top() - 14)]
        )

    def _properties(self, p: QPainter, room: QRectF) -> None:
        assert self._liquid is not None
        liquid = self._liquid
        facts = (
            (f"{liquid.viscosity_pa_s * 1e3:.2f}", "mPa·s", "viscosity"),
            (f"{liquid.density_kg_m3:.0f}", "kg/m³", "density"),
            (f"{liquid.surface_tension_n_m * 1e3:.1f}", "mN/m", "surface tension"),
        )
        # The last name is the longest.
        wide, last = 0.31 * room.width(), 0.38 * room.width()
        for index, (value, unit, name) in enumerate(facts):
            x = room.left() + index * wide
            if index == len(facts) - 1:
                wide = last
            p.setPen(self.theme.colour("soft_ink"))
            p.setFont(font(SMALL_PX))
            p.drawText(QRectF(x, room.top(), wide, 18), name)
            p.drawText(QRectF(x, room.top() + 62, wide, 18), unit)
            p.setPen(self.theme.colour("ink"))
            p.setFont(font(LARGE_PX if wide > 104 else BODY_PX, bold=True))
            p.drawText(QRectF(x, room.top() + 20, wide, 40), Qt.AlignmentFlag.AlignVCenter, value)

    def _effects(self, p: QPainter, room: QRectF) -> None:
        """Bars that start at water's own value in the middle."""
        assert self._effect is not None
        effect = self._effect
        rows = (
            ("drop width", effect.diameter),
            ("jet height", effect.jet_height),
            ("sheet width", effect.sheet_width),
            ("sheet lasts", effect.sheet_life),
        )
        p.setFont(font(SMALL_PX))
        p.setPen(self.theme.colour("soft_ink"))
        p.drawText(QRectF(room.left(), room.top() - 22, room.width(), 18), "compared with water as warm as this")
        middle = room.left() + 96 + (room.width() - 160) / 2
        for index, (name, ratio) in enumerate(rows):
            y = room.top() + 10 + index * 34
            p.setPen(self.theme.colour("ink"))
            p.drawText(QRectF(room.left(), y, 96, 18), name)
            known = ratio == ratio
            length = 0.0 if not known else max(-1.0, min(1.0, ratio - 1)) * (room.width() - 160) / 2
            p.fillRect(QRectF(middle, y + 2, length, 14), self.theme.colour("water_ink", 0.6))
            p.setPen(QPen(self.theme.colour("line"), 1))
            p.drawLine(QPointF(middle, y - 4), QPointF(middle, y + 22))
            p.setPen(self.theme.colour("ink"))
            says = f"{ratio - 1:+.0%}" if known else "none"
            p.drawText(QRectF(room.right() - 56, y, 56, 18), Qt.AlignmentFlag.AlignRight, says)
        y = room.top() + 10 + len(rows) * 34
        p.drawText(QRectF(room.left(), y, room.width(), 18), f"a drop scatters {effect.opacity:.0%} of the light away")
        if effect.lacks:
            p.drawText(QRectF(room.left(), y + 20, room.width(), 18), effect.lacks)

    def _pool(self, p: QPainter, room: QRectF) -> None:
        tint, says = self._bowl
        p.setPen(QPen(self.theme.colour("ink"), 2))
        for index, (name, colour) in enumerate((("the drops", self._tint), ("the bowl now", tint))):
            patch = QRectF(room.left() + index * 160, room.top() + 22, 144, 40)
            p.setBrush(Qt.BrushStyle.NoBrush if self.theme.dark else QColor(colour))
            p.drawRoundedRect(patch, 4, 4)
            p.setFont(font(SMALL_PX))
            p.drawText(QRectF(patch.left(), room.top(), 158, 18), f"{name} {colour if self.theme.dark else ''}")
        p.drawText(
            QRectF(room.left() + 340, room.top() + 16, room.width() - 340, 56),
            int(Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignVCenter),
            says,
        )
