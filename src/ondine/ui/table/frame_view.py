"""What the camera's frame holds: the predicted splash, the jet's reach, the rims, what is sharp."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import QWidget

from ondine.core.light.depth import camera_depth_m
from ondine.core.setup.fields import about
from ondine.core.table.viewpoint import viewpoint
from ondine.core.units import quantity_of, value_words
from ondine.ui.kit.lettering import LEFT, RIGHT, Lettering, text_width
from ondine.ui.kit.splash_paint import paint_splash
from ondine.ui.kit.stand_in import Part, StandIns
from ondine.ui.kit.theme import DAY, Theme
from ondine.ui.table.state import TableState

RIMS_PX = 420.0
"""In a narrower frame only one of the rims is named."""


class FrameView(QWidget):
    """The frame to scale, with the air around it. Drag it up or down to aim; the wheel or + and - step back or in."""

    edited = Signal(object, str)
    released = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.theme: Theme = DAY
        self._table: TableState | None = None
        self._drag: tuple[float, float] | None = None
        """Where the frame was taken hold of, and its water line then."""
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("What the frame holds")
        self.parts = StandIns(self)
        self.parts.changed.connect(self._set_part)

    def sizeHint(self) -> QSize:
        """What is left over the words."""
        return QSize(800, 440)

    def show_table(self, table: TableState) -> None:
        """Show another table."""
        self._table = table
        self.setAccessibleDescription(table.prediction.framing or "Everything stays in the frame.")
        if self._drag is None:
            middle, camera = QPointF(self.rect().center()), table.setup.camera
            values = {"camera.water_line_share": camera.water_line_share, "camera.magnification": camera.magnification}
            self.parts.show_parts(
                [Part(p, about(table.setup, p).says, quantity_of(p, table.units), v, middle) for p, v in values.items()]
            )
        self.update()

    def _set_part(self, path: str, value: float) -> None:
        self.edited.emit([(path, value)], f"heard {path}")
        self.released.emit()

    def _room(self) -> tuple[QRectF, float]:
        """The frame's place, and the scale."""
        assert self._table is not None
        camera = self._table.setup.camera
        across, up = self.width() - 120, self.height() - 90
        scale = min(across / camera.frame_width_m, up / camera.frame_height_m)
        wide, tall = camera.frame_width_m * scale, camera.frame_height_m * scale
        return QRectF((self.width() - wide) / 2, (self.height() - tall) / 2 + 14, wide, tall), scale

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw water, splash, reach of the jet, rims, frame."""
        if self._table is None:
            return
        camera = self._table.setup.camera
        room, scale = self._room()
        middle = QPointF(room.center().x(), room.bottom() - camera.water_line_share * room.height())
        with QPainter(self) as p:
            p.fillRect(self.rect(), self.theme.colour("air"))
            p.fillRect(QRectF(0, middle.y(), self.width(), self.height()), self.theme.colour("water"))
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._reach(p, middle, scale)
            for seen in self._table.prediction.flashes:
                paint_splash(p, self.theme, seen, middle, scale)
            self._rims(p, room, middle, scale)
            p.setPen(QPen(self.theme.colour("water_ink"), 2))
            p.drawLine(QPointF(0, middle.y()), QPointF(self.width(), middle.y()))
            p.setPen(QPen(self.theme.colour("ink"), 3 if self.hasFocus() else 2))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(room)
            self._sizes(p, room)
            self._sharp(p, room, middle, scale)

    def _reach(self, p: QPainter, middle: QPointF, scale: float) -> None:
        """How high the free jet would come: its mean, and one spread up and down."""
        assert self._table is not None
        jet = self._table.results.jet_m
        if jet is None:
            return
        low, high = middle.y() - (jet.mean - jet.sd) * scale, middle.y() - (jet.mean + jet.sd) * scale
        p.fillRect(QRectF(middle.x() - 70, high, 140, low - high), self.theme.colour("water_ink", 0.14))
        p.setPen(QPen(self.theme.colour("water_ink"), 1.6, Qt.PenStyle.DashLine))
        y = middle.y() - jet.mean * scale
        p.drawLine(QPointF(middle.x() - 70, y), QPointF(middle.x() + 70, y))
        words = value_words("camera.height_m", jet.mean, self._table.units)
        Lettering(p, self.theme).write(QRectF(middle.x() + 76, y - 9, 220, 18), f"a free jet, {words}", "ink")

    def _rims(self, p: QPainter, room: QRectF, middle: QPointF, scale: float) -> None:
        """Where the bowl's edge stands in the picture, seen from the lens."""
        assert self._table is not None
        seen = viewpoint(self._table.setup)
        for height, name in ((seen.near_rim_m, "near rim"), (seen.far_rim_m, "far rim")):
            if height is None:
                continue
            y = middle.y() - height * scale
            if room.top() < y < room.bottom():
                p.setPen(QPen(self.theme.colour("line"), 1.4, Qt.PenStyle.DotLine))
                p.drawLine(QPointF(room.left(), y), QPointF(room.right(), y))
                # One each side: seen from far away the rims are one.
                left = room.left() + 8 if name == "near rim" else room.right() - 68
                if name == "far rim" and room.width() < RIMS_PX:
                    # Its words would meet those of the jet.
                    continue
                Lettering(p, self.theme).write(QRectF(left, y - 18, 60, 16), name, "soft_ink")

    def _sizes(self, p: QPainter, room: QRectF) -> None:
        assert self._table is not None
        camera, units = self._table.setup.camera, self._table.units
        wide = value_words("camera.height_m", camera.frame_width_m, units)
        tall = value_words("camera.height_m", camera.frame_height_m, units)
        Lettering(p, self.theme).write(
            QRectF(room.left(), room.top() - 22, room.width(), 18), f"{wide} × {tall}", "ink", bold=True
        )
        note = self._table.prediction.framing or "Everything stays in the frame."
        beside = QRectF(room.left() + 130, room.top() - 22, room.width() - 130, 18)
        side = RIGHT
        if text_width(note) > beside.width():
            # An upright frame is narrower than its words.
            beside.setRight(self.width() - 8.0)
            side = LEFT
        Lettering(p, self.theme).write(beside, note, "ink", side=side)

    def _sharp(self, p: QPainter, room: QRectF, middle: QPointF, scale: float) -> None:
        """The depth that is sharp beside the depth of the splash, both seen end on."""
        assert self._table is not None
        deep, half = camera_depth_m(self._table.setup.camera), self._table.results.half_depth_m
        y = room.bottom() - 16
        for length, role, word in ((2 * half, "soft_ink", "splash"), (deep, "ink", "sharp")):
            wide = min(length * scale, room.width() - 140)
            p.setPen(QPen(self.theme.colour(role), 4))
            p.drawLine(QPointF(room.left() + 72, y), QPointF(room.left() + 72 + wide, y))
            Lettering(p, self.theme).write(QRectF(room.left() + 10, y - 9, 58, 18), word, role)
            y -= 18
        Lettering(p, self.theme).write(QRectF(room.left() + 10, y - 9, 200, 18), "from front to back", "soft_ink")

    # Hands

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take hold of the frame."""
        if self._table is not None:
            self._drag = event.position().y(), self._table.setup.camera.water_line_share

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Aim higher or lower."""
        if self._drag is None or self._table is None:
            return
        room, _ = self._room()
        taken_y, share = self._drag
        self._aim_at(share - (event.position().y() - taken_y) / room.height(), "drag aim")

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Let go."""
        self._drag = None
        self.released.emit()

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Step in or back."""
        self._step(1 if event.angleDelta().y() > 0 else -1)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows aim, plus and minus step in and back."""
        match event.key():
            case Qt.Key.Key_Up:
                self._aim(-0.01, "nudge aim")
            case Qt.Key.Key_Down:
                self._aim(0.01, "nudge aim")
            case Qt.Key.Key_Plus:
                self._step(1)
            case Qt.Key.Key_Minus:
                self._step(-1)
            case _:
                super().keyPressEvent(event)

    def _aim(self, by: float, gesture: str) -> None:
        assert self._table is not None
        self._aim_at(self._table.setup.camera.water_line_share + by, gesture)

    def _aim_at(self, share: float, gesture: str) -> None:
        self.edited.emit([("camera.water_line_share", min(max(share, 0.0), 0.9))], gesture)

    def _step(self, by: int) -> None:
        if self._table is not None:
            near = self._table.setup.camera.magnification * 1.02**by
            self.edited.emit([("camera.magnification", near)], "step in or back")
