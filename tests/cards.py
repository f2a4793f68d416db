"""Cards for the tests: small pictures that carry the time which a camera's clock showed."""

from datetime import datetime, timedelta
from pathlib import Path

import numpy as np
from PIL import Image, ImageFilter

from ondine.logbook.clock_code import code_of, modules_of


def frame(
    path: Path,
    shown: datetime,
    number: int = 0,
    fraction: str | None = None,
    zone: str | None = None,
    serial: str | None = None,
) -> Path:
    """Write a picture of its own content; `shown` : what the camera's clock showed, in whole seconds."""
    exif = Image.Exif()
    details = exif.get_ifd(0x8769)
    details[0x9003] = shown.strftime("%Y:%m:%d %H:%M:%S")
    if fraction is not None:
        details[0x9291] = fraction
    if zone is not None:
        details[0x9011] = zone
    if serial is not None:
        exif[0x0110], details[0xA431] = "Body A", serial
    path.parent.mkdir(parents=True, exist_ok=True)
    Image.new("RGB", (48, 32), (number % 256, number // 256 % 256, 90)).save(path, exif=exif)
    return path


def card(folder: Path, fired: list[datetime], ahead: timedelta) -> list[Path]:
    """Write one picture for each shot, taken by a camera whose clock is ahead of UTC."""
    return [
        frame(folder / f"IMG_{n:04d}.JPG", (at + ahead).replace(tzinfo=None), n) for n, at in enumerate(fired, start=1)
    ]


def photographed(
    path, at: datetime, turned: float = 0.0, blur: float = 0.0, share: float = 0.4, shown: datetime | None = None
):
    """A photograph of the card on a grey screen: askew, soft, of a part of the frame."""
    dark = modules_of(code_of(at))
    side = round(2000 * share)
    code = Image.fromarray(np.where(dark, 20, 235).astype(np.uint8)).resize((side, side), Image.Resampling.NEAREST)
    picture = Image.new("L", (3000, 2000), 200)
    picture.paste(code, (1500 - side // 2, 1000 - side // 2))
    picture = picture.rotate(turned, fillcolor=120, resample=Image.Resampling.BICUBIC).filter(
        ImageFilter.GaussianBlur(blur)
    )
    exif = Image.Exif()
    if shown is not None:
        exif.get_ifd(0x8769)[0x9003] = shown.strftime("%Y:%m:%d %H:%M:%S")
    picture.convert("RGB").save(path, quality=80, exif=exif)
    return path
