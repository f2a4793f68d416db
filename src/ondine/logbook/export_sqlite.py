"""The log as a plain SQLite file for those who compute: its tables say themselves what their columns are."""

from __future__ import annotations

import json
import sqlite3
from contextlib import closing
from pathlib import Path

from ondine.logbook.exchange_columns import FIGURE_COLUMNS, FIGURES, SAID_COLUMNS, SHOT_COLUMNS, Column
from ondine.logbook.export import Ids, all_ids
from ondine.logbook.parts import scratch_folder
from ondine.logbook.records import ShotRecord
from ondine.logbook.store import Logbook
from ondine.logbook.writing import Kind, WriteError, check_target, write_whole

SQLITE = Kind("SQLite file", (".sqlite", ".db"), b"SQLite format 3\0")
APPLICATION_ID = 0x4F6E5378
"""Told apart from other files of this kind by it ("OnSx"): no other is written over."""

_LEFT = ("shapes", "labels", "flash_reports_ms")
_NUMBERS = ("shot", "rating", "keeper")
_SHOT = (*(c for c in (*SHOT_COLUMNS, *SAID_COLUMNS) if c.name not in _LEFT), *FIGURE_COLUMNS)
_PARTS = {
    "drops": (
        Column("shot", "", "Number of the shot"),
        Column("number", "", "Which drop, from 1"),
        Column("start_ms", "ms", "When the valve opens, from the trigger"),
        Column("open_ms", "ms", "How long it stays open"),
        Column("valve", "", "Which valve, from 1"),
    ),
    "flashes": (
        Column("shot", "", "Number of the shot"),
        Column("number", "", "Which flash, from 1"),
        Column("at_ms", "ms", "When it is fired, from the trigger"),
        Column("output", "", "Which output of the controller, from 1"),
        Column("reported_ms", "ms", "When the bench says that it fired"),
    ),
    "tags": (Column("shot", "", "Number of the shot"), Column("shape", "", "What the picture shows, by its key")),
    "labels": (Column("shot", "", "Number of the shot"), Column("word", "", "A word of the photographer's own")),
    "setups": (Column("revision", "", "Address of its content"), Column("content", "", "All of its fields, as JSON")),
}


def export_sqlite(logbook: Logbook, out: Path, shot_ids: Ids | None = None) -> int:
    """Write some shots, or all, oldest first; return how many. Raises WriteError."""
    _check_ours(check_target(out, SQLITE))
    shots = list(logbook.shots.each(all_ids(logbook) if shot_ids is None else shot_ids))
    with scratch_folder() as folder:
        made = folder / "log.sqlite"
        with closing(sqlite3.connect(made)) as connection, connection:
            _fill(connection, logbook, shots)
        content = made.read_bytes()
    write_whole(out, lambda file: file.write(content), SQLITE)
    return len(shots)


def _check_ours(place: Path) -> None:
    """Raise WriteError where a database lies that is none of these."""
    if place.exists() and place.stat().st_size:
        with open(place, "rb") as file:
            file.seek(68)
            if int.from_bytes(file.read(4), "big") != APPLICATION_ID:
                raise WriteError(
                    f"{place} is not written: the database that lies there was not written by this export. It was "
                    "left untouched: choose another name."
                )


def _fill(connection: sqlite3.Connection, logbook: Logbook, shots: list[ShotRecord]) -> None:
    connection.execute(f"PRAGMA application_id = {APPLICATION_ID}")
    tables = {"shots": _SHOT, **_PARTS}
    connection.execute("CREATE TABLE about (in_table TEXT, name TEXT, unit TEXT, says TEXT)")
    for table, columns in tables.items():
        connection.execute(f"CREATE TABLE {table} ({', '.join(_declared(table, column) for column in columns)})")
        connection.executemany(
            "INSERT INTO about VALUES (?, ?, ?, ?)", [(table, c.name, c.unit, c.says) for c in columns]
        )
    known = logbook.search.figures_of([shot.id for shot in shots])
    setups = logbook.setups.by_revision({shot.setup_id for shot in shots})

    def put(table: str, rows: list[tuple[object, ...]]) -> None:
        slots = ", ".join("?" for _ in tables[table])
        connection.executemany(f"INSERT INTO {table} VALUES ({slots})", rows)

    put("shots", [_shot_row(shot, figures) for shot, figures in zip(shots, known, strict=True)])
    put("drops", [
        (shot.id, n, pulse.start_us / 1e3, pulse.open_us / 1e3, pulse.valve + 1)
        for shot in shots for n, pulse in enumerate(shot.sequence.drops, start=1)
    ])  # fmt: skip
    put("flashes", [row for shot in shots for row in _flash_rows(shot)])
    put("tags", [(shot.id, shape) for shot in shots for shape in shot.shapes])
    put("labels", [(shot.id, _text(word)) for shot in shots for word in shot.labels])
    put("setups", [(revision, json.dumps(json.loads(setup.to_json()))) for revision, setup in sorted(setups.items())])


def _declared(table: str, column: Column) -> str:
    if (table, column.name) == ("shots", "shot"):
        return "shot INTEGER PRIMARY KEY"
    kind = "REAL" if column.unit or column in FIGURE_COLUMNS else "INTEGER" if column.name in _NUMBERS else "TEXT"
    if table != "shots" and column.name in ("shot", "number", "valve", "output"):
        kind = "INTEGER"
    return f"{column.name} {kind}"


def _shot_row(shot: ShotRecord, figures: dict[str, float]) -> tuple[object, ...]:
    return (
        shot.id, shot.at.isoformat(timespec="milliseconds"), _text(shot.sitting), shot.state.value, shot.bench.value,
        shot.rating, int(shot.keeper), _text(shot.note), None if shot.picture is None else _text(str(shot.picture)),
        shot.setup_id, shot.belief_id, None if shot.head_m is None else shot.head_m * 1e3, _text(shot.report),
        *(figures.get(quantity.key) for quantity in FIGURES),
    )  # fmt: skip


def _flash_rows(shot: ShotRecord) -> list[tuple[object, ...]]:
    reports = [us / 1e3 for us in shot.flash_reports_us or ()]
    return [
        (shot.id, n, flash.at_us / 1e3, flash.output + 1, reports[n - 1] if n <= len(reports) else None)
        for n, flash in enumerate(shot.sequence.flashes, start=1)
    ]


def _text(text: str) -> str:
    return text.encode("utf-8", "replace").decode("utf-8")
