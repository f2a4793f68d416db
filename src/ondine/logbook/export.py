"""The log as a table."""

from __future__ import annotations

import csv
from pathlib import Path

from ondine.core.timing.sequence import MAX_DROPS
from ondine.logbook.records import ShotQuery, ShotRecord
from ondine.logbook.store import Logbook

COLUMNS = (
    "shot",
    "fired_at_utc",
    "sitting",
    "state",
    *(f"drop{n}_{what}" for n in range(1, MAX_DROPS + 1) for what in ("start_ms", "open_ms")),
    "flash_ms",
    "shapes",
    "rating",
    "note",
    "picture",
    "setup",
    "belief",
    "head_mm",
    "flash_report_ms",
    "report",
)


class ExportError(Exception):
    """The table could not be written; the text says why and what to do."""


def export_csv(logbook: Logbook, out: Path) -> int:
    """Write all shots, oldest first, as UTF-8 CSV (RFC 4180); return how many. Raises ExportError."""
    shots = logbook.shots.find(ShotQuery())[::-1]
    try:
        with open(out, "w", newline="", encoding="utf-8") as file:
            writer = csv.writer(file)
            writer.writerow(COLUMNS)
            writer.writerows(_row(shot) for shot in shots)
    except OSError as error:
        raise ExportError(f"{out} cannot be written: {error.strerror}. Choose another place.") from error
    return len(shots)


def _row(shot: ShotRecord) -> list[str | int | float]:
    pulses: list[str | int | float] = []
    for number in range(MAX_DROPS):
        if number < len(shot.sequence.drops):
            pulse = shot.sequence.drops[number]
            pulses += [pulse.start_us / 1000, pulse.open_us / 1000]
        else:
            pulses += ["", ""]
    return [
        shot.id,
        shot.at.isoformat(timespec="milliseconds"),
        shot.sitting,
        shot.state.value,
        *pulses,
        shot.sequence.flash_us / 1000,
        ";".join(shot.shapes),
        shot.rating,
        _not_a_formula(shot.note),
        str(shot.picture or ""),
        shot.setup_id,
        shot.belief_id,
        "" if shot.head_m is None else round(shot.head_m * 1000, 1),
        "" if shot.flash_report_us is None else shot.flash_report_us / 1000,
        _not_a_formula(shot.report),
    ]


def _not_a_formula(text: str) -> str:
    """A spreadsheet must not run what somebody typed into a note."""
    return f"'{text}" if text[:1] in ("=", "+", "-", "@") else text
