"""Pictures for the window: decoded in the background, small, and red in the dark."""

from __future__ import annotations

import threading
from collections import OrderedDict
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import QObject, QRunnable, QSize, Qt, QThreadPool, Signal
from PySide6.QtGui import QImage, QImageReader, qRgb

from ondine.logbook.picture_error import PictureError
from ondine.logbook.thumbnails import LONGEST_PX, Original, Thumbnails

CACHE_BYTES = 48_000_000
DECODED_MB = 300
MOST_WAITING = 120
"""What was asked for before so many others has long been scrolled away."""

DARK_SHARE = 0.6
"""How bright a picture may be in the dark-room theme until it is asked for."""


@dataclass(frozen=True)
class Wish:
    """A picture at a size in pixels; `sha256` is its content, where it is known; `red` for the dark room."""

    path: Path
    width: int
    height: int
    red: bool = False
    sha256: str | None = None


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
        image = _read(self._file(wish), QSize(wish.width, wish.height))
        self._signals.done.emit(wish, reddened(image) if wish.red and not image.isNull() else image)

    def _file(self, wish: Wish) -> Path:
        """Return what to decode: the thumbnail, where it is large enough and can be made."""
        if self._thumbnails is not None and wish.sha256 is not None and max(wish.width, wish.height) <= LONGEST_PX:
            # What cannot be made small is shown, or not, as it is.
            with suppress(PictureError, OSError, ValueError):
                return self._thumbnails.of(Original(wish.path, wish.sha256))
        return wish.path


def _read(file: Path, size: QSize) -> QImage:
    reader = QImageReader(str(file))
    reader.setAutoTransform(True)
    # What is taken in needs no more; a file that was changed since then shall not fill the memory.
    QImageReader.setAllocationLimit(DECODED_MB)
    full = reader.size()
    if full.isValid():
        reader.setScaledSize(full.scaled(size, Qt.AspectRatioMode.KeepAspectRatio))
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

    def get(self, path: Path, size: QSize, red: bool = False, sha256: str | None = None) -> QImage | None:
        """Return the picture at about a size, None while it is being read, a null image if it cannot be."""
        wish = Wish(path, size.width(), size.height(), red, sha256)
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
        while self._bytes > CACHE_BYTES and len(self._cache) > 1:
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
