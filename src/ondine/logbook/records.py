"""What the logbook gives and takes: plain values, free of any database."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum
from pathlib import Path

from ondine.core.belief.priors import Belief
from ondine.core.forecast.plan import Plan
from ondine.core.setup import Setup
from ondine.core.timing.sequence import Sequence
from ondine.logbook.intake import PictureFacts


class ShotState(StrEnum):
    """How far a shot got. What is left PLANNED by a crash is read as UNKNOWN at the next opening."""

    PLANNED = "planned"
    FIRED = "fired"
    UNKNOWN = "unknown"
    FAILED = "failed"


@dataclass(frozen=True)
class ShotRecord:
    """One shot as it is read: plain values, detached from the file. `shapes` in the order of their keys.

    `setup_id`, `belief_id`: revisions it was foreseen with; `head_m`: the reservoir's level then, as reckoned [m];
    `flash_report_us`: when the bench says the flash fired, from the trigger [µs]; `report`: its words.
    """

    id: int
    sitting: str
    setup_id: str
    belief_id: str
    at: datetime
    state: ShotState
    sequence: Sequence
    report: str
    flash_report_us: int | None
    head_m: float | None
    rating: int
    note: str
    shapes: tuple[str, ...]
    picture: Path | None

    @property
    def outcome_known(self) -> bool:
        """Whether anybody has said what the shot shows, or it is known that it showed nothing."""
        return bool(self.shapes) or self.state == ShotState.FAILED


@dataclass(frozen=True)
class PastShot:
    """A shot that was fired elsewhere or before, complete with its outcome."""

    sitting: str
    at: datetime
    plan: Plan
    shapes: tuple[str, ...] = ()
    rating: int = 0
    note: str = ""
    picture: PictureFacts | None = None
    place: str = ""
    temperature_c: float | None = None


@dataclass(frozen=True)
class SittingRecord:
    """A sitting as it is read. `preflight` says what was checked and what was skipped; `shots` counts."""

    id: int
    name: str
    started_at: datetime
    place: str = ""
    temperature_c: float | None = None
    note: str = ""
    preflight: str = ""
    shots: int = 0


@dataclass(frozen=True)
class SittingFacts:
    """What is written down about a sitting."""

    name: str = "Sitting"
    place: str = ""
    temperature_c: float | None = None
    note: str = ""
    preflight: str = ""


@dataclass(frozen=True)
class KeptSetupRecord:
    """A named set-up: its name, revision, when it was kept, the set-up itself, and what was believed of its rig."""

    name: str
    setup_id: str
    kept_at: datetime
    setup: Setup
    belief: Belief


@dataclass(frozen=True)
class ShotQuery:
    """What to look for: shots with this shape, rated at least so, with this in the note or sitting."""

    shape: str | None = None
    min_rating: int = 0
    text: str = ""
