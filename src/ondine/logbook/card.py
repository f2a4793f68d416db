"""A folder of files from a camera: which frames there are, and when the camera says that it took them."""

from __future__ import annotations

import os
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, timedelta, timezone
from pathlib import Path

from ondine.logbook.clock_code import read_clock
from ondine.logbook.intake import SUFFIXES, read_taken
from ondine.logbook.picture_error import PictureError
from ondine.logbook.raw import is_raw

MOST_FILES = 20_000
CLOCKS_WITHIN = 8
"""The clock card is looked for among so many frames at either end."""

CARD_ZONE = timezone(timedelta(0))
"""A clock that does not say its zone is read as it stands: the offset that is sought holds the zone as well."""


@dataclass(frozen=True)
class Frame:
    """One picture of a card: its file, its raw file where there are both, and the time that it carries.

    `fractions` : whether that time has fractions of a second; `body` : the camera that wrote it, where the file says.
    """

    path: Path
    taken_at: datetime
    fractions: bool = False
    beside: Path | None = None
    body: str = ""

    @property
    def files(self) -> tuple[Path, ...]:
        """All files of the picture."""
        return (self.path,) if self.beside is None else (self.path, self.beside)


@dataclass(frozen=True)
class CardFiles:
    """Frames in the order of their times, and a sentence on each file that is of no use.

    `clocks` : photographs of the clock card, which are no frames of splashes, and the time that each shows.
    """

    frames: tuple[Frame, ...]
    refused: tuple[str, ...] = ()
    clocks: tuple[tuple[Frame, datetime], ...] = ()

    @property
    def fractions(self) -> bool:
        """Whether the camera writes fractions of a second."""
        return any(frame.fractions for frame in self.frames)


class CardGoneError(Exception):
    """The folder cannot be read, or went while it was read; the sentence says so."""


def read_card(
    folder: Path,
    progress: Callable[[int, int], None] = lambda done, of: None,
    is_cancelled: Callable[[], bool] = lambda: False,
) -> CardFiles:
    """Read the times of all pictures in a folder and the folders in it; links are not followed out of it.

    progress : called with (done, of). What is cancelled returns what was read so far. Raises CardGoneError.
    """
    refused: list[str] = []
    pairs = _paired(pictures_in(folder, closed=refused))
    frames: list[Frame] = []
    for done, (path, beside) in enumerate(pairs, start=1):
        if is_cancelled():
            break
        try:
            taken = read_taken(path, CARD_ZONE)
        except PictureError as error:
            if not folder.is_dir():
                raise CardGoneError(_gone(folder)) from error
            refused.append(str(error))
        else:
            if taken.at is None:
                refused.append(f"{path.name} does not say when it was taken. Import it by hand, for its shot.")
            else:
                frames.append(Frame(path, taken.at, taken.fractions, beside, taken.body))
        progress(done, len(pairs))
    if not folder.is_dir():
        raise CardGoneError(_gone(folder))
    # Frames of one second keep the order of their names, as the camera counts them.
    frames.sort(key=lambda frame: (frame.taken_at, frame.path.name))
    clocks = _clocks(frames, is_cancelled)
    shown = {frame.path for frame, _ in clocks}
    return CardFiles(tuple(frame for frame in frames if frame.path not in shown), tuple(refused), tuple(clocks))


def _clocks(frames: list[Frame], is_cancelled: Callable[[], bool]) -> list[tuple[Frame, datetime]]:
    """Return the photographs of the clock card among the first and last frames: an evening begins or ends with it."""
    ends = frames if len(frames) <= 2 * CLOCKS_WITHIN else frames[:CLOCKS_WITHIN] + frames[-CLOCKS_WITHIN:]
    found = []
    for frame in ends:
        if is_cancelled():
            break
        at = read_clock(frame.path)
        if at is not None:
            found.append((frame, at))
    return found


def _gone(folder: Path) -> str:
    return f"The folder {folder} cannot be read, or was taken away meanwhile. Put the card back, then match it again."


def pictures_in(folder: Path, most: int = MOST_FILES, closed: list[str] | None = None) -> list[Path]:
    """Return the picture files of a folder and the folders in it, by name; links are not followed out of it.

    closed : gets a sentence on each folder in it that cannot be read. Raises CardGoneError if the folder itself cannot
    be read, or holds more than `most`.
    """
    found: list[Path] = []

    def failed(error: OSError) -> None:
        place = Path(error.filename or folder)
        if place == folder:
            raise CardGoneError(_gone(folder)) from error
        if closed is not None:
            closed.append(
                f"The folder {place} cannot be read ({error.strerror}): its pictures are not here. Give yourself "
                "permission to read it, then match the card again."
            )

    for root, folders, names in os.walk(folder, onerror=failed):
        folders[:] = sorted(name for name in folders if not name.startswith("."))
        found += [Path(root) / name for name in sorted(names) if _is_picture(name)]
        if len(found) > most:
            raise CardGoneError(
                f"{folder} holds more than {most} pictures. Choose the folder of one card or one evening."
            )
    return found


def _is_picture(name: str) -> bool:
    return not name.startswith(".") and Path(name).suffix.lower() in SUFFIXES


def _paired(files: list[Path]) -> list[tuple[Path, Path | None]]:
    """Join the two files of pictures that were written as raw and as JPEG."""
    by_stem: dict[Path, list[Path]] = {}
    for file in files:
        by_stem.setdefault(file.with_suffix(""), []).append(file)
    found: list[tuple[Path, Path | None]] = []
    for own in by_stem.values():
        raws, others = [f for f in own if is_raw(f)], [f for f in own if not is_raw(f)]
        if len(raws) == 1 and len(others) == 1:
            found.append((others[0], raws[0]))
        else:
            found += [(file, None) for file in own]
    return found
