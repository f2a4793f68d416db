"""The rig drawing: a side elevation to scale, with handles."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QResizeEvent, QWheelEvent
from PySide6.QtWidgets import QWidget

from ondine.core.setup import Setup
from ondine.core.setup.fields import about, read
from ondine.core.table.results import TableResults
from ondine.core.units import Length, Units, quantity_of
from ondine.ui.kit.announce import announce
from ondine.ui.kit.stand_in import Part, StandIns
from ondine.ui.kit.theme import DAY, Theme
from ondine.ui.table.drawing_paint import DrawingPainter
from ondine.ui.table.elevation import Elevation
from ondine.ui.table.handles import Handle, handles, moved, nudged

REACH_PX = 14.0
"""How near a press must come to a handle: a wet finger is not a mouse."""

FINE_M = {Length.MM: 0.001, Length.CM: 0.001, Length.INCH: 0.0254 / 16}
COARSE = 5


class RigDrawing(QWidget):
    """Shows a table and its results; emits `edited(edits, gesture)` and `released()`, and holds no truth itself.

    The scale rests while a hand drags: what is under the finger must not run away.
    """

    edited = Signal(object, str)
    released = Signal()
    chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.theme: Theme = DAY
        self.units = Units()
        self.selection = "nozzle 0"
        self.hover = ""
        self.marks: list[tuple[str, int]] = []
        self._setup: Setup | None = None
        self._results: TableResults | None = None
        self._scale: Elevation | None = None
        self._drag: str | None = None
        self._grip = QPointF()
        self._water_share = 0.70
        self._paths: dict[str, str] = {}
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAccessibleName("Rig drawing")
        self.parts = StandIns(self)
        self.parts.changed.connect(self._set_part)

    # What it shows

    def show_table(self, setup: Setup, results: TableResults) -> None:
        """Draw another table."""
        self._setup, self._results = setup, results
        if self._drag is None:
            self._fit()
        self.setAccessibleDescription(self._in_words())
        if self._drag is None:
            self._tell_parts()
        self.update()

    def _tell_parts(self) -> None:
        """Let those who hear the window know the rings, each along the ways that it can be moved."""
        assert self._setup is not None
        found = []
        for handle in self.handles():
            spot = self._scale.point(handle.x_m, handle.height_m) if self._scale is not None else QPointF()
            for way, path in (("across", handle.across), ("height", handle.up)):
                if path:
                    name = f"{handle.name}, {about(self._setup, path).says.lower()}"
                    value = read(self._setup, path)
                    assert isinstance(value, int | float)
                    found.append(Part(f"{handle.key} {way}", name, quantity_of(path, self.units), value, spot))
                    self._paths[f"{handle.key} {way}"] = path
        self.parts.show_parts(found)

    def _set_part(self, key: str, value: float) -> None:
        self.edited.emit([(self._paths[key], value)], f"heard {key}")
        self.released.emit()

    def show_marks(self, marks: list[tuple[str, int]]) -> None:
        """Number places of the drawing: (place, number)."""
        if marks != self.marks:
            self.marks = marks
            self.update()

    def water_line(self) -> float:
        """Where the waterline runs, in the widget's pixels."""
        return round(self.height() * self._water_share)

    def sizeHint(self) -> QSize:
        """About what the window has for it."""
        return QSize(800, 640)

    def handles(self) -> list[Handle]:
        """Return what can be taken hold of."""
        return handles(self._setup) if self._setup is not None else []

    def place(self, key: str) -> QPointF:
        """Return where a handle is drawn."""
        assert self._scale is not None
        handle = next(h for h in self.handles() if h.key == key)
        return self._scale.point(handle.x_m, handle.height_m)

    def select(self, key: str) -> None:
        """Take hold of a handle."""
        if key != self.selection:
            self.selection = key
            self.chosen.emit(key)
            announce(self, f"Took hold of {self._held_name()}")
            self.update()

    def _fit(self) -> None:
        if self._setup is not None and self.width() > 50:
            room = QRectF(self.rect()).adjusted(8, 8, -8, -8)
            self._scale = Elevation.fitting(self._setup, room, self.water_line())

    def _in_words(self) -> str:
        results = self._results
        assert results is not None
        parts = [f"Taken in hand: {self._held_name()}."]
        if results.fall_s is not None and results.impact_m_s is not None:
            parts.append(
                f"The drop falls {results.fall_s.mean * 1e3:.0f} ms and hits at {results.impact_m_s.mean:.2f} m/s."
            )
        return " ".join([*parts, *(says for _, says in results.warnings)])

    def _held_name(self) -> str:
        return next((h.name for h in self.handles() if h.key == self.selection), "nothing")

    # Hands

    def _nearest(self, at: QPointF) -> str:
        assert self._scale is not None
        ranked = [
            ((self._scale.point(h.x_m, h.height_m) - at).manhattanLength(), h.key) for h in reversed(self.handles())
        ]
        distance, key = min(ranked)
        return key if distance <= REACH_PX * 1.4 else ""

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take hold of what is near."""
        if event.button() is not Qt.MouseButton.LeftButton or self._scale is None:
            return
        key = self._nearest(event.position())
        if key:
            self.select(key)
            self._drag = key
            self._grip = self.place(key) - event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drag, or show what could be dragged."""
        if self._scale is None or self._setup is None:
            return
        if self._drag is None:
            near = self._nearest(event.position())
            if near != self.hover:
                self.hover = near
                self.setCursor(Qt.CursorShape.SizeAllCursor if near else Qt.CursorShape.ArrowCursor)
                self.update()
            return
        x, height = self._scale.spot_m(event.position() + self._grip)
        handle = next(h for h in self.handles() if h.key == self._drag)
        self.edited.emit(moved(self._setup, handle, x, height), f"drag {self._drag}")

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Let go; now the scale may follow."""
        if self._drag is not None:
            self._drag = None
            self._fit()
            self.update()
            self.released.emit()

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Nudge the handle in hand."""
        self._nudge(0, 1 if event.angleDelta().y() > 0 else -1, 1)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows nudge, with Shift coarsely; the comma walks from handle to handle, with Shift back."""
        arrows: dict[int, tuple[int, int]] = {
            Qt.Key.Key_Left: (-1, 0),
            Qt.Key.Key_Right: (1, 0),
            Qt.Key.Key_Up: (0, 1),
            Qt.Key.Key_Down: (0, -1),
        }
        steps = COARSE if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
        if event.key() in arrows:
            self._nudge(*arrows[event.key()], steps)
        elif event.key() == Qt.Key.Key_Comma:
            self._walk(1)
        elif event.key() in (Qt.Key.Key_Less, Qt.Key.Key_Semicolon):
            self._walk(-1)
        else:
            super().keyPressEvent(event)

    def _walk(self, by: int) -> None:
        keys = [h.key for h in self.handles()]
        at = keys.index(self.selection) if self.selection in keys else 0
        self.select(keys[(at + by) % len(keys)])
        self.setAccessibleDescription(self._in_words())

    def _nudge(self, right: int, up: int, steps: int) -> None:
        if self._setup is None:
            return
        handle = next((h for h in self.handles() if h.key == self.selection), None)
        if handle is None:
            return
        if not handle.across and right:
            right, up = 0, right
        elif not handle.up and up:
            right, up = up, 0
        edits = nudged(self._setup, handle, right, up, steps * FINE_M[self.units.length])
        if edits:
            self.edited.emit(edits, f"nudge {self.selection}")

    def focusInEvent(self, event: QFocusEvent) -> None:
        """Show that keys come here."""
        super().focusInEvent(event)
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        """A run of keys is over."""
        super().focusOutEvent(event)
        self.released.emit()
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Fit anew."""
        super().resizeEvent(event)
        self._fit()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw the table."""
        if self._setup is None or self._results is None or self._scale is None:
            return
        with QPainter(self) as p:
            DrawingPainter(p, self.theme, self._scale, self._setup, self._results, self.units).draw(
                QRectF(self.rect()), self.handles(), self.selection if self.hasFocus() else "", self.hover, self.marks
            )
