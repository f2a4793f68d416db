"""From a scene to pixels: camera geometry, exposure, sensor noise, tone curve."""

from __future__ import annotations

import math
from collections.abc import Iterator
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ondine.core.setup import Camera
from ondine.picture.film import develop
from ondine.picture.look import Look
from ondine.picture.pack import pack
from ondine.picture.scene import Scene

LONG_SIDE_PX = 1200

SHEET_LINEAR = 0.80
"""Linear value of a background sheet that is lit and exposed right."""

FULL_WELL_ELECTRONS = 30_000
READ_NOISE_ELECTRONS = 4.0


def picture_size(camera: Camera) -> tuple[int, int]:
    """Width and height of the pictures, both even: the camera's own proportions, on a side that renders in a second."""
    wide, tall = camera.frame_px
    scale = LONG_SIDE_PX / max(wide, tall)
    return 2 * round(wide * scale / 2), 2 * round(tall * scale / 2)


EDGE_RAYS = 2
"""So many more rays has a pixel on an edge of a finished picture."""


def trace(
    scenes: list[Scene], look: Look, camera: Camera, seed: int, size: tuple[int, int] | None = None
) -> NDArray[np.float32]:
    """Ray-trace equally bright instants of one flash to linear RGB, shape (height, width, 3)."""
    for seen in sharpening(scenes, look, camera, seed, size or picture_size(camera)):
        if seen is not None:
            image = seen
    return image


def sharpening(
    scenes: list[Scene], look: Look, camera: Camera, seed: int, size: tuple[int, int], rays: int = EDGE_RAYS
) -> Iterator[NDArray[np.float32] | None]:
    """Ray-trace as `trace`, and look at the picture while it sharpens: see `film.develop`."""
    width, height = size
    frame_mm = camera.frame_width_m * 1e3
    distance = camera.focal_length_m * 1e3 * (1 + 1 / camera.magnification)
    aim = frame_mm * height / width * (0.5 - camera.water_line_share)
    lens = camera.focal_length_m * 1e3 / camera.f_number / 2
    # The camera looks from its height at the middle of its frame.
    tilt = math.atan2(camera.height_m * 1e3 - aim, distance)
    geometry = (distance, math.sin(tilt), math.cos(tilt), aim, lens)
    packed = np.array([pack(scene) for scene in scenes])
    return develop(packed, look.packed(), geometry, width, height, frame_mm / width, _jitter(seed), rays)


@lru_cache(maxsize=2)
def _jitter(seed: int) -> NDArray[np.float64]:
    """Random places on a pixel, on the lens and in time, shape (m, 5)."""
    jitter = np.random.default_rng([seed, 3]).random((20011, 5))
    angle, out = 2 * np.pi * jitter[:, 2], np.sqrt(jitter[:, 3])
    jitter[:, 2], jitter[:, 3] = out * np.cos(angle), out * np.sin(angle)
    return jitter


def expose(radiance: NDArray[np.float32], camera: Camera, room_lux: float, seed: int) -> NDArray[np.uint8]:
    """Turn radiance into an 8-bit picture: under the season's lamps a sheet is just below white at f/16, ISO 200.

    The room adds its own even light for as long as the shutter is open.
    """
    bellows = 2 * math.log2((1 + camera.magnification / camera.pupil_ratio) / 1.4)
    stops = math.log2(camera.iso / 200) + 2 * math.log2(16 / camera.f_number) - bellows
    room = 0.18 * room_lux * camera.exposure_s * camera.iso / (250 * camera.f_number**2)
    return codes(noisy(np.clip(radiance, 0, 8) * (SHEET_LINEAR * 2.0**stops) + room, camera.iso, seed))


def noisy(linear: NDArray[np.float32], iso: float, seed: int) -> NDArray[np.float32]:
    """Add what a sensor adds at an ISO: the noise of its electrons, and of reading them."""
    rng = np.random.default_rng([seed, 4])
    electrons = np.clip(linear, 0, 1.2) * (FULL_WELL_ELECTRONS * 200 / iso)
    noise = rng.standard_normal(linear.shape, dtype=np.float32) * np.sqrt(electrons + READ_NOISE_ELECTRONS**2)
    return np.asarray(linear + noise * np.float32(iso / 200 / FULL_WELL_ELECTRONS))


def codes(linear: NDArray[np.float32]) -> NDArray[np.uint8]:
    """Return the 8-bit codes of linear light [1 is white], of the same shape."""
    steps = np.clip(linear, 0, BRIGHTEST) * ((len(_TONES) - 1) / BRIGHTEST) + 0.5
    return np.asarray(_TONES[steps.astype(np.uint16)])


def _tones() -> NDArray[np.uint8]:
    """The tone curve at even steps of light from none to BRIGHTEST: to ask it of every pixel would take as long as a
    third of the tracing.
    """
    linear = np.linspace(0, BRIGHTEST, 2**16)
    # A gentle shoulder, as camera pictures have, so that highlights on wet edges do not clip hard.
    shoulder = np.where(linear > 0.7, 0.7 + 0.3 * np.tanh((linear - 0.7) / 0.45), linear)
    coded = np.where(shoulder <= 0.0031308, 12.92 * shoulder, 1.055 * np.maximum(shoulder, 1e-6) ** (1 / 2.4) - 0.055)
    return np.asarray(np.clip(coded * 255 + 0.5, 0, 255), dtype=np.uint8)


BRIGHTEST = 2.0
"""Light that is white on the picture, and so is all beyond it."""

_TONES = _tones()
