"""What the studio tells: plain values, emitted from whatever thread found them out."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path

from ondine.logbook.records import ShotRecord


class BenchState(StrEnum):
    """What the bench is doing."""

    READY = "ready"
    FIRING = "firing"


@dataclass(frozen=True)
class SequenceChanged:
    """The sequence or the set-up in hand is another one now."""


@dataclass(frozen=True)
class BenchChanged:
    """The bench began or ended a firing."""

    state: BenchState


@dataclass(frozen=True)
class ShotLogged:
    """A shot is in the log for the first time."""

    shot: ShotRecord


@dataclass(frozen=True)
class ShotChanged:
    """A shot's outcome, picture, tags, rating or note changed."""

    shot: ShotRecord


@dataclass(frozen=True)
class PictureArrived:
    """A picture was taken in and belongs to a shot."""

    shot: ShotRecord


@dataclass(frozen=True)
class FolderChanged:
    """The watched folder was chosen, vanished, or came back."""

    folder: Path
    present: bool


@dataclass(frozen=True)
class Trouble:
    """Something did not work: a sentence that says what, where, and what to do."""

    message: str


@dataclass(frozen=True)
class Notice:
    """Something worth a line, with no harm done."""

    message: str


@dataclass(frozen=True)
class ShotsFound:
    """The answer to a search of the log."""

    shots: list[ShotRecord]


Event = (
    SequenceChanged
    | BenchChanged
    | ShotLogged
    | ShotChanged
    | PictureArrived
    | ShotsFound
    | FolderChanged
    | Trouble
    | Notice
)
