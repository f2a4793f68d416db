"""The clock card: the computer's time as a code on the screen, photographed once, and read off the picture again.

It tells how far a camera's clock is off, whatever the shots' times say.
"""

from __future__ import annotations

from datetime import UTC, datetime
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from ondine.logbook.intake import open_picture
from ondine.logbook.picture_error import PictureError

BEGIN = "ondine clock "
LOOKED_AT_PX = 1800
"""A photograph of a screen is read at about this size: the code fills a good part of it."""

QUIET = 4
"""Modules of white round the code (ISO/IEC 18004, 5.3.8)."""


def code_of(at: datetime) -> str:
    """Return the text of the code at a moment, to a tenth of a second."""
    return f"{BEGIN}{at.astimezone(UTC).isoformat(timespec='milliseconds')}"


def modules_of(text: str) -> NDArray[np.bool_]:
    """Return a code as modules, true where it is dark, with its quiet zone; shape (n, n)."""
    # It brings a reader along that nobody needs who has no wrong clock.
    import zxingcpp

    made = zxingcpp.create_barcode(text, zxingcpp.BarcodeFormat.QRCode, ec_level="Q")
    bare = np.array(zxingcpp.write_barcode_to_image(made, scale=1, add_quiet_zones=False)) == 0
    return np.pad(bare, QUIET)


def read_clock(path: Path) -> datetime | None:
    """Return the time that a photograph of the clock card shows; None for a picture of anything else."""
    import zxingcpp

    try:
        with open_picture(path) as image:
            image.draft("L", (LOOKED_AT_PX, LOOKED_AT_PX))
            grey = image.convert("L")
            grey.thumbnail((LOOKED_AT_PX, LOOKED_AT_PX))
            pixels = np.asarray(grey)
    except PictureError:
        return None
    # A phone's screen beside it may show codes of its own.
    for found in zxingcpp.read_barcodes(pixels, zxingcpp.BarcodeFormats(zxingcpp.BarcodeFormat.QRCode)):
        if found.text.startswith(BEGIN):
            try:
                return datetime.fromisoformat(found.text.removeprefix(BEGIN))
            except ValueError:
                continue
    return None
