"""The simulated camera's file: a JPEG with the EXIF that a camera writes."""

from __future__ import annotations

from datetime import datetime
from fractions import Fraction
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from PIL.ExifTags import IFD, Base
from PIL.TiffImagePlugin import IFDRational

from ondine.core.setup import SIMULATED_SOFTWARE, Camera


def write_jpeg(
    path: Path,
    pixels: NDArray[np.uint8],
    camera: Camera,
    taken_at: datetime,
    quality: int = 88,
    software: str = SIMULATED_SOFTWARE,
) -> None:
    """Write the picture with its EXIF. The file appears whole, under its name, or not at all."""
    image = Image.fromarray(pixels)
    exif = Image.Exif()
    exif[Base.Model] = camera.name
    exif[Base.Software] = software
    exif[Base.DateTime] = taken_at.strftime("%Y:%m:%d %H:%M:%S")
    details = exif.get_ifd(IFD.Exif)
    details[Base.DateTimeOriginal] = taken_at.strftime("%Y:%m:%d %H:%M:%S")
    details[Base.SubsecTimeOriginal] = f"{taken_at.microsecond // 1000:03d}"
    offset = taken_at.strftime("%z")
    if offset:
        details[Base.OffsetTimeOriginal] = f"{offset[:3]}:{offset[3:5]}"
    details[Base.ExposureTime] = _rational(camera.exposure_s)
    details[Base.FNumber] = _rational(camera.f_number)
    details[Base.ISOSpeedRatings] = camera.iso
    details[Base.FocalLength] = _rational(camera.focal_length_m * 1e3)
    part = path.with_name(f".{path.name}.part")
    try:
        image.save(part, format="JPEG", quality=quality, exif=exif)
        part.replace(path)
    finally:
        part.unlink(missing_ok=True)


def _rational(value: float) -> IFDRational:
    """EXIF writes such numbers as fractions; Pillow would write a bare float as another type."""
    numerator, denominator = Fraction(value).limit_denominator(10_000).as_integer_ratio()
    return IFDRational(numerator, denominator)
