"""Daily copies of two logbooks of one name in one folder, by clocks that jump both ways: none of either is lost."""

from __future__ import annotations

import random
import tempfile
from datetime import UTC, datetime, timedelta
from pathlib import Path

from benchmarks.faults import Tally
from ondine.logbook.backup import DAYS, NEWEST, back_up_now, backups
from ondine.logbook.errors import LogbookError
from ondine.logbook.file import check_sound
from ondine.logbook.store import Logbook

BEGAN = datetime(2026, 1, 1, 20, tzinfo=UTC)
JUMPS = tuple(timedelta(days=days) for days in (0, 0, -330, -1, 400, 45, -0.02, -60))
JUMPS_SHARE = 0.08
"""So often a clock is set, to any of `JUMPS` off the true time."""


def run(seed: int, days: int = 365) -> Tally:
    """Copy both logbooks each day; the newest copies of each must stand, and open."""
    tally, dice = Tally("daily copies of two logbooks in one folder, clocks that jump"), random.Random(seed)
    with tempfile.TemporaryDirectory() as folder:
        shared = Path(folder) / "shared"
        logbooks = [Path(folder) / name / "log.ondine" for name in ("studio", "laptop")]
        made: dict[Path, list[Path]] = {}
        for logbook in logbooks:
            Logbook.open(logbook).close()
            made[logbook], off = [], timedelta()
        for day in range(days):
            for logbook in logbooks:
                off = dice.choice(JUMPS) if dice.random() < JUMPS_SHARE else off
                tally.tried += 1
                copy = back_up_now(logbook, BEGAN + timedelta(days=day) + off, shared)
                made[logbook].append(copy)
                if not copy.exists():
                    tally.faults.append(f"the copy of day {day} deleted itself")
        for logbook in logbooks:
            _stands(logbook, shared, made[logbook], tally)
    return tally


def _stands(logbook: Path, shared: Path, made: list[Path], tally: Tally) -> None:
    standing = [copy.path for copy in backups(logbook, shared)]
    if standing[:NEWEST] != made[: -NEWEST - 1 : -1] or len(standing) < min(DAYS, len(made)):
        tally.faults.append(f"of {logbook} there stand {len(standing)} copies, not its newest")
    for copy in standing:
        try:
            check_sound(copy, copy)
            tally.note(f"copies of the {logbook.parent.name} stand and open")
        except LogbookError as error:
            tally.faults.append(str(error))
