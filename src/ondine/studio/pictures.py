"""Taking pictures in: from the watched folder as they arrive, or from files given by hand."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import datetime, timedelta
from pathlib import Path
from typing import TYPE_CHECKING

from ondine.logbook.intake import PictureError, PictureFacts, read_picture
from ondine.logbook.pairing import ARRIVES_WITHIN, CLOCKS_AGREE_WITHIN, pair_arrival, pair_by_clock

if TYPE_CHECKING:
    from ondine.logbook.store import Logbook


@dataclass(frozen=True)
class Taken:
    """A picture that is in the log now: its shot, if one fits, and whether it was new."""

    path: Path
    shot_id: int | None
    new: bool


def take_arrival(logbook: Logbook, path: Path, arrived_at: datetime) -> Taken:
    """Log a picture that has just arrived in the watched folder. Raises PictureError, LogbookError."""
    facts = read_picture(path)
    candidates = logbook.picture_candidates(arrived_at, ARRIVES_WITHIN + timedelta(minutes=1))
    shot = pair_arrival(arrived_at, facts.taken_at, candidates)
    return Taken(path, shot, logbook.add_picture(facts, shot, arrived_at))


def take_file(logbook: Logbook, path: Path, now: datetime) -> Taken:
    """Log a picture given by hand: by its own clock, or with the shot just fired if it has none.

    Raises PictureError, LogbookError.
    """
    facts = read_picture(path.absolute())
    shot = _shot_by_clock(logbook, facts)
    if shot is None and facts.taken_at is None:
        shot = pair_arrival(now, None, logbook.picture_candidates(now, ARRIVES_WITHIN + timedelta(minutes=1)))
    return Taken(path, shot, logbook.add_picture(facts, shot, now))


def _shot_by_clock(logbook: Logbook, facts: PictureFacts) -> int | None:
    if facts.taken_at is None:
        return None
    candidates = logbook.picture_candidates(facts.taken_at, CLOCKS_AGREE_WITHIN * 3)
    return pair_by_clock(facts.taken_at, candidates)


def import_files(
    logbook: Logbook,
    paths: Iterable[Path],
    now: datetime,
    taken: Callable[[Taken], None],
    refused: Callable[[PictureError], None],
) -> None:
    """Log many files, one by one: what cannot be read is reported and does not stop the rest."""
    for path in paths:
        try:
            taken(take_file(logbook, path, now))
        except PictureError as error:
            refused(error)
