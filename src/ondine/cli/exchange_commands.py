"""What the shell can ask for that leaves a logbook or comes into it: tables, JSON, databases, sidecars."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path
from typing import Any

from ondine.cli.log_commands import FAILED, OK, asked, complain, counting, had_enough
from ondine.core.numbers import counted


def add_parsers(commands: Any) -> None:
    """Add the commands of this module."""
    out = commands.add_parser("export", help="write the log as a table")
    out.add_argument("logbook", type=Path)
    out.add_argument("query", nargs="?", default="", help="which shots, as for find; all by default")
    how = out.add_mutually_exclusive_group(required=True)
    how.add_argument("--csv", type=Path, metavar="OUT", help="a table, into a file, or - for standard output")
    how.add_argument("--json", type=Path, metavar="OUT", help="with the set-ups, as the published schema has it")
    how.add_argument("--sqlite", type=Path, metavar="OUT", help="as tables of a database, to compute with")
    out.add_argument("--to", metavar="CONVENTION", help="tell the times so as well: start to start, for example")
    aside = commands.add_parser("xmp", help="write what the log says into XMP sidecars beside the pictures")
    aside.add_argument("logbook", type=Path)
    aside.add_argument("query", nargs="?", default="", help="which shots, as for find; all by default")
    aside.add_argument("--names", choices=("stem", "full"), default="stem", help="IMG_1.xmp, or IMG_1.dng.xmp")
    aside.add_argument("--to", type=Path, metavar="FOLDER", help="one folder for all, instead of each picture's own")
    aside.add_argument("--json", action="store_true")
    take = commands.add_parser("import-table", help="take in shots from a table that others wrote")
    take.add_argument("logbook", type=Path)
    take.add_argument("table", type=Path)
    take.add_argument(
        "--map", action="append", default=[], metavar="FIELD=COLUMN[,UNIT]",
        help="what a column means, where its name does not tell: flash1=Flash delay,s; aside=COLUMN for none",
    )  # fmt: skip
    take.add_argument("--dates", choices=("day-first", "month-first"), help="how dates of numbers alone are meant")
    take.add_argument("--json", action="store_true")
    take.add_argument("--apply", action="store_true", help="take the shots in; without it nothing is written")
    tell = commands.add_parser("report", help="write the report of a sitting, with pictures and charts")
    tell.add_argument("logbook", type=Path)
    tell.add_argument("--pdf", type=Path, required=True, metavar="OUT")
    tell.add_argument("--sitting", default="", help="its number or name; the last one by default")


def export(parsed: argparse.Namespace) -> int:
    """Write the shots that fit as a table, as JSON or as a database."""
    from ondine.core.timing.notation import NotationError, read_convention
    from ondine.logbook.errors import LogbookError
    from ondine.logbook.export import csv_table, export_csv
    from ondine.logbook.export_json import export_json
    from ondine.logbook.export_sqlite import SQLITE, export_sqlite
    from ondine.logbook.query import Order
    from ondine.logbook.query_line import QueryError
    from ondine.logbook.writing import CSV, JSON, WriteError, check_target

    to_stdout = str(parsed.csv) == "-"
    out, kind = next(
        (path, kind) for path, kind in ((parsed.csv, CSV), (parsed.json, JSON), (parsed.sqlite, SQLITE)) if path
    )
    try:
        convention = read_convention(parsed.to)[0] if parsed.to else None
        if not to_stdout:
            # Before anything is read: a slip in the name shall cost nothing.
            check_target(out, kind)
        unreadable = 0
        with asked(parsed.logbook, parsed.query) as (logbook, query):
            ids = logbook.search.ids(query, Order.OLDEST).tolist()
            if kind is CSV:
                table = csv_table(logbook, convention, ids) if to_stdout else export_csv(logbook, out, convention, ids)
                shots, unreadable = table.shots, table.unreadable
                if to_stdout:
                    sys.stdout.buffer.write(table.text.encode("utf-8"))
                    sys.stdout.buffer.flush()
            else:
                shots = export_json(logbook, out, ids) if kind is JSON else export_sqlite(logbook, out, ids)
        if not to_stdout:
            print(f"{counted(shots, 'shot')} written to {out}")
        _tell_unreadable(unreadable)
    except BrokenPipeError:
        return had_enough()
    except (LogbookError, WriteError, NotationError, QueryError) as error:
        return complain(error)
    return OK


def _tell_unreadable(shots: int) -> None:
    from ondine.logbook.errors import RESCUE

    if shots:
        print(f"{counted(shots, 'shot')} cannot be read: left out. {RESCUE}", file=sys.stderr)


def xmp(parsed: argparse.Namespace) -> int:
    """Write sidecars beside the pictures of the shots that fit."""
    from ondine.logbook.errors import LogbookError
    from ondine.logbook.query import Order
    from ondine.logbook.query_line import QueryError
    from ondine.logbook.xmp import Naming, write_sidecars

    if parsed.to is not None and not parsed.to.is_dir():
        return complain(f"{parsed.to} is no folder. Make it first, then start again.")
    try:
        with asked(parsed.logbook, parsed.query) as (logbook, query), counting("Writing") as count:
            ids = logbook.search.ids(query, Order.OLDEST).tolist()
            done = write_sidecars(logbook, ids, Naming(parsed.names), parsed.to, count)
    except (LogbookError, QueryError) as error:
        return complain(error)
    if parsed.json:
        told = {
            "format": "ondine-sidecars", "version": 1, "written": [str(path) for path in done.written],
            "unchanged": done.unchanged, "without_picture": done.without_picture, "kept": done.kept,
            "refused": done.refused,
        }  # fmt: skip
        print(json.dumps(told, indent=2))
    else:
        for words in done.kept:
            print(words)
        print(done.words)
    for words in done.refused:
        print(words, file=sys.stderr)
    return FAILED if done.refused else OK


# A sitting


def report(parsed: argparse.Namespace) -> int:
    """Write the report of a sitting."""
    import os

    from ondine.logbook.errors import LogbookError
    from ondine.logbook.writing import WriteError
    from ondine.studio.sitting_report import report_of, sitting_named

    # Nothing is shown: a display, where there is one, is left alone.
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from ondine.ui.log.report_pdf import write_report
    from ondine.ui.shell.app import application

    try:
        with asked(parsed.logbook, "") as (logbook, _):
            found = report_of(logbook, sitting_named(logbook, parsed.sitting))
        application()
        with counting("Drawing") as count:
            write_report(found, parsed.pdf, count)
    except (LogbookError, WriteError) as error:
        return complain(error)
    print(f"{found.sitting.name}, {counted(len(found.shots), 'shot')}, written to {parsed.pdf}")
    return OK


# A table of others


def import_table(parsed: argparse.Namespace) -> int:
    """Say what a table of others comes to, and take it in if told to."""
    from ondine.logbook.column_map import guess
    from ondine.logbook.errors import LogbookError
    from ondine.logbook.foreign_table import TableError, read_table
    from ondine.logbook.import_table import ASIDE, Dates, meaning_of, read_shots
    from ondine.studio.table_import import known_shots, plan_of, take_in

    try:
        table = read_table(parsed.table)
        told = dict(meaning_of(text) for text in parsed.map)
        fields = {meaning.field for meaning in told.values()}
        meanings = {column: m for column, m in guess(table.columns).items() if m.field not in fields} | told
        meanings = {column: meaning for column, meaning in meanings.items() if meaning.field != ASIDE}
        dates = None if parsed.dates is None else Dates(parsed.dates.replace("-", " "))
        with asked(parsed.logbook, "") as (logbook, _):
            found = read_shots(
                table, meanings, plan_of(logbook), logbook.shapes.all(), known_shots(logbook), dates,
                sitting=parsed.table.stem,
            )  # fmt: skip
        if parsed.json:
            columns = {column: meaning.field for column, meaning in meanings.items()}
            told_json = {
                "format": "ondine-table-import", "version": 1, "encoding": table.encoding,
                "separator": table.separator, "columns": columns, "shots": len(found.shots), "known": found.known,
                "left_out": list(found.left_out), "applied": parsed.apply,
            }  # fmt: skip
            print(json.dumps(told_json, indent=2))
        else:
            print(f"Read as {table.words}.")
            print("\n".join(f"{column}: {meaning.field}" for column, meaning in meanings.items()))
            print("\n".join((*found.left_out, found.words)))
        if parsed.apply and found.shots:
            kept = take_in(parsed.logbook, found.shots)
            was = f"What {parsed.logbook} was before is kept as {kept}."
            print(f"{counted(len(found.shots), 'shot')} taken in. {was}", file=sys.stderr)
    except (LogbookError, TableError) as error:
        return complain(error)
    return FAILED if found.left_out else OK


COMMANDS = {"export": export, "xmp": xmp, "report": report, "import-table": import_table}
