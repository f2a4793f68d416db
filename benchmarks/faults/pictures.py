"""Mutated pictures through the watched folder; after each of them a good picture still arrives at its shot."""

from __future__ import annotations

import os
import random
import tempfile
import threading
import time
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path

import numpy as np
from PIL import Image

from benchmarks.faults import Tally
from benchmarks.faults.victim import real_jpeg, studio
from ondine.demo.scenario import TIDAL_MILL
from ondine.studio import watch
from ondine.studio.events import PictureArrived, Trouble
from ondine.studio.studio import Studio

PATIENCE_S = 20.0


class Ears:
    """Hears of pictures and troubles."""

    def __init__(self) -> None:
        self.arrived: dict[str, int] = {}
        self.unexpected: list[str] = []
        self.came = threading.Event()

    def __call__(self, event: object) -> None:
        """Hear an event."""
        if isinstance(event, PictureArrived) and event.shot.picture is not None:
            self.arrived[event.shot.picture.name] = event.shot.id
            self.came.set()
        elif isinstance(event, Trouble) and event.details:
            self.unexpected.append(event.details[-300:])


def run(count: int, seed: int) -> Tally:
    """Put `count` mutated files into a watched folder, each followed by a shot and its good picture."""
    tally, dice, ears = Tally("mutated pictures"), random.Random(seed), Ears()
    before, watch.POLL_S, watch.PATIENCE_S = (watch.POLL_S, watch.PATIENCE_S), 0.02, 0.2
    with tempfile.TemporaryDirectory() as folder:
        incoming = Path(folder) / "incoming"
        incoming.mkdir()
        made = studio(Path(folder) / "log.ondine", ears)
        made.intake.watch(incoming)
        made.intake.wait()
        try:
            for number in range(count):
                tally.tried += 1
                way = dice.choice(WAYS)
                way(incoming / f"bad{number}{dice.choice(('.jpg', '.png', '.tif'))}", dice)
                # Only what is done with is not in the good one's way.
                time.sleep(0.3)
                if not _good_one_arrives(made, ears, incoming, number):
                    tally.faults.append(f"{way.__name__}: no good picture after it")
                _clear(incoming, number)
            tally.faults += ears.unexpected
        finally:
            made.close()
            watch.POLL_S, watch.PATIENCE_S = before
    return tally


def _good_one_arrives(made: Studio, ears: Ears, incoming: Path, number: int) -> bool:
    made.bench.fire(made.composer.plan)
    made.bench.wait()
    made.log.wait()
    name = f"good{number}.jpg"
    taken_at = datetime.now(UTC)
    shade = np.full((8, 12, 3), number % 256, np.uint8)
    shade[0, 0] = (number >> 8, number & 255, 7)
    real_jpeg(incoming / name, shade, TIDAL_MILL.camera, taken_at)
    end = time.monotonic() + PATIENCE_S
    while name not in ears.arrived and time.monotonic() < end:
        ears.came.wait(0.5)
        ears.came.clear()
    return ears.arrived.get(name) == number + 1


def _clear(incoming: Path, number: int) -> None:
    if number % 50 == 49:
        for entry in incoming.iterdir():
            if entry.is_symlink() or not entry.is_dir():
                entry.unlink()


# Ways to break a picture


def _bytes(suffix: str, dice: random.Random) -> bytes:
    with tempfile.NamedTemporaryFile(suffix=suffix) as file:
        shade = np.full((24, 36, 3), dice.randrange(256), np.uint8)
        if suffix == ".jpg":
            real_jpeg(Path(file.name), shade, TIDAL_MILL.camera, datetime(2024, 2, 29, tzinfo=UTC))
        else:
            Image.fromarray(shade).save(file.name)
        return Path(file.name).read_bytes()


def change_bytes(path: Path, dice: random.Random) -> None:
    """Change some bytes anywhere."""
    content = bytearray(_bytes(path.suffix, dice))
    for _ in range(dice.randint(1, 12)):
        content[dice.randrange(len(content))] = dice.randrange(256)
    path.write_bytes(content)


def change_head(path: Path, dice: random.Random) -> None:
    """Change bytes where sizes and EXIF stand."""
    content = bytearray(_bytes(path.suffix, dice))
    for _ in range(dice.randint(1, 6)):
        content[dice.randrange(min(400, len(content)))] = dice.choice((0, 1, 127, 128, 255))
    path.write_bytes(content)


def cut_short(path: Path, dice: random.Random) -> None:
    """Truncate."""
    content = _bytes(path.suffix, dice)
    path.write_bytes(content[: dice.randrange(len(content))])


def odd_clock(path: Path, dice: random.Random) -> None:
    """A time that no clock shows, or no time at all."""
    path = path.with_suffix(".jpg")
    exif = Image.Exif()
    details = exif.get_ifd(0x8769)
    details[0x9003] = dice.choice(("0001:01:01 00:00:00", "9999:12:31 23:59:59", "9" * 300, "", "2024:02:30 25:61:61"))
    details[0x9011] = dice.choice(("+99:99", "-14:00", "Z", "x"))
    details[0x829A] = dice.choice((0.0, 1e30, 1.0))
    Image.new("RGB", (8, 8), (dice.randrange(256), dice.randrange(256), 3)).save(path, exif=exif)


def odd_name(path: Path, dice: random.Random) -> None:
    """A name that is no text, or hardly one."""
    names = (b"\xff\xfe.jpg", b"a\xed\xa0\x80.jpg", b" .jpg", b"a\nb.jpg", b"x" * 250 + b".jpg", b"%s%d.jpg", b"..jpg")
    path.with_name(os.fsdecode(dice.choice(names))).write_bytes(_bytes(".jpg", dice))


def odd_entry(path: Path, dice: random.Random) -> None:
    """No file at all."""
    match dice.randrange(5):
        case 0:
            path.symlink_to(path)
        case 1:
            path.symlink_to(path.with_name("nothing"))
        case 2:
            path.symlink_to("/dev/zero")
        case 3:
            os.mkfifo(path)
        case _:
            path.mkdir()


def noise(path: Path, dice: random.Random) -> None:
    """Nothing but noise, or nothing."""
    path.write_bytes(dice.randbytes(dice.choice((0, 1, 100, 5000))))


def comes_and_goes(path: Path, dice: random.Random) -> None:
    """A file that goes while it is looked at."""
    path.write_bytes(_bytes(path.suffix, dice))
    time.sleep(dice.uniform(0, 0.06))
    path.unlink()


WAYS: tuple[Callable[[Path, random.Random], None], ...] = (
    change_bytes, change_head, cut_short, odd_clock, odd_name, odd_entry, noise, comes_and_goes,
)  # fmt: skip
