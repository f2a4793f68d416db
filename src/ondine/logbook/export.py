"""The log as a table that spreadsheets and programs read."""

from __future__ import annotations

import csv
import io
import json
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ondine.core.setup import Setup
from ondine.core.setup.fields import leaves
from ondine.core.timing.sequence import MAX_DROPS
from ondine.logbook.records import ShotQuery, ShotRecord
from ondine.logbook.store import Logbook
from ondine.logbook.writing import CSV, write_text

Cell = str | int | float

COLUMNS = (
    "shot",
    "fired_at_utc",
    "sitting",
    "state",
    "bench",
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

FORMULA_SIGNS = ("=", "+", "-", "@", "＝", "＋", "－", "＠")
"""What a spreadsheet may take for the start of a formula, full-width forms included (OWASP, CSV Injection)."""


@dataclass(frozen=True)
class Table:
    """The log as CSV (RFC 4180): its text, how many shots are in it, and how many could not be read."""

    text: str
    shots: int
    unreadable: int


def csv_table(logbook: Logbook) -> Table:
    """Return all shots, oldest first. After the shot's own columns come the values of its set-up, by their paths."""
    found, unreadable = logbook.shots.search(ShotQuery())
    shots = found[::-1]
    setups = logbook.setups.by_revision({shot.setup_id for shot in shots})
    values = {revision: _values(setup) for revision, setup in setups.items()}
    more = list(dict.fromkeys(path for of_setup in values.values() for path in of_setup))
    held = io.StringIO(newline="")
    writer = csv.writer(held)
    writer.writerow([*COLUMNS, *(f"setup.{path}" for path in more)])
    for shot in shots:
        of_setup = values.get(shot.setup_id, {})
        writer.writerow([*_row(shot), *(of_setup.get(path, "") for path in more)])
    return Table(held.getvalue(), len(shots), unreadable)


def export_csv(logbook: Logbook, out: Path) -> Table:
    """Write all shots into a file, as UTF-8; return what was written. Raises WriteError."""
    table = csv_table(logbook)
    write_text(out, table.text, CSV)
    return table


def _values(setup: Setup) -> dict[str, Cell]:
    return {path: _cell(value) for path, value in leaves(setup) if path != "other"}


def _cell(value: Any) -> Cell:
    if value is None:
        return ""
    if isinstance(value, bool):
        return int(value)
    if isinstance(value, int | float):
        return value
    return not_a_formula(str(value) if isinstance(value, str) else json.dumps(value))


def _row(shot: ShotRecord) -> list[Cell]:
    pulses: list[Cell] = []
    for number in range(MAX_DROPS):
        if number < len(shot.sequence.drops):
            pulse = shot.sequence.drops[number]
            pulses += [pulse.start_us / 1000, pulse.open_us / 1000]
        else:
            pulses += ["", ""]
    return [
        shot.id,
        shot.at.isoformat(timespec="milliseconds"),
        not_a_formula(shot.sitting),
        shot.state.value,
        shot.bench.value,
        *pulses,
        shot.sequence.flash_us / 1000,
        not_a_formula(";".join(shot.shapes)),
        shot.rating,
        not_a_formula(shot.note),
        not_a_formula(str(shot.picture or "")),
        shot.setup_id,
        shot.belief_id,
        "" if shot.head_m is None else round(shot.head_m * 1000, 1),
        "" if shot.flash_report_us is None else shot.flash_report_us / 1000,
        not_a_formula(shot.report),
    ]


def not_a_formula(text: str) -> str:
    """Guard a text: a spreadsheet must not run what somebody typed, wherever white space hides its first sign.

    What no table can hold, parts of characters in a file's name, is written as a question mark.
    """
    whole = text.encode("utf-8", "replace").decode("utf-8").replace("\0", "?")
    begins = whole.lstrip()
    return f"'{whole}" if begins.startswith(FORMULA_SIGNS) or whole[:1] in ("\t", "\r", "\n") else whole
