"""Validates a picture file: is it whole, how big, when taken, with which exposure."""

from __future__ import annotations

import hashlib
import warnings
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta, timezone
from pathlib import Path
from typing import Any

SUFFIXES = frozenset({".jpg", ".jpeg", ".tif", ".tiff", ".png"})
MAX_PIXELS = 400_000_000
"""Over this a picture is refused: reading it would take more memory than the whole of Ondine."""


class PictureError(Exception):
    """A file that is no usable picture; the text says which, why, and what to do."""


@dataclass(frozen=True)
class PictureFacts:
    """What a picture file says of itself. `taken_at` has a zone; None where the file is silent."""

    path: Path
    sha256: str
    width_px: int
    height_px: int
    taken_at: datetime | None
    exposure_s: float | None
    f_number: float | None
    iso: int | None
    focal_length_m: float | None


def read_picture(path: Path, local: timezone | None = None) -> PictureFacts:
    """Check that a JPEG, TIFF or PNG can be decoded to its end, and read its facts.

    `local` is the zone of a camera clock that does not say its own; the computer's by default.
    Raises PictureError for files that are missing, truncated, of another kind, or too large.
    """
    from PIL import Image, UnidentifiedImageError

    if path.suffix.lower() not in SUFFIXES:
        raise PictureError(
            f"{path.name} is not a JPEG, TIFF or PNG. Set the camera to write JPEG beside its raw files."
        )
    try:
        data = path.read_bytes()
        with warnings.catch_warnings():
            # Size is judged below; Pillow's own warning would reach nobody.
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            with Image.open(path) as image:
                width, height = image.size
                if width * height > MAX_PIXELS:
                    raise PictureError(
                        f"{path.name} has {width} by {height} pixels, more than Ondine reads. Save a smaller copy."
                    )
                exif = image.getexif()
                _decode(image)
    except FileNotFoundError as error:
        raise PictureError(f"{path} is not there any more. Put the file back, then import it again.") from error
    except UnidentifiedImageError as error:
        raise PictureError(f"{path.name} cannot be read as a picture. Copy it from the camera again.") from error
    except Image.DecompressionBombError as error:
        raise PictureError(f"{path.name} has more pixels than Ondine reads. Save a smaller copy.") from error
    except (OSError, SyntaxError, ValueError) as error:
        raise PictureError(
            f"{path.name} is damaged or not complete ({error}). Copy it from the camera again."
        ) from error
    return PictureFacts(path, hashlib.sha256(data).hexdigest(), width, height, **_exif_facts(exif, local))


def _decode(image: Any) -> None:
    """Decode the whole picture, a large JPEG at a reduced scale: a truncated file fails here."""
    image.draft("RGB", (2000, 2000))
    image.load()


def _exif_facts(exif: Any, local: timezone | None) -> dict[str, Any]:
    from PIL.ExifTags import IFD, Base

    details = exif.get_ifd(IFD.Exif)
    focal_mm = _number(details.get(Base.FocalLength))
    iso = _number(details.get(Base.ISOSpeedRatings))
    return {
        "taken_at": _taken_at(details, exif.get(Base.DateTime), local),
        "exposure_s": _number(details.get(Base.ExposureTime)),
        "f_number": _number(details.get(Base.FNumber)),
        "iso": None if iso is None else int(iso),
        "focal_length_m": None if focal_mm is None else focal_mm / 1e3,
    }


def _number(value: Any) -> float | None:
    if isinstance(value, tuple):
        value = value[0] if value else None
    try:
        number = float(value)
    except (TypeError, ValueError, ZeroDivisionError):
        return None
    return number if 0 < number < 1e9 else None


def _taken_at(details: Any, fallback: Any, local: timezone | None) -> datetime | None:
    from PIL.ExifTags import Base

    text = str(details.get(Base.DateTimeOriginal) or fallback or "").strip("\0 ")
    try:
        moment = datetime.strptime(text, "%Y:%m:%d %H:%M:%S")
    except ValueError:
        return None
    fraction = str(details.get(Base.SubsecTimeOriginal) or "").strip("\0 ")
    if fraction.isdigit():
        moment += timedelta(seconds=float(f"0.{fraction}"))
    offset = str(details.get(Base.OffsetTimeOriginal) or "").strip("\0 ")
    try:
        zone = datetime.strptime(offset, "%z").tzinfo
    except ValueError:
        zone = local
    # Without any zone the camera's clock is taken as local time.
    aware = moment.replace(tzinfo=zone) if zone else moment.astimezone()
    return aware.astimezone(UTC)
