"""The log as a table that spreadsheets and programs read."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ondine.core.log.quantities import Quantity
from ondine.core.setup import Setup
from ondine.core.setup.fields import leaves
from ondine.core.timing.conventions import Convention
from ondine.logbook.exchange_columns import (
    CAMERA_COLUMNS,
    DROP_COLUMNS,
    FIGURE_COLUMNS,
    FIGURES,
    FLASH_COLUMNS,
    SAID_COLUMNS,
    SHOT_COLUMNS,
)
from ondine.logbook.query import EVERYTHING, Order
from ondine.logbook.records import ShotRecord
from ondine.logbook.store import Logbook
from ondine.logbook.told import Cell, Telling
from ondine.logbook.writing import CSV, write_text

BEFORE = tuple(column.name for column in SHOT_COLUMNS)
CAMERA = tuple(column.name for column in CAMERA_COLUMNS)
AFTER = tuple(column.name for column in (*SAID_COLUMNS, *FIGURE_COLUMNS))

FORMULA_SIGNS = ("=", "+", "-", "@", "＝", "＋", "－", "＠")
"""What a spreadsheet may take for the start of a formula, full-width forms included (OWASP, CSV Injection)."""


Ids = Sequence[int]


def all_ids(logbook: Logbook) -> list[int]:
    """Return the numbers of all shots that are in no bin, oldest first."""
    return [int(number) for number in logbook.search.ids(EVERYTHING, Order.OLDEST)]


@dataclass(frozen=True)
class Table:
    """The log as CSV (RFC 4180): its text, how many shots are in it, and how many could not be read."""

    text: str
    shots: int
    unreadable: int


def csv_table(logbook: Logbook, convention: Convention | None = None, shot_ids: Ids | None = None) -> Table:
    """Return some shots in their order, or all, oldest first.

    After the shot's own columns and its figures come the values of its set-up, by path.

    Times are counted from the trigger; with a convention, more columns tell them so as well.
    """
    ids = all_ids(logbook) if shot_ids is None else shot_ids
    shots = list(logbook.shots.each(ids))
    setups = logbook.setups.by_revision({shot.setup_id for shot in shots})
    values = {revision: _values(setup) for revision, setup in setups.items()}
    more = list(dict.fromkeys(path for of_setup in values.values() for path in of_setup))
    most = _Most.of(shots)
    telling = None
    if convention is not None:
        telling = Telling(convention, setups, logbook.setups.beliefs({shot.belief_id for shot in shots}))
    told = [] if telling is None else telling.columns(most.drops, most.flashes)
    held = io.StringIO(newline="")
    writer = csv.writer(held)
    writer.writerow([*most.columns, *told, *(f"setup.{path}" for path in more)])
    known = logbook.search.figures_of([shot.id for shot in shots])
    for shot, figures in zip(shots, known, strict=True):
        of_setup = values.get(shot.setup_id, {})
        told_cells = [] if telling is None else telling.row(shot, most.drops, most.flashes)
        own = (rounded(figures.get(quantity.key), quantity) for quantity in FIGURES)
        writer.writerow([*_row(shot, most), *own, *told_cells, *(of_setup.get(path, "") for path in more)])
    return Table(held.getvalue(), len(shots), len(ids) - len(shots))


def export_csv(logbook: Logbook, out: Path, convention: Convention | None = None, shot_ids: Ids | None = None) -> Table:
    """Write some shots, or all, into a file, as UTF-8; return what was written. Raises WriteError."""
    table = csv_table(logbook, convention, shot_ids)
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


@dataclass(frozen=True)
class _Most:
    """The most drops and flashes of any shot: so many columns there are."""

    drops: int
    flashes: int

    @staticmethod
    def of(shots: list[ShotRecord]) -> _Most:
        return _Most(
            max((len(shot.sequence.drops) for shot in shots), default=1),
            max((len(shot.sequence.flashes) for shot in shots), default=1),
        )

    @property
    def columns(self) -> list[str]:
        drops = [column.name.replace("#", str(n + 1)) for n in range(self.drops) for column in DROP_COLUMNS]
        flashes = [column.name.replace("#", str(n + 1)) for n in range(self.flashes) for column in FLASH_COLUMNS]
        return [*BEFORE, *drops, *flashes, *CAMERA, *AFTER]


def _row(shot: ShotRecord, most: _Most) -> list[Cell]:
    """One line; valves and outputs count from 1, as people count them."""
    pulses: list[Cell] = []
    for pulse in shot.sequence.drops:
        pulses += [pulse.start_us / 1000, pulse.open_us / 1000, pulse.valve + 1]
    lights: list[Cell] = []
    for flash in shot.sequence.flashes:
        lights += [flash.at_us / 1000, flash.output + 1]
    camera = shot.sequence.camera
    return [
        shot.id,
        shot.at.isoformat(timespec="milliseconds"),
        not_a_formula(shot.sitting),
        shot.state.value,
        shot.bench.value,
        *pulses,
        *[""] * (3 * most.drops - len(pulses)),
        *lights,
        *[""] * (2 * most.flashes - len(lights)),
        *("" if us is None else us / 1000 for us in (camera.opens_us, camera.mirror_us, camera.half_press_us)),
        not_a_formula(";".join(shot.shapes)),
        shot.rating,
        int(shot.keeper),
        not_a_formula(";".join(shot.labels)),
        not_a_formula(shot.note),
        not_a_formula(str(shot.picture or "")),
        shot.setup_id,
        shot.belief_id,
        "" if shot.head_m is None else round(shot.head_m * 1000, 1),
        ";".join(f"{us / 1000:g}" for us in shot.flash_reports_us or ()),
        not_a_formula(shot.report),
    ]


def rounded(value: float | None, quantity: Quantity) -> Cell:
    """Return a figure with a decimal more than is shown, nothing where a shot lacks it."""
    return "" if value is None else round(value, quantity.decimals + 1)


def not_a_formula(text: str) -> str:
    """Guard a text: a spreadsheet must not run what somebody typed, wherever white space hides its first sign.

    What no table can hold, parts of characters in a file's name, is written as a question mark.
    """
    whole = text.encode("utf-8", "replace").decode("utf-8").replace("\0", "?")
    begins = whole.lstrip()
    return f"'{whole}" if begins.startswith(FORMULA_SIGNS) or whole[:1] in ("\t", "\r", "\n") else whole
