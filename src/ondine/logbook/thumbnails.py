"""Small pictures kept on disk by the content of the large ones, so that each is decoded once."""

from __future__ import annotations

import os
import threading
from collections.abc import Callable, Iterable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

from ondine.logbook.intake import open_picture
from ondine.logbook.picture_error import PictureError

LONGEST_PX = 480
"""What a thumbnail is asked for at: a camera's 4000 to 6000 pixels are decoded at an eighth, which is far cheaper."""

SHRINK_OVER_PX = 800
"""What the decoder gives is only made smaller where it is longer than this."""

QUALITY = 82
THREADS = 2


@dataclass(frozen=True)
class Original:
    """A picture of the log: where it lies, and the SHA-256 of its content."""

    path: Path
    sha256: str


def fitted(size: tuple[int, int]) -> tuple[int, int]:
    """Return the size that a picture is asked for at."""
    width, height = (max(1, side * LONGEST_PX // max(*size, 1)) for side in size)
    return width, height


class Thumbnails:
    """Makes and finds thumbnails in a folder that may be lost at any time. Safe to use from several threads."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def place(self, sha256: str) -> Path:
        """Return where the thumbnail of a content lies, or will. Raises ValueError for what is no SHA-256."""
        if len(sha256) != 64 or not all(sign in "0123456789abcdef" for sign in sha256):
            raise ValueError(f"{sha256!r:.80} is no address of a picture")
        return self.folder / sha256[:2] / f"{sha256}.jpg"

    def of(self, original: Original) -> Path:
        """Return the thumbnail of a picture, made now if it is not there yet.

        Raises PictureError if the picture cannot be read, OSError if the thumbnail cannot be written.
        """
        place = self.place(original.sha256)
        if not place.exists():
            self._make(original.path, place)
        return place

    def _make(self, path: Path, place: Path) -> None:
        from PIL import ImageOps

        with open_picture(path) as image:
            # In its own proportions: a square would be decoded at twice the size for the shorter side's sake.
            image.draft("RGB", fitted(image.size))
            small = ImageOps.exif_transpose(image).convert("RGB")
            if max(small.size) > SHRINK_OVER_PX:
                small.thumbnail((LONGEST_PX, LONGEST_PX))
            place.parent.mkdir(parents=True, exist_ok=True)
            part = place.with_name(f"{place.name}.{os.getpid()}-{threading.get_ident()}.part")
            try:
                small.save(part, "JPEG", quality=QUALITY)
                part.replace(place)
            finally:
                part.unlink(missing_ok=True)

    def make_all(
        self,
        originals: Iterable[Original],
        progress: Callable[[int, int], None],
        is_cancelled: Callable[[], bool],
    ) -> list[PictureError]:
        """Make the thumbnails of many pictures, on two cores; return what could not be read.

        progress : called with (done, of) after each; is_cancelled : asked before each. Raises OSError if the folder
        cannot be written.
        """
        waiting = list(originals)
        done, failed, lock = 0, [], threading.Lock()

        def make(original: Original) -> None:
            nonlocal done
            if is_cancelled():
                return
            try:
                self.of(original)
            except PictureError as error:
                with lock:
                    failed.append(error)
            with lock:
                done += 1
                progress(done, len(waiting))

        with ThreadPoolExecutor(THREADS, thread_name_prefix="thumbnails") as pool:
            for _ in pool.map(make, waiting):
                pass
        return failed
