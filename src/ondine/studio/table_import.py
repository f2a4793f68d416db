"""Shots of a table that others wrote come into a logbook: what they are logged with, and how they are written."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path

from ondine.core.forecast.plan import Plan
from ondine.core.setup import Setup
from ondine.core.timing.sequence import Pulse
from ondine.core.timing.sequence import Sequence as Timings
from ondine.logbook.backup import back_up_now
from ondine.logbook.export import all_ids
from ondine.logbook.records import PastShot, ShotRecord
from ondine.logbook.store import Logbook
from ondine.studio.composer import plan_kept
from ondine.studio.kept import KeptState
from ondine.studio.studio import now

STATE = ("sequence", "setup", "belief", "locks")


def plan_of(logbook: Logbook) -> Plan:
    """Return what is in hand in a logbook: rows of a table, which tell no set-up, are logged with that one."""
    texts = {key: text for key in STATE if (text := logbook.state.get(key)) is not None}
    start = Plan(Timings.with_one_flash((Pulse(0, 20_000),), 300_000), Setup())
    return plan_kept(KeptState(texts), start)


def known_shots(logbook: Logbook) -> Iterator[ShotRecord]:
    """Go through all shots of a logbook, so that none is taken in twice."""
    return logbook.shots.each(all_ids(logbook))


def take_in(path: Path, shots: Sequence[PastShot]) -> Path:
    """Write shots into a logbook that nobody has open, all or none; return where a copy of what it was is kept.

    Raises LogbookError.
    """
    logbook = Logbook.open(path)
    try:
        kept = back_up_now(path, now())
        logbook.shots.add_history(shots)
    finally:
        logbook.close()
    return kept
