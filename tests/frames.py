"""Test frames as cameras write them."""

from dataclasses import replace
from functools import partial
from pathlib import Path

import numpy as np

from ondine.bench.simulated.jpeg import write_jpeg
from ondine.demo.scenario import TIDAL_MILL
from tests.conftest import TestClock

real_jpeg = partial(write_jpeg, software="Camera firmware 1.0")
"""Write a JPEG as a real camera does."""


def camera_jpeg(path: Path, level: int, exposure_s: float = 0.5) -> Path:
    """A grey frame as a camera writes it."""
    camera = replace(TIDAL_MILL.camera, exposure_s=exposure_s)
    real_jpeg(path, np.full((200, 300, 3), level, np.uint8), camera, TestClock()(), 95)
    return path
