"""A background sheet to print: gradients, bands or a picture, upside down, at the size that fills the frame.

A drop turns what stands behind it upside down; a sheet that hangs upside down stands upright in every drop.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np
from numpy.typing import NDArray

from ondine.logbook.intake import open_picture
from ondine.logbook.picture_error import PictureError
from ondine.logbook.writing import PDF, PNG, check_target, write_whole

MOST_PX = 6000
INCH_M = 0.0254
DPI = 200


class SheetKind(StrEnum):
    """What is printed."""

    GRADIENT = "gradient"
    GLOW = "glow"
    BANDS = "bands"
    PICTURE = "picture"


@dataclass(frozen=True)
class BackgroundSheet:
    """A sheet: its kind, colours #rrggbb for foot and head as they shall appear in the drop, number of bands."""

    kind: SheetKind = SheetKind.GRADIENT
    foot: str = "#d8cfc0"
    head: str = "#2f4f6b"
    bands: int = 5
    picture: Path | None = None
    upside_down: bool = True


class SheetError(ValueError):
    """A sheet that cannot be made; the text says why and what to do."""


def paint_sheet(sheet: BackgroundSheet, width_px: int, height_px: int) -> NDArray[np.uint8]:
    """Return the sheet as it is printed, shape (height, width, 3). Raises SheetError."""
    if sheet.kind is SheetKind.PICTURE:
        painted = _picture(sheet, width_px, height_px)
    else:
        foot, head = (np.array([int(c[i : i + 2], 16) for i in (1, 3, 5)], float) for c in (sheet.foot, sheet.head))
        share = _shares(sheet, width_px, height_px)[..., None]
        painted = np.asarray(np.rint(foot + (head - foot) * share), dtype=np.uint8)
    return painted[::-1, ::-1].copy() if sheet.upside_down else painted


def _shares(sheet: BackgroundSheet, width: int, height: int) -> NDArray[np.float64]:
    """How much of the head's colour each pixel has, the head at the top row, shape (height, width)."""
    up = 1 - np.arange(height) / max(height - 1, 1)
    if sheet.kind is SheetKind.GLOW:
        x = (np.arange(width) / max(width - 1, 1) - 0.5)[None, :]
        return np.clip(np.hypot(x, (up - 0.5)[:, None]) / 0.6, 0, 1)
    if sheet.kind is SheetKind.BANDS:
        if not 2 <= sheet.bands <= 60:
            raise SheetError(f"Give 2 to 60 bands, not {sheet.bands}.")
        up = np.floor(up * sheet.bands * 0.999999) / (sheet.bands - 1)
    return np.broadcast_to(up[:, None], (height, width))


def _picture(sheet: BackgroundSheet, width: int, height: int) -> NDArray[np.uint8]:
    from PIL import ImageOps

    if sheet.picture is None:
        raise SheetError("Choose the picture that the sheet shall show.")
    try:
        with open_picture(sheet.picture) as image:
            # A JPEG is decoded no larger than the sheet needs it.
            image.draft("RGB", (2 * width, 2 * height))
            fitted = ImageOps.fit(image.convert("RGB"), (width, height))
    except PictureError as error:
        raise SheetError(f"{error} Or choose another one.") from error
    return np.asarray(fitted)


def write_sheet(sheet: BackgroundSheet, size_m: tuple[float, float], path: Path) -> None:
    """Write a PNG or PDF that prints at its true size. Raises SheetError, WriteError."""
    check_target(path, PNG, PDF)
    if sheet.kind is SheetKind.PICTURE and sheet.picture is not None and path.resolve() == sheet.picture.resolve():
        raise SheetError(f"{path.name} is the picture that the sheet shows. Give the sheet another name.")
    dots = min(DPI, MOST_PX * INCH_M / max(size_m))
    width, height = (max(2, round(side / INCH_M * dots)) for side in size_m)
    image = _image(paint_sheet(sheet, width, height))

    def save(file: BinaryIO) -> None:
        if path.suffix.lower() == ".pdf":
            image.save(file, "PDF", resolution=dots)
        else:
            image.save(file, "PNG", dpi=(dots, dots))

    write_whole(path, save, PNG, PDF)


def _image(pixels: NDArray[np.uint8]) -> Any:
    from PIL import Image

    return Image.fromarray(pixels)
