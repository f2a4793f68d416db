"""What the logbook gives and takes: plain values, free of any database."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import UTC, datetime
from enum import StrEnum
from pathlib import Path
from typing import Any

from ondine.core import plain
from ondine.core.belief.priors import Belief
from ondine.core.forecast.plan import Plan
from ondine.core.setup import BenchKind, Setup
from ondine.core.timing.sequence import Sequence
from ondine.core.timing.wire import sequence_from_json
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
    `flash_reports_us`: when the bench says each flash fired, from the trigger [µs]; `report`: its words;
    `picture_sure`: false where it is a question whether the picture is this shot's; `bench`: which kind fired it;
    `labels`: the photographer's own words; `picture_sha256`: the picture's content; `binned`: whether it is in the bin.
    """

    id: int
    sitting: str
    setup_id: str
    belief_id: str
    at: datetime
    state: ShotState
    sequence: Sequence
    report: str
    flash_reports_us: tuple[int, ...] | None
    head_m: float | None
    rating: int
    note: str
    shapes: tuple[str, ...]
    picture: Path | None
    picture_sure: bool = True
    bench: BenchKind = BenchKind.UNKNOWN
    keeper: bool = False
    labels: tuple[str, ...] = ()
    picture_sha256: str | None = None
    binned: bool = False

    @property
    def outcome_known(self) -> bool:
        """Whether anybody has said what the shot shows, or it is known that it showed nothing."""
        return bool(self.shapes) or self.state == ShotState.FAILED

    @property
    def is_simulated(self) -> bool:
        """Whether no water fell: wherever such a shot is shown or written out, it says so."""
        return self.bench is BenchKind.SIMULATED


LOST_SITTING = "Sitting not known"


def shot_record(
    values: Mapping[str, Any],
    sitting: str | None,
    shapes: Iterable[str],
    picture: str | None,
    picture_sure: bool,
    labels: Iterable[str] = (),
) -> ShotRecord:
    """Make a shot's record of a row's values as the file holds them. Raises ValueError for a row that makes no sense.

    Whatever a file may hold comes through here: nothing but a whole record goes on.
    """
    at = time_of(values["fired_at"]) or time_of(values["planned_at"])
    if at is None:
        raise ValueError("it has no time")
    return ShotRecord(
        id=_whole(values["id"]),
        sitting=sitting if isinstance(sitting, str) else LOST_SITTING,
        setup_id=str(values["setup_id"]),
        belief_id=str(values["belief_id"]),
        at=at,
        state=ShotState(values["state"]),
        sequence=sequence_from_json(str(values["sequence"])),
        report=str(values["report"]),
        flash_reports_us=_wholes(values["flash_reports_us"]),
        head_m=_number(values["head_m"]),
        rating=min(max(_whole(values["rating"]), 0), 5),
        note=str(values["note"]),
        shapes=tuple(sorted(str(shape) for shape in shapes)),
        picture=None if picture is None else Path(str(picture)),
        picture_sure=picture is None or picture_sure,
        bench=_bench(values["bench"]),
        keeper=bool(values["keeper"]),
        labels=tuple(sorted(str(label) for label in labels)),
        picture_sha256=None if picture is None else str(values["picture_sha256"]),
        binned=values["binned_at"] is not None,
    )


def time_of(value: object) -> datetime | None:
    """Return the time that a value of a file stands for, None if it stands for none. Without a zone it is UTC."""
    if isinstance(value, datetime):
        return value
    try:
        found = datetime.fromisoformat(str(value))
        return found.replace(tzinfo=UTC) if found.tzinfo is None else found.astimezone(UTC)
    except (ValueError, OverflowError):
        return None


def stored_time(at: datetime) -> str:
    """Return a point in time as the file holds it: in UTC, as text that sorts as time does."""
    return at.astimezone(UTC).replace(tzinfo=None).isoformat(" ", "microseconds")


def _bench(value: object) -> BenchKind:
    return next((kind for kind in BenchKind if kind == value), BenchKind.UNKNOWN)


def _whole(value: object) -> int:
    if not isinstance(value, int):
        raise ValueError(f"{value!r} is no whole number")
    return value


def _wholes(value: object) -> tuple[int, ...] | None:
    return None if value is None else tuple(plain.parse_list(int, str(value)))


def _number(value: object) -> float | None:
    return float(value) if isinstance(value, int | float) else None


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
    bench: BenchKind = BenchKind.UNKNOWN
    keeper: bool = False
    labels: tuple[str, ...] = ()


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
