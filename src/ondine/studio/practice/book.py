"""What practising leaves behind: runs on hidden rigs, rounds of naming, and what stands on the bench now."""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass, replace

from ondine.bench.simulated.levels import Level
from ondine.core import plain
from ondine.core.forecast.shapes import BY_KEY
from ondine.studio.events import Showed

MOST_RUNS = 300
"""Older runs leave the record."""


@dataclass(frozen=True)
class Run:
    """One search on a hidden rig.

    rig : its number; goal : key of the shape; hints : whether the coach spoke; begun_at : ISO 8601; first, last : the
    logged shots that were fired on it, 0 for none; shots : how many it took, or were fired in vain; par : how many the
    coach needs, 0 while nobody knows.
    """

    level: Level
    rig: int
    goal: str
    hints: bool
    begun_at: str
    first: int = 0
    last: int = 0
    shots: int = 0
    par: int = 0
    over: bool = False
    found: bool = False

    def covers(self, shot: int) -> bool:
        """Whether a logged shot was fired on this rig."""
        return 0 < self.first <= shot <= self.last


@dataclass(frozen=True)
class Round:
    """One round of naming pictures: when [ISO 8601], how many were right of how many, and the points."""

    at: str
    right: int
    of: int
    points: int


@dataclass(frozen=True)
class Before:
    """What was in hand before a run, as JSON: it comes back after it."""

    sequence: str
    setup: str
    belief: str


@dataclass(frozen=True)
class PracticeBook:
    """All of it. `on_bench` : whether the rig of the last run stands on the simulated bench; `shown` : its shots."""

    runs: tuple[Run, ...] = ()
    on_bench: bool = False
    shown: tuple[Showed, ...] = ()
    before: Before | None = None
    rounds: tuple[Round, ...] = ()

    @property
    def run(self) -> Run | None:
        """The run whose rig stands on the bench."""
        return self.runs[-1] if self.on_bench and self.runs else None

    def with_run(self, run: Run) -> PracticeBook:
        """Return the book with another last run."""
        return replace(self, runs=(*self.runs[:-1], run))

    def begun(self, run: Run, before: Before) -> PracticeBook:
        """Return the book with one run more, whose rig stands on the bench."""
        runs = (*self.runs, run)[-MOST_RUNS:]
        return replace(self, runs=runs, on_bench=True, shown=(), before=self.before if self.on_bench else before)

    def fired(self, shown: Showed) -> PracticeBook:
        """Return the book after a shot on the rig that stands on the bench."""
        run = self.runs[-1]
        run = replace(run, first=run.first or shown.shot, last=shown.shot, shots=run.shots + (not run.over))
        return replace(self.with_run(run), shown=(*self.shown, shown))

    def counts(self, shot: int) -> bool:
        """Whether a logged shot was fired on the rig that stands on the bench now."""
        if self.run is not None:
            return self.run.covers(shot)
        return not any(run.covers(shot) for run in self.runs)

    def to_json(self) -> str:
        """Write it for the logbook."""
        return json.dumps(asdict(self))


def book_from_json(text: str) -> PracticeBook:
    """Read a book. Raises ValueError for what is none."""
    book = plain.parse(PracticeBook, text)
    shapes = {run.goal for run in book.runs} | {shown.shape for shown in book.shown}
    if not shapes <= set(BY_KEY):
        raise ValueError("it holds a shape that there is not")
    numbers = [n for run in book.runs for n in (run.rig, run.first, run.last, run.shots, run.par)]
    if min(numbers, default=0) < 0 or any(not 0 <= one.right <= one.of for one in book.rounds):
        raise ValueError("it holds a number that there is not")
    return book
