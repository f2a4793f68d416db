"""Which kind of bench a logbook is of: a practice logbook and a table's logbook do not mix."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from pathlib import Path
from typing import TYPE_CHECKING

from ondine.core.setup import BenchKind
from ondine.logbook.errors import LogbookError
from ondine.logbook.file import check_header, readable

if TYPE_CHECKING:
    from ondine.logbook.store import Logbook

KEY = "bench"
"""Under this the state of a logbook holds its kind; one that does not hold it has not been asked yet."""

RIG_KEY = "rig"
"""Under this a practice logbook holds which hidden rig it simulates, as a whole number."""


def kept_bench(text: str | None) -> BenchKind | None:
    """Return the kind that a logbook's state holds; None if nobody said yet."""
    return next((kind for kind in BenchKind if kind == text and kind is not BenchKind.UNKNOWN), None)


def bench_of(path: Path) -> BenchKind | None:
    """Return the kind of a logbook without opening it; None for one that is new or does not say, or is no logbook."""
    try:
        check_header(path)
        # Read-only: whoever has it open writes on, and what waits beside it is seen too.
        with closing(sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro", uri=True, timeout=0.5)) as connection:
            connection.text_factory = readable
            found = connection.execute("SELECT value FROM state WHERE key = ?", (KEY,)).fetchone()
    except (LogbookError, sqlite3.Error, ValueError):
        return None
    return kept_bench(None if found is None else str(found[0]))


def check_may_merge(target: Logbook, source: Logbook) -> None:
    """Raise LogbookError unless the shots of one logbook may come into another: simulated ones stay among themselves.

    What the shots themselves tell decides; where they do not tell, what was answered for their logbook; where nobody
    answered, it has to be asked.
    """
    here, there = _told(target), _told(source)
    if len(here) != 1:
        # It has no shots that tell, or older ones that disagree.
        here = _answered(target)
    if not there or BenchKind.UNKNOWN in source.shots.benches():
        there |= _answered(source)
    for logbook, told in ((target, here), (source, there)):
        if not told:
            raise LogbookError(
                f"Nothing tells whether the shots of {logbook.path.name} are of a table or simulated. Open it in "
                "Ondine, answer what opens the valve, then merge again."
            )
    if len(here | there) > 1:
        raise LogbookError(
            f"{source.path.name} was not merged into {target.path.name}: one holds simulated shots of practice, the "
            "other those of a table, and they do not mix."
        )


def _told(logbook: Logbook) -> set[bool]:
    """Return whether a logbook's shots are real (True) or simulated (False), as far as they tell."""
    return {bench.is_real for bench in logbook.shots.benches() - {BenchKind.UNKNOWN}}


def _answered(logbook: Logbook) -> set[bool]:
    answered = kept_bench(logbook.state.get(KEY))
    return set() if answered is None else {answered.is_real}
