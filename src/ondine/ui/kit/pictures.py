"""Pictures for the window: decoded in the background, small, and red in the dark."""

from __future__ import annotations

import threading
from collections import OrderedDict
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import QBuffer, QObject, QRectF, QRunnable, QSize, QSizeF, Qt, QThreadPool, Signal
from PySide6.QtGui import QImage, QImageIOHandler, QImageReader, qRgb

from ondine.logbook.picture_error import PictureError
from ondine.logbook.raw import is_raw, preview
from ondine.logbook.thumbnails import LONGEST_PX, Original, Thumbnails

CACHE_BYTES = 48_000_000
LEAST_KEPT = 14
"""So many are kept however large they are: what is in view must not push itself out, and be read for ever."""

DECODED_MB = 300
MOST_WAITING = 120
"""What was asked for before so many others has long been scrolled away."""

DARK_SHARE = 0.6
"""How bright a picture may be in the dark-room theme until it is asked for."""


Part = tuple[float, float, float, float]
"""A part of a picture as it is seen: left, top, width and height as shares of the whole."""

WHOLE: Part = (0.0, 0.0, 1.0, 1.0)


@dataclass(frozen=True)
class Wish:
    """A picture, or a part of it, fitted into a size in pixels; `sha256` is its content, where it is known; `red` for
    the dark room.
    """

    path: Path
    width: int
    height: int
    red: bool = False
    sha256: str | None = None
    part: Part = WHOLE


class _Signals(QObject):
    done = Signal(object, QImage)


class _Stack:
    """What is wished for, the latest first: what is in view is seen before what was scrolled by."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._wishes: OrderedDict[Wish, None] = OrderedDict()

    def push(self, wish: Wish) -> bool:
        """Put a wish on top; return whether it is new."""
        with self._lock:
            new = wish not in self._wishes
            self._wishes[wish] = None
            self._wishes.move_to_end(wish)
            if len(self._wishes) > MOST_WAITING:
                self._wishes.popitem(last=False)
            return new

    def pop(self) -> Wish | None:
        """Take the latest wish."""
        with self._lock:
            return self._wishes.popitem()[0] if self._wishes else None


class _Load(QRunnable):
    def __init__(self, stack: _Stack, thumbnails: Thumbnails | None, signals: _Signals) -> None:
        super().__init__()
        self._stack, self._thumbnails, self._signals = stack, thumbnails, signals

    def run(self) -> None:
        """Decode the latest wish at the size that is needed, no larger."""
        wish = self._stack.pop()
        if wish is None:
            return
        image = _read(self._file(wish), QSize(wish.width, wish.height), wish.part)
        self._signals.done.emit(wish, reddened(image) if wish.red and not image.isNull() else image)

    def _file(self, wish: Wish) -> Path:
        """Return what to decode: the thumbnail, where it is large enough and can be made."""
        small = wish.part == WHOLE and max(wish.width, wish.height) <= LONGEST_PX
        if small and self._thumbnails is not None and wish.sha256 is not None:
            # What cannot be made small is shown, or not, as it is.
            with suppress(PictureError, OSError, ValueError):
                return self._thumbnails.of(Original(wish.path, wish.sha256))
        return wish.path


def read_picture_at(path: Path, size: QSize) -> QImage:
    """Return a picture fitted into a size, read now; a null image if it cannot be. For threads of their own."""
    return _read(path, size, WHOLE)


def _read(file: Path, size: QSize, part: Part) -> QImage:
    # What is taken in needs no more; a file that was changed since then shall not fill the memory.
    QImageReader.setAllocationLimit(DECODED_MB)
    if not is_raw(file):
        return _decoded(QImageReader(str(file)), size, part)
    # No decoder of Qt's knows it: the picture that the camera put into it stands for it.
    held = QBuffer()
    try:
        held.setData(preview(file))
    except PictureError:
        return QImage()
    held.open(QBuffer.OpenModeFlag.ReadOnly)
    return _decoded(QImageReader(held), size, part)


def _decoded(reader: QImageReader, size: QSize, part: Part) -> QImage:
    """Decode as much of a picture as is asked for; a part of it no finer than the file holds it."""
    reader.setAutoTransform(True)
    full, turns = reader.size(), reader.transformation()
    if not full.isValid():
        return reader.read()
    is_turned = bool(turns & QImageIOHandler.Transformation.TransformationRotate90)
    if part == WHOLE:
        reader.setScaledSize(full.scaled(size.transposed() if is_turned else size, Qt.AspectRatioMode.KeepAspectRatio))
        return reader.read()
    seen = full.transposed() if is_turned else full
    left, top, width, height = part
    scale = min(size.width() / (width * seen.width()), size.height() / (height * seen.height()), 1.0)
    within = QRectF(left * seen.width(), top * seen.height(), width * seen.width(), height * seen.height())
    scaled = QRectF(within.topLeft() * scale, within.size() * scale).toAlignedRect()
    reader.setScaledSize((QSizeF(full) * scale).toSize())
    if turns != QImageIOHandler.Transformation.TransformationNone:
        return reader.read().copy(scaled)
    reader.setScaledClipRect(scaled)
    return reader.read()


class PictureLoader(QObject):
    """Gives pictures at once if they are at hand, otherwise emits `ready(path)` when they are.

    thumbnails : where small ones are kept; without it each is decoded from its original.
    """

    ready = Signal(object)

    def __init__(self, parent: QObject | None = None, thumbnails: Thumbnails | None = None) -> None:
        super().__init__(parent)
        self._cache: OrderedDict[Wish, QImage] = OrderedDict()
        self._bytes = 0
        self._stack, self._thumbnails = _Stack(), thumbnails
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(1)
        self._signals = _Signals(self)
        self._signals.done.connect(self._loaded)

    def get(
        self, path: Path, size: QSize, red: bool = False, sha256: str | None = None, part: Part = WHOLE
    ) -> QImage | None:
        """Return the picture, or a part of it, at about a size; None while it is being read, a null image if it cannot
        be.
        """
        wish = Wish(path, size.width(), size.height(), red, sha256, part)
        if wish in self._cache:
            self._cache.move_to_end(wish)
            return self._cache[wish]
        if self._stack.push(wish):
            self._pool.start(_Load(self._stack, self._thumbnails, self._signals))
        return None

    def wait(self) -> None:
        """Wait until all that was asked for is read."""
        self._pool.waitForDone(5000)

    def _loaded(self, wish: Wish, image: QImage) -> None:
        self._cache[wish] = image
        self._bytes += image.sizeInBytes()
        while self._bytes > CACHE_BYTES and len(self._cache) > LEAST_KEPT:
            _, old = self._cache.popitem(last=False)
            self._bytes -= old.sizeInBytes()
        self.ready.emit(wish.path)


def reddened(image: QImage) -> QImage:
    """Return the picture in dim red only, for eyes that are used to the dark."""
    grey = image.convertToFormat(QImage.Format.Format_Grayscale8)
    # The same bytes, read as places in a table of reds: a picture that follows a hand has no time for arithmetic.
    red = QImage(
        grey.constBits(), grey.width(), grey.height(), grey.bytesPerLine(), QImage.Format.Format_Indexed8
    ).copy()
    red.setColorTable(_REDS)
    return red


_REDS = [qRgb(round(level * DARK_SHARE), 0, 0) for level in range(256)]
