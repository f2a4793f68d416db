"""The picture of the shot in view."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QImage, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from ondine.ui.kit.mark import paint_mark
from ondine.ui.kit.pictures import PictureLoader
from ondine.ui.kit.theme import BODY_PX, DAY, Theme, font


class PictureView(QWidget):
    """Shows one picture, fitted; says what will be there while there is none."""

    def __init__(self, loader: PictureLoader, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.theme: Theme = DAY
        self.bright = False
        self._loader = loader
        self._path: Path | None = None
        self._words = ""
        self._mark = ""
        self.setAccessibleName("Picture of the shot in view")
        loader.ready.connect(self._ready)

    def show_picture(self, path: Path | None, words: str, mark: str = "") -> None:
        """Show a file, or the words if there is none; `mark` stands on the picture."""
        self._path, self._words, self._mark = path, words, mark
        self.setAccessibleDescription(f"{mark} {path or words}".strip())
        self.update()

    def sizeHint(self) -> QSize:
        """Three to two."""
        return QSize(400, 267)

    def _ready(self, path: object) -> None:
        if path == self._path:
            self.update()

    def _image(self) -> QImage | None:
        assert self._path is not None
        size = self.size() * self.devicePixelRatio()
        return self._loader.get(self._path, size, red=self.theme.dark and not self.bright)

    def placed(self, image: QImage) -> QRectF:
        """Where a picture stands, fitted into the middle."""
        size = image.size().scaled(self.size(), Qt.AspectRatioMode.KeepAspectRatio)
        left, top = (self.width() - size.width()) / 2, (self.height() - size.height()) / 2
        return QRectF(left, top, size.width(), size.height())

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw the picture in the middle, or the words."""
        with QPainter(self) as p:
            p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            area = QRectF(self.rect())
            image = self._image() if self._path else None
            words = self._words
            if image is not None and not image.isNull():
                p.drawImage(self.placed(image), image)
                if self._mark:
                    paint_mark(p, self.theme, self.placed(image), self._mark)
                return
            if self._path is not None and image is not None:
                words = f"{self._path.name} is not where it was, or cannot be read.\nPut it back to see it here."
            elif self._path is not None:
                words = ""
            if self._mark:
                paint_mark(p, self.theme, area, self._mark)
            p.setPen(QPen(self.theme.colour("line"), 1, Qt.PenStyle.DashLine))
            p.drawRect(area.adjusted(0.5, 0.5, -0.5, -0.5))
            p.setPen(self.theme.colour("soft_ink"))
            p.setFont(font(BODY_PX))
            wrapped = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            p.drawText(area.adjusted(24, 8, -24, -8), wrapped, words)
