"""Raw files: what they say of themselves, and the picture that stands for them. Never changed, never developed."""

from __future__ import annotations

import io
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any

from ondine.logbook.door import DoorError, check_file
from ondine.logbook.picture_error import PictureError

RAW_SUFFIXES = frozenset({".dng", ".nef", ".cr2", ".cr3", ".arw", ".raf", ".rw2", ".orf", ".pef", ".srw"})

MAX_RAW_BYTES = 500_000_000
MAX_RAW_PIXELS = 200_000_000


@dataclass(frozen=True)
class RawFacts:
    """What a raw file says: its picture's size, exposure [s], f-number, ISO, focal length [m]; None where it is silent.

    `taken_at` is without a zone, as the camera's clock showed it, in whole seconds.
    """

    width_px: int
    height_px: int
    taken_at: datetime | None
    exposure_s: float | None
    f_number: float | None
    iso: int | None
    focal_length_m: float | None


def is_raw(path: Path) -> bool:
    """Whether a file's name says that it is a raw file."""
    return path.suffix.lower() in RAW_SUFFIXES


@contextmanager
def opened(path: Path) -> Iterator[Any]:
    """Give a raw file, open. Whatever its decoder raises is the file's fault. Raises PictureError."""
    # It brings a decoder along that nobody needs who shoots JPEG.
    import rawpy

    try:
        check_file(path, MAX_RAW_BYTES)
        with rawpy.imread(str(path)) as raw:
            if raw.sizes.raw_width * raw.sizes.raw_height > MAX_RAW_PIXELS:
                raise DoorError(f"it has more than {MAX_RAW_PIXELS / 1e6:.0f} megapixels")
            yield raw
    except PictureError:
        raise
    except FileNotFoundError as error:
        raise PictureError(f"{path} is not there any more. Put the file back, then import it again.") from error
    except (rawpy.LibRawError, OSError, ValueError, MemoryError) as error:
        raise PictureError(f"{path.name} cannot be read as a raw file ({error}). Copy it anew.") from error


def read_raw(path: Path, whole: bool = True) -> RawFacts:
    """Read what a raw file says of itself; `whole` : and see that its picture can be read to the end.

    Raises PictureError.
    """
    with opened(path) as raw:
        if whole:
            _ = raw.raw_image.max()
        other, sizes = raw.other, raw.sizes
        return RawFacts(
            sizes.width,
            sizes.height,
            other.timestamp if other.timestamp and other.timestamp.year > 1990 else None,
            float(other.shutter_speed) or None,
            float(other.aperture) or None,
            round(float(other.iso_speed)) or None,
            float(other.focal_length) / 1e3 or None,
        )


def preview(path: Path) -> bytes:
    """Return the picture that stands for a raw file, as a JPEG: the one that the camera put into it, if it did.

    Raises PictureError.
    """
    import rawpy

    with opened(path) as raw:
        try:
            found = raw.extract_thumb()
            if found.format is rawpy.ThumbFormat.JPEG:
                return bytes(found.data)
            pixels = found.data
        except (rawpy.LibRawNoThumbnailError, rawpy.LibRawUnsupportedThumbnailError):
            # As the decoder makes it, half as large: to be looked at, no more.
            pixels = raw.postprocess(half_size=True, use_camera_wb=True, output_bps=8)
    return _jpeg(pixels)


def _jpeg(pixels: Any) -> bytes:
    from PIL import Image

    held = io.BytesIO()
    Image.fromarray(pixels).save(held, "JPEG", quality=90)
    return held.getvalue()
