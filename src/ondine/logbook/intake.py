"""Validates a picture file: is it whole, how big, when taken, with which exposure."""

from __future__ import annotations

import hashlib
import io
import logging
import warnings
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta, timezone, tzinfo
from pathlib import Path
from typing import Any, BinaryIO

from ondine.core.setup import SIMULATED_SOFTWARE
from ondine.logbook.door import DoorError, check_file
from ondine.logbook.picture_error import PictureError
from ondine.logbook.raw import RAW_SUFFIXES, RawFacts, is_raw, preview, read_raw

DEVELOPED = frozenset({".jpg", ".jpeg", ".tif", ".tiff", ".png"})
SUFFIXES = DEVELOPED | RAW_SUFFIXES

MAX_PIXELS = 400_000_000
"""Over this a JPEG is refused. It is never decoded larger than it is needed."""

MAX_PIXELS_WHOLE = 64_000_000
"""Over this a picture is refused that can only be decoded whole, which takes four bytes a pixel."""

MAX_BYTES = 1_000_000_000
SILENCE = logging.NullHandler()


@dataclass(frozen=True)
class PictureFacts:
    """What a picture file says of itself. `taken_at` has a zone; None where the file is silent.

    `is_simulated`: it says itself that the simulated camera made it.
    """

    path: Path
    sha256: str
    width_px: int
    height_px: int
    taken_at: datetime | None
    exposure_s: float | None
    f_number: float | None
    iso: int | None
    focal_length_m: float | None
    is_simulated: bool = False


def read_picture(path: Path, local: timezone | None = None) -> PictureFacts:
    """Check that a JPEG, TIFF, PNG or raw file can be decoded to its end, and read its facts.

    `local` is the zone of a camera clock that does not say its own; the computer's by default.
    Raises PictureError for files that are missing, truncated, of another kind, or too large.
    """
    if path.suffix.lower() not in SUFFIXES:
        raise PictureError(
            f"{path.name} is not a JPEG, TIFF, PNG or raw file. Set the camera to write JPEG beside its raw files."
        )
    if is_raw(path):
        return _of_raw(read_raw(path), path, local)
    with open_picture(path) as image:
        size, facts = image.size, _exif_facts(image, local)
        _decode(image)
        sha256 = _sha256(path)
    return PictureFacts(path, sha256, *size, **facts)


@dataclass(frozen=True)
class Taken:
    """When a picture says that it was taken, whether with fractions of a second, and by which camera (empty: it does
    not say).
    """

    at: datetime | None
    fractions: bool = False
    body: str = ""


def read_taken(path: Path, local: timezone | None = None) -> Taken:
    """Return when a picture was taken and by which camera; nothing is decoded.

    local : the zone of a clock that does not say its own. Raises PictureError.
    """
    if is_raw(path):
        at = read_raw(path, whole=False).taken_at
        return Taken(None if at is None else _in_zone(at, local))
    with open_picture(path) as image:
        at, body = _exif_facts(image, local)["taken_at"], _body(image)
    return Taken(at, at is not None and at.microsecond != 0, body)


def _body(image: Any) -> str:
    from PIL.ExifTags import IFD, Base

    try:
        exif = image.getexif()
        told = [exif.get(Base.Make), exif.get(Base.Model), exif.get_ifd(IFD.Exif).get(Base.BodySerialNumber)]
    except Exception:  # noqa: BLE001 - a field that nobody can parse is a field that is silent
        return ""
    return " ".join(text for text in (str(part or "").strip("\0 ") for part in told) if text)


def _of_raw(raw: RawFacts, path: Path, local: timezone | None) -> PictureFacts:
    at = None if raw.taken_at is None else _in_zone(raw.taken_at, local)
    return PictureFacts(
        path, _sha256(path), raw.width_px, raw.height_px, at, raw.exposure_s, raw.f_number, raw.iso, raw.focal_length_m
    )


