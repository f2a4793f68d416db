"""Parts of a painted view that are kept as pictures until something of them changes."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from PySide6.QtGui import QPainter, QPixmap
from PySide6.QtWidgets import QWidget


@dataclass
class Layer:
    """A part of a view as it was drawn, and what it was drawn from. Whoever paints it covers all of it."""

    _key: object = None
    _picture: QPixmap = field(default_factory=QPixmap)

    def drawn(self, view: QWidget, key: object, paint: Callable[[QPainter], object]) -> QPixmap:
        """Return the part, painted anew only if the view's size or the key has changed."""
        whole = (key, view.size(), view.devicePixelRatio())
        if self._key != whole:
            self._picture = QPixmap(view.size() * view.devicePixelRatio())
            self._picture.setDevicePixelRatio(view.devicePixelRatio())
            with QPainter(self._picture) as painter:
                painter.setRenderHint(QPainter.RenderHint.Antialiasing)
                paint(painter)
            self._key = whole
        return self._picture
