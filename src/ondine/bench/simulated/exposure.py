"""From radiance to a file: the flash's light curve, exposure, sensor noise, tone curve, EXIF, JPEG."""

from __future__ import annotations

import math
from datetime import datetime
from fractions import Fraction
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from PIL.ExifTags import IFD, Base
from PIL.TiffImagePlugin import IFDRational

from ondine.bench.simulated.look import Look
from ondine.bench.simulated.scene import Scene, pack
from ondine.bench.simulated.tracer import render
from ondine.core.setup import Camera

LONG_SIDE_PX = 1200

TIME_SAMPLES = 5
ROUGH_EDGE = 0.5
FULL_WELL_ELECTRONS = 30_000
READ_NOISE_ELECTRONS = 4.0

# Durations t0.5 of the simulated unit by power, read off in the logarithm.
_POWERS = np.log2([1 / 256, 1 / 128, 1 / 64, 1 / 32, 1 / 16, 1 / 4, 1.0])
_DURATIONS = np.log([19e-6, 25e-6, 36e-6, 56e-6, 94e-6, 340e-6, 1.02e-3])


def light_instants_s(power: float) -> NDArray[np.float64]:
    """Instants after the flash command at which equal shares of its light have left, shape (TIME_SAMPLES,)."""
    duration = float(np.exp(np.interp(math.log2(power), _POWERS, _DURATIONS)))
    # A steep rise, a slow fall, and a cut: most of the light comes early.
    shares = (np.arange(TIME_SAMPLES) + 0.5) / TIME_SAMPLES
    return np.asarray(duration * 1.25 * shares**1.2)


def picture_size(camera: Camera) -> tuple[int, int]:
    """Width and height of the pictures: the camera's own proportions, on a side that renders in a second."""
    wide, tall = camera.frame_px
    scale = LONG_SIDE_PX / max(wide, tall)
    return round(wide * scale), round(tall * scale)


def trace(
    scenes: list[Scene], look: Look, camera: Camera, seed: int, size: tuple[int, int] | None = None
) -> NDArray[np.float32]:
    """Ray-trace equally bright instants of one flash to linear RGB, shape (height, width, 3)."""
    width, height = size or picture_size(camera)
    frame_mm = camera.frame_width_m * 1e3
    distance = camera.focal_length_m * 1e3 * (1 + 1 / camera.magnification)
    aim = frame_mm * height / width * (0.5 - camera.water_line_share)
    lens = camera.focal_length_m * 1e3 / camera.f_number / 2
    # The camera looks from its height at the middle of its frame.
    tilt = math.atan2(camera.height_m * 1e3 - aim, distance)
    view = np.array([distance, math.sin(tilt), math.cos(tilt), aim, lens])
    rng = np.random.default_rng([seed, 3])
    jitter = rng.random((20011, 5))
    angle, out = 2 * np.pi * jitter[:, 2], np.sqrt(jitter[:, 3])
    jitter[:, 2], jitter[:, 3] = out * np.cos(angle), out * np.sin(angle)
    packed = np.array([pack(scene) for scene in scenes])
    image: NDArray[np.float32] = render(packed, look.packed(), view, width, height, frame_mm, jitter, ROUGH_EDGE)
    return image


def expose(radiance: NDArray[np.float32], camera: Camera, room_lux: float, seed: int) -> NDArray[np.uint8]:
    """Turn radiance into an 8-bit picture: under the season's lamps a sheet is just below white at f/16, ISO 200.

    The room adds its own even light for as long as the shutter is open.
    """
    bellows = 2 * math.log2((1 + camera.magnification / camera.pupil_ratio) / 1.4)
    stops = math.log2(camera.iso / 200) + 2 * math.log2(16 / camera.f_number) - bellows
    room = 0.18 * room_lux * camera.exposure_s * camera.iso / (250 * camera.f_number**2)
    linear = np.clip(radiance, 0, 8) * 0.80 * 2.0**stops + room
    rng = np.random.default_rng([seed, 4])
    electrons = np.minimum(linear, 1.2) * FULL_WELL_ELECTRONS * 200 / camera.iso
    noise = rng.standard_normal(linear.shape, dtype=np.float32) * np.sqrt(electrons + READ_NOISE_ELECTRONS**2)
    linear = np.clip(linear + noise * camera.iso / 200 / FULL_WELL_ELECTRONS, 0, None)
    # A gentle shoulder, as camera pictures have, so that highlights on wet edges do not clip hard.
    shoulder = np.where(linear > 0.7, 0.7 + 0.3 * np.tanh((linear - 0.7) / 0.45), linear)
    coded = np.where(shoulder <= 0.0031308, 12.92 * shoulder, 1.055 * np.maximum(shoulder, 1e-6) ** (1 / 2.4) - 0.055)
    return np.asarray(np.clip(coded * 255 + 0.5, 0, 255), dtype=np.uint8)


def write_jpeg(path: Path, pixels: NDArray[np.uint8], camera: Camera, taken_at: datetime, quality: int = 88) -> None:
    """Write the picture with its EXIF. The file appears whole, under its name, or not at all."""
    image = Image.fromarray(pixels)
    exif = Image.Exif()
    exif[Base.Model] = camera.name
    exif[Base.Software] = "Ondine simulated bench"
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