@contextmanager
def open_picture(path: Path) -> Iterator[Any]:
    """Give a picture of a bounded size, open but not decoded. Whatever its decoder raises is the file's fault.

    Raises PictureError.
    """
    from PIL import Image, UnidentifiedImageError

    # What it finds odd and reads all the same is of no use to anybody at the terminal.
    warnings.filterwarnings("ignore", module="PIL")
    logging.getLogger("PIL").addHandler(SILENCE)
    # Our own bounds are told in words; the library's would come first, and as a fault of the file.
    Image.MAX_IMAGE_PIXELS = None
    try:
        check_file(path, MAX_BYTES)
        with _bytes_of(path) as file, Image.open(file, formats=("JPEG", "TIFF", "PNG")) as image:
            _check_size(path, image)
            yield image
    except PictureError:
        raise
    except FileNotFoundError as error:
        raise PictureError(f"{path} is not there any more. Put the file back, then import it again.") from error
    except DoorError as error:
        raise PictureError(f"{path.name} is not taken: {error}.") from error
    except UnidentifiedImageError as error:
        raise PictureError(f"{path.name} cannot be read as a picture. Copy it from the camera again.") from error
    except Exception as error:
        # The system's own errors have a number; those of a decoder have none.
        if isinstance(error, OSError) and error.errno is not None:
            raise PictureError(f"{path.name} cannot be read ({error.strerror}). See where it lies.") from error
        raise PictureError(
            f"{path.name} is damaged or not complete ({error}). Copy it from the camera again."
        ) from error


def _bytes_of(path: Path) -> BinaryIO:
    """Open a picture's file; of a raw file, the picture that stands for it."""
    return io.BytesIO(preview(path)) if is_raw(path) else open(path, "rb")


def _check_size(path: Path, image: Any) -> None:
    width, height = image.size
    # A progressive JPEG is held whole until its last scan.
    whole = image.format not in ("JPEG", "MPO") or "progression" in image.info
    most = MAX_PIXELS_WHOLE if whole else MAX_PIXELS
    if width * height > most:
        raise PictureError(
            f"{path.name} has {width * height / 1e6:.0f} megapixels, more than the {most / 1e6:.0f} that Ondine "
            f"reads of {'a PNG, TIFF or progressive JPEG' if whole else 'a JPEG'}. Save a smaller copy."
        )


def _sha256(path: Path) -> str:
    with open(path, "rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def _decode(image: Any) -> None:
    """Decode the whole picture, a large JPEG at a reduced scale: a truncated file fails here."""
    image.draft("RGB", (2000, 2000))
    image.load()


FIRST_YEAR, LAST_YEAR = 1990, 2200

SILENT: dict[str, Any] = dict.fromkeys(("taken_at", "exposure_s", "f_number", "iso", "focal_length_m"))


def _exif_facts(image: Any, local: timezone | None) -> dict[str, Any]:
    """Return what a picture says of how it was taken; nothing where that cannot be read, which harms no picture."""
    from PIL.ExifTags import IFD, Base

    try:
        exif = image.getexif()
        details = exif.get_ifd(IFD.Exif)
        focal_mm = _number(details.get(Base.FocalLength))
        iso = _number(details.get(Base.ISOSpeedRatings))
        return {
            "taken_at": _taken_at(details, exif.get(Base.DateTime), local),
            "exposure_s": _number(details.get(Base.ExposureTime)),
            "f_number": _number(details.get(Base.FNumber)),
            "iso": None if iso is None else int(iso),
            "focal_length_m": None if focal_mm is None else focal_mm / 1e3,
            "is_simulated": says_simulated(exif),
        }
    except Exception:  # noqa: BLE001 - a field that nobody can parse is a field that is silent
        return SILENT


def says_simulated(exif: Any) -> bool:
    """Whether the simulated camera made a picture, by its EXIF."""
    from PIL.ExifTags import Base

    return str(exif.get(Base.Software) or "").startswith(SIMULATED_SOFTWARE)


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
    # A clock that was never set tells nothing, and no camera is from the future.
    if not FIRST_YEAR <= moment.year <= LAST_YEAR:
        return None
    fraction = str(details.get(Base.SubsecTimeOriginal) or "").strip("\0 ")
    if fraction.isascii() and fraction.isdigit():
        moment += timedelta(seconds=float(f"0.{fraction}"))
    offset = str(details.get(Base.OffsetTimeOriginal) or "").strip("\0 ")
    try:
        zone = datetime.strptime(offset, "%z").tzinfo
    except ValueError:
        zone = local
    return _in_zone(moment, zone)


def _in_zone(moment: datetime, zone: tzinfo | None) -> datetime:
    # Without any zone the camera's clock is taken as local time.
    aware = moment.replace(tzinfo=zone) if zone else moment.astimezone()
    return aware.astimezone(UTC)
