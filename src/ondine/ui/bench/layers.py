"""Parts of a painted view that are kept as pictures until something of them changes."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QPainter, QPixmap
from PySide6.QtWidgets import QWidget


@dataclass(frozen=True, eq=False)
class Same:
    """Equal only to a wrapper of the very same object: an id may be given to others later."""

    held: object

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Same) and other.held is self.held

    def __hash__(self) -> int:
        return id(self.held)


@dataclass
class Layer:
    """A part of a view as it was drawn, and what it was drawn from."""

    ground: QColor | Qt.GlobalColor = Qt.GlobalColor.transparent
    _key: object = None
    _picture: QPixmap = field(default_factory=QPixmap)

    def drawn(self, view: QWidget, key: object, paint: Callable[[QPainter], object]) -> QPixmap:
        """Return the part, painted anew only if the view's size or the key has changed."""
        whole = (key, view.size(), view.devicePixelRatio())
        if self._key != whole:
            self._picture = QPixmap(view.size() * view.devicePixelRatio())
            self._picture.setDevicePixelRatio(view.devicePixelRatio())
            self._picture.fill(self.ground)
            with QPainter(self._picture) as painter:
                painter.setRenderHint(QPainter.RenderHint.Antialiasing)
                paint(painter)
            self._key = whole
        return self._picture
