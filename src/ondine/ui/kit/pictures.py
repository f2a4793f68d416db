"""Pictures for the window: decoded in the background, small, and red in the dark."""

from __future__ import annotations

from collections import OrderedDict
from pathlib import Path

from PySide6.QtCore import QObject, QRunnable, QSize, Qt, QThreadPool, Signal
from PySide6.QtGui import QImage, QImageReader, qRgb

CACHE_BYTES = 48_000_000
DECODED_MB = 300
DARK_SHARE = 0.6
"""How bright a picture may be in the dark-room theme until it is asked for."""


class _Signals(QObject):
    done = Signal(object, QImage)


class _Load(QRunnable):
    def __init__(self, path: Path, size: QSize, signals: _Signals) -> None:
        super().__init__()
        self._path, self._size, self._signals = path, size, signals

    def run(self) -> None:
        """Decode at the size that is needed, no larger."""
        reader = QImageReader(str(self._path))
        reader.setAutoTransform(True)
        # What is taken in needs no more; a file that was changed since then shall not fill the memory.
        QImageReader.setAllocationLimit(DECODED_MB)
        full = reader.size()
        if full.isValid():
            reader.setScaledSize(full.scaled(self._size, Qt.AspectRatioMode.KeepAspectRatio))
        image = reader.read()
        self._signals.done.emit((self._path, self._size.width()), image)


class PictureLoader(QObject):
    """Gives pictures at once if they are at hand, otherwise emits `ready(path)` when they are."""

    ready = Signal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._cache: OrderedDict[tuple[Path, int], QImage] = OrderedDict()
        self._bytes = 0
        self._pending: set[tuple[Path, int]] = set()
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(1)
        self._signals = _Signals(self)
        self._signals.done.connect(self._loaded)

    def get(self, path: Path, size: QSize) -> QImage | None:
        """Return the picture at about a size, None while it is being read, a null image if it cannot be."""
        key = (path, size.width())
        if key in self._cache:
            self._cache.move_to_end(key)
            return self._cache[key]
        if key not in self._pending:
            self._pending.add(key)
            self._pool.start(_Load(path, size, self._signals))
        return None

    def wait(self) -> None:
        """Wait until all that was asked for is read."""
        self._pool.waitForDone(5000)

    def _loaded(self, key: tuple[Path, int], image: QImage) -> None:
        self._pending.discard(key)
        self._cache[key] = image
        self._bytes += image.sizeInBytes()
        while self._bytes > CACHE_BYTES and len(self._cache) > 1:
            _, old = self._cache.popitem(last=False)
            self._bytes -= old.sizeInBytes()
        self.ready.emit(key[0])


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
