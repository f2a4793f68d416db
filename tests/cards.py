"""Cards for the tests: small pictures that carry the time which a camera's clock showed."""

from datetime import datetime, timedelta
from pathlib import Path

from PIL import Image


def frame(path: Path, shown: datetime, number: int = 0, fraction: str | None = None, zone: str | None = None) -> Path:
    """Write a picture of its own content; `shown` : what the camera's clock showed, in whole seconds."""
    exif = Image.Exif()
    details = exif.get_ifd(0x8769)
    details[0x9003] = shown.strftime("%Y:%m:%d %H:%M:%S")
    if fraction is not None:
        details[0x9291] = fraction
    if zone is not None:
        details[0x9011] = zone
    path.parent.mkdir(parents=True, exist_ok=True)
    Image.new("RGB", (48, 32), (number % 256, number // 256 % 256, 90)).save(path, exif=exif)
    return path


def card(folder: Path, fired: list[datetime], ahead: timedelta) -> list[Path]:
    """Write one picture for each shot, taken by a camera whose clock is ahead of UTC."""
    return [
        frame(folder / f"IMG_{n:04d}.JPG", (at + ahead).replace(tzinfo=None), n) for n, at in enumerate(fired, start=1)
    ]
