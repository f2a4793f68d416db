"""What shots came to, kept outside the logbook for as long as it cannot be written: water cannot be fired twice."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from ondine.core import plain
from ondine.logbook.records import ShotState, time_of
from ondine.logbook.writing import JSON, WriteError, write_text


@dataclass(frozen=True)
class Outcome:
    """What a shot came to. `planned_at` tells it from a shot of the same number in another file."""

    shot_id: int
    planned_at: datetime
    state: ShotState
    fired_at: datetime | None = None
    flash_reports_us: tuple[int, ...] | None = None
    report: str = ""


class OutcomeFile:
    """A small file beside the logbook, or where programs keep their state if even that cannot be written."""

    def __init__(self, logbook: Path) -> None:
        from platformdirs import user_state_path

        address = hashlib.sha256(str(logbook).encode("utf-8", "surrogateescape")).hexdigest()[:16]
        self._places = (
            logbook.with_name(f"{logbook.name}.unwritten.json"),
            user_state_path("ondine", appauthor=False) / "unwritten" / f"{address}.json",
        )

    def keep(self, outcomes: Sequence[Outcome]) -> Path | None:
        """Keep these in the first place that takes them; return which, None if none does."""
        text = json.dumps([_to_plain(outcome) for outcome in outcomes], indent=2) + "\n"
        for place in self._places:
            with suppress(WriteError, OSError):
                place.parent.mkdir(parents=True, exist_ok=True)
                write_text(place, text, JSON)
                return place
        return None

    def read(self) -> list[Outcome]:
        """Return what was kept. What is no file of ours is left alone."""
        found = []
        for place in self._places:
            with suppress(OSError, ValueError):
                found += [_from_plain(kept) for kept in plain.parse_list(_Kept, place.read_text(encoding="utf-8"))]
        return found

    def forget(self) -> None:
        """Everything is in the logbook."""
        for place in self._places:
            with suppress(OSError):
                place.unlink(missing_ok=True)


@dataclass(frozen=True)
class _Kept:
    shot_id: int
    planned_at: str
    state: ShotState
    fired_at: str | None
    report: str
    flash_report_us: int | None = None
    flash_reports_us: tuple[int, ...] | None = None


def _to_plain(outcome: Outcome) -> dict[str, object]:
    return {
        "shot_id": outcome.shot_id,
        "planned_at": outcome.planned_at.isoformat(),
        "state": outcome.state.value,
        "fired_at": None if outcome.fired_at is None else outcome.fired_at.isoformat(),
        "flash_reports_us": outcome.flash_reports_us,
        "report": outcome.report,
    }


def _from_plain(kept: _Kept) -> Outcome:
    planned_at, fired_at = time_of(kept.planned_at), time_of(kept.fired_at)
    if planned_at is None:
        raise ValueError("it has no time")
    flashes = kept.flash_reports_us
    if flashes is None and kept.flash_report_us is not None:
        # Until format 6 of the logbook there was one flash.
        flashes = (kept.flash_report_us,)
    return Outcome(kept.shot_id, planned_at, kept.state, fired_at, flashes, kept.report)
