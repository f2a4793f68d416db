"""Raw files for the tests, written by tifffile (DNG 1.4)."""

from datetime import datetime
from pathlib import Path

import numpy as np
import tifffile


def dng(path: Path, level: int = 800, taken_at: datetime | None = None) -> Path:
    """A grey raw file of 384 by 256 pixels."""
    tags = [
        (271, "s", 0, "Make", True), (272, "s", 0, "Model", True), (50706, "B", 4, (1, 4, 0, 0), True),
        (50707, "B", 4, (1, 1, 0, 0), True), (50708, "s", 0, "Make Model", True), (33421, "H", 2, (2, 2), True),
        (33422, "B", 4, (0, 1, 1, 2), True), (50721, "2i", 9, (1, 1, 0, 1, 0, 1, 0, 1, 1, 1, 0, 1, 0, 1, 0, 1, 1, 1), True),
        (50717, "H", 1, 4095, True), (50714, "H", 1, 0, True), (50728, "2I", 3, (1, 2, 1, 1, 1, 2), True),
        (50778, "H", 1, 21, True), (33434, "2I", 1, (1, 200), True), (33437, "2I", 1, (16, 1), True),
    ]  # fmt: skip
    if taken_at is not None:
        tags.append((306, "s", 0, taken_at.strftime("%Y:%m:%d %H:%M:%S"), True))
    pixels = np.full((256, 384), level, np.uint16)
    tifffile.imwrite(path, pixels, photometric=32803, metadata=None, extratags=tags, software="x", datetime=False)
    return path
