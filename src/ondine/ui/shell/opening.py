"""How a window is opened."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from ondine.core.forecast.plan import Plan
from ondine.core.setup import BenchKind, Setup
from ondine.core.timing.sequence import Pulse, Sequence

FRESH_START = Plan(Sequence.with_one_flash((Pulse(0, 22_000), Pulse(95_000, 22_000)), 350_000), Setup())

FIRST_RIG = 1


@dataclass(frozen=True)
class Opening:
    """How a window is opened: which logbook, where pictures arrive, and what a new logbook starts with.

    `bench`: the kind that the logbook must be of, None for whichever it is; a new one without it asks.
    `rig`: which hidden rig a new practice logbook simulates. `take`: a recipe or set-up to use at once.
    `words`: what to say first.
    """

    logbook: Path
    folder: Path | None = None
    sitting: str = "Sitting"
    start: Plan = FRESH_START
    bench: BenchKind | None = None
    rig: int = FIRST_RIG
    take: Path | None = None
    words: str = ""


def fresh(logbook: Path, folder: Path | None) -> Opening:
    """Open a logbook of one's own."""
    return Opening(logbook, folder)
