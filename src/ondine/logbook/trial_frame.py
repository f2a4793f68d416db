"""Reads a test frame: its pixels as they tell of linear light, and how it was exposed. Raises PictureError."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ondine.logbook.intake import open_picture, read_picture
from ondine.logbook.picture_error import PictureError
from ondine.logbook.raw import is_raw, opened

SIDE_PX = 1600
"""A histogram needs no more."""

WANTED = "A raw file, or a JPEG as the camera wrote it, is wanted."


@dataclass(frozen=True)
class TrialFrame:
    """Pixels coded by the sRGB curve, shape (height, width, 3), 8 bit; exposure [s], f-number and ISO of the file
    (None where a raw file keeps its ISO to itself).
    """

    path: Path
    pixels: NDArray[np.uint8]
    exposure_s: float
    f_number: float
    iso: float | None
    is_simulated: bool = False


def read_trial_frame(path: Path) -> TrialFrame:
    """Read a JPEG, TIFF or PNG with the camera's exposure in it, or a raw file.

    Raises PictureError for what cannot be read, and for what was edited: its tones no longer tell the light.
    """
    if is_raw(path):
        return _raw(path)
    facts = read_picture(path)
    if facts.exposure_s is None or facts.f_number is None or facts.iso is None:
        raise PictureError(f"{path.name} does not say how it was exposed: it was edited or exported. {WANTED}")
    with open_picture(path) as image:
        if _edited(image):
            raise PictureError(f"{path.name} was edited: its tones no longer tell the light. {WANTED}")
        image.draft("RGB", (SIDE_PX, SIDE_PX))
        small = image.convert("RGB")
        small.thumbnail((SIDE_PX, SIDE_PX))
    return TrialFrame(path, np.asarray(small), facts.exposure_s, facts.f_number, float(facts.iso), facts.is_simulated)


def _edited(image: Any) -> bool:
    """Raw developers and editors leave their settings in the XMP packet; cameras do not."""
    packet = image.info.get("xmp") or b""
    if isinstance(packet, str):
        packet = packet.encode()
    return b"camera-raw-settings" in packet or b"xmpMM:History" in packet


def _raw(path: Path) -> TrialFrame:
    import rawpy

    with opened(path) as raw:
        other = raw.other
        # As the sensor saw it: no curve, no brightening.
        plain = rawpy.Params(gamma=(1, 1), no_auto_bright=True, output_bps=16, half_size=True, use_camera_wb=True)
        linear: Any = raw.postprocess(plain)
    if other.shutter_speed <= 0 or other.aperture <= 0:
        raise PictureError(f"{path.name} does not say how it was exposed. Use another test frame.")
    iso = float(other.iso_speed) or None
    return TrialFrame(path, _coded(linear), float(other.shutter_speed), float(other.aperture), iso)


def _coded(linear: NDArray[np.uint16]) -> NDArray[np.uint8]:
    """Code linear 16-bit values by the sRGB curve, thinned out to what a histogram needs."""
    step = max(1, max(linear.shape[:2]) // SIDE_PX)
    share = linear[::step, ::step].astype(np.float64) / 65535
    coded = np.where(share <= 0.0031308, 12.92 * share, 1.055 * share ** (1 / 2.4) - 0.055)
    return np.asarray(np.clip(coded * 255 + 0.5, 0, 255), dtype=np.uint8)
