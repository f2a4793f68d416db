"""The foreseen picture of what is in hand, for whoever shows it: asked for at the size at which it is shown."""

from __future__ import annotations

from enum import Enum

from PySide6.QtCore import QObject, QRectF, QSize, QTimer, Signal
from PySide6.QtGui import QImage, QPainter
from PySide6.QtWidgets import QWidget

from ondine.core.forecast.plan import Plan
from ondine.studio.events import ForeseenLost, ForeseenSeen
from ondine.studio.foreseen.orders import Wanted, size_within
from ondine.studio.foreseen.preview import Preview
from ondine.ui.kit.bridge import Bridge
from ondine.ui.kit.mark import paint_mark
from ondine.ui.kit.pictures import reddened
from ondine.ui.kit.theme import Theme

MARK = "foreseen"
DRAWN = "Rim, rings and droplets are only drawn."
"""What is said of the forms between the numbers that are predicted."""

MOST_PX = 1344
"""No wider is it traced, however large the screen."""


class Over(Enum):
    """What is shown of the splash: the picture under thin outlines of other rigs, alone, or a drawing instead."""

    OUTLINES = "The picture, with outlines of what else is likely."
    NOTHING = "The picture alone."
    DRAWING = "The drawing alone."


class Foresight(QObject):
    """Wants the picture of the plan in hand while somebody shows it. Emits `changed()` with each look at it."""

    changed = Signal()

    def __init__(self, preview: Preview, bridge: Bridge, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._preview = preview
        self.bright = False
        self.over = Over.OUTLINES
        self._plan: Plan | None = None
        self._gain_stops = 0.0
        self._viewer: QWidget | None = None
        self._size = QSize()
        self._is_wanted = False
        self._number = self._settled = 0
        self._image: QImage | None = None
        self._red: QImage | None = None
        # What is painted asks; what is asked for in the midst of painting is wanted after it.
        self._asking = QTimer(self)
        self._asking.setSingleShot(True)
        self._asking.setInterval(0)
        self._asking.timeout.connect(self._want)
        bridge.on(ForeseenSeen, self._arrived)
        bridge.on(ForeseenLost, self._lost)

    @property
    def is_finished(self) -> bool:
        """Whether there is nothing to wait for: what somebody shows is there, or cannot be had."""
        return not self._preview.works or (self._settled == self._number and not self._asking.isActive())

    def take(self, plan: Plan, gain_stops: float = 0.0) -> None:
        """Follow another plan; see `Wanted`."""
        if (plan, gain_stops) == (self._plan, self._gain_stops):
            return
        self._plan, self._gain_stops, self._is_wanted = plan, gain_stops, False
        if self._viewer is not None and self._viewer.isVisible():
            self._want()

    def fitted(self, room: QRectF) -> QRectF:
        """Return the place of the picture in a room: as large as fits, in the middle."""
        if self._plan is None:
            return room
        camera = self._plan.setup.camera
        scale = min(room.width() / camera.frame_width_m, room.height() / camera.frame_height_m)
        placed = QRectF(0, 0, camera.frame_width_m * scale, camera.frame_height_m * scale)
        placed.moveCenter(room.center())
        return placed

    def image(self, viewer: QWidget, room: QRectF, dark: bool) -> QImage | None:
        """Return the picture for a room in a widget, which is painting now; None where there is none.

        A coarser one, or that of a moment before, until a better one is there.
        """
        if not self._preview.works or self._plan is None:
            return None
        scale = viewer.devicePixelRatioF()
        wide, tall = min(room.width() * scale, MOST_PX), min(room.height() * scale, MOST_PX)
        size = QSize(*size_within(self._plan.setup.camera, (round(wide), round(tall))))
        if viewer is not self._viewer or size != self._size or not self._is_wanted:
            self._viewer, self._size = viewer, size
            self._asking.start()
        if self._image is None or not dark or self.bright:
            return self._image
        self._red = self._red or reddened(self._image)
        return self._red

    def paint(self, p: QPainter, viewer: QWidget, room: QRectF, theme: Theme) -> bool:
        """Paint the picture into a room of the frame's proportions; returns whether there was one."""
        image = self.image(viewer, room, theme.dark)
        if image is None:
            return False
        p.save()
        p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        p.drawImage(room, image)
        p.restore()
        paint_mark(p, theme, room, MARK)
        return True

    def _want(self) -> None:
        if self._plan is not None:
            self._is_wanted = True
            size = self._size.width(), self._size.height()
            self._number = self._preview.want(Wanted(self._plan, size, self._gain_stops))

    def _arrived(self, seen: ForeseenSeen) -> None:
        if seen.finished:
            self._settled = seen.number
        self._red = None
        stride = 3 * seen.width
        self._image = QImage(seen.pixels, seen.width, seen.height, stride, QImage.Format.Format_RGB888).copy()
        self.changed.emit()

    def _lost(self, lost: ForeseenLost) -> None:
        if lost.number == self._number:
            self._settled = lost.number
            self._image = self._red = None
            self.changed.emit()
