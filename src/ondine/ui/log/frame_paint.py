"""A shot's picture in a frame of the window, whole or a part of it, or the words for its lack."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QRectF, QSizeF, Qt
from PySide6.QtGui import QImage, QPainter, QPen

from ondine.logbook.records import ShotRecord
from ondine.ui.kit.mark import SHORT, paint_mark
from ondine.ui.kit.pictures import WHOLE, PictureLoader
from ondine.ui.kit.theme import SMALL_PX, Theme, font
from ondine.ui.log.lens import Lens

USUAL = QSizeF(3, 2)
"""The proportions of a picture whose own are not known yet."""


@dataclass
class Frames:
    """Paints the pictures of shots; `bright` also in the dark room."""

    loader: PictureLoader
    theme: Theme
    bright: bool = False

    def image(self, shot: ShotRecord, size: QSizeF, ratio: float) -> QImage | None:
        """Return a shot's whole picture for a room in the window; see PictureLoader.get. `ratio`: pixels a point."""
        if shot.picture is None:
            return QImage()
        return self.loader.get(shot.picture, (size * ratio).toSize(), self._is_red, shot.picture_sha256)

    @property
    def _is_red(self) -> bool:
        return self.theme.dark and not self.bright

    def paint(
        self, p: QPainter, shot: ShotRecord, area: QRectF, lens: Lens, fine: bool = True
    ) -> tuple[QSizeF, QRectF]:
        """Paint what the lens sees of a shot's picture; return the picture's proportions and where it lies, as far as
        they are known. `fine`: read its finer pixels too, which a lens in motion need not.
        """
        ratio = p.device().devicePixelRatioF()
        whole = self.image(shot, area.size(), ratio)
        if whole is None or whole.isNull():
            self._paint_words(p, area, "" if whole is None else _why_none(shot))
            return USUAL, area
        proportions = QSizeF(whole.size())
        part, place = lens.looked_at(proportions, area.size())
        place.translate(area.topLeft())
        p.save()
        p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        sharp = None
        if fine and part != WHOLE and shot.picture is not None:
            sharp = self.loader.get(shot.picture, (place.size() * ratio).toSize(), self._is_red, None, part)
        if sharp is not None and not sharp.isNull():
            p.drawImage(place, sharp)
        else:
            # Until its finer pixels come, what is at hand.
            left, top, width, height = part
            seen = QRectF(left * whole.width(), top * whole.height(), width * whole.width(), height * whole.height())
            p.drawImage(place, whole, seen)
        p.restore()
        if shot.is_simulated:
            paint_mark(p, self.theme, place, SHORT)
        return proportions, place

    def _paint_words(self, p: QPainter, area: QRectF, words: str) -> None:
        p.setPen(QPen(self.theme.colour("line"), 1, Qt.PenStyle.DashLine))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRect(area.adjusted(0.5, 0.5, -0.5, -0.5))
        p.setFont(font(SMALL_PX))
        p.setPen(self.theme.colour("soft_ink"))
        p.drawText(area.adjusted(8, 8, -8, -8), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, words)


def _why_none(shot: ShotRecord) -> str:
    if shot.picture is None:
        return "no picture"
    return f"{shot.picture.name} is not where it was, or cannot be read"
