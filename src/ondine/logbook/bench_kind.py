"""Which kind of bench a logbook is of: a practice logbook and a table's logbook do not mix."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from pathlib import Path

from ondine.core.setup import BenchKind
from ondine.logbook.errors import LogbookError
from ondine.logbook.file import check_header, readable

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
