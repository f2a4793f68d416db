"""The log as a table: RFC 4180, nothing in it that a spreadsheet would run, every value of the set-up a column."""

import csv
import io
import sqlite3
import subprocess
import sys
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest

from ondine.core.belief.priors import Belief
from ondine.core.forecast.landmarks import predicts_for
from ondine.core.forecast.plan import Plan
from ondine.core.setup import BenchKind, Counts
from ondine.core.setup.fields import leaves
from ondine.core.timing.conventions import Convention, LightFrom
from ondine.core.timing.sequence import CameraTimes, FlashPulse, Pulse, Sequence
from ondine.demo.scenario import START, TIDAL_MILL
from ondine.logbook.export import AFTER, BEFORE, CAMERA, csv_table, export_csv, not_a_formula
from ondine.logbook.reading import reading
from ondine.logbook.records import PastShot
from ondine.logbook.store import Logbook
from ondine.logbook.writing import WriteError

AT = datetime(2026, 5, 9, 12, 0, tzinfo=UTC)


def rows_of(text: str) -> list[dict[str, str]]:
    return list(csv.DictReader(io.StringIO(text, newline="")))


def test_the_log_as_a_table(logbook, tmp_path):
    logbook.shots.add_history(
        [
            PastShot("Evening", AT, Plan(START, TIDAL_MILL), ("crown", "off-axis"), 3, 'said "yes", twice\nand more'),
            PastShot(
                "Evening", AT, Plan(Sequence.with_one_flash((Pulse(0, 20_000),), 300_000), TIDAL_MILL), note="plain"
            ),
        ]
    )
    out = tmp_path / "log.csv"
    assert export_csv(logbook, out).shots == 2
    rows = rows_of(out.read_bytes().decode("utf-8"))
    drops = [f"drop{n}_{what}" for n in (1, 2) for what in ("start_ms", "open_ms", "valve")]
    own = [*BEFORE, *drops, "flash1_ms", "flash1_output", *CAMERA, *AFTER]
    assert list(rows[0])[: len(own)] == own
    assert rows[0]["drop2_start_ms"] == "95.0" and rows[0]["flash1_ms"] == "356.0" and rows[0]["drop2_valve"] == "1"
    assert rows[0]["shapes"] == "crown;off-axis" and rows[0]["note"] == 'said "yes", twice\nand more'
    assert rows[1]["drop2_start_ms"] == ""


def test_there_are_as_many_columns_as_any_shot_needs(logbook):
    many = Sequence(
        (*START.drops, Pulse(200_000, 9_000, 2)), (FlashPulse(300_000), FlashPulse(310_500, 3)), CameraTimes(50_000)
    )
    logbook.shots.add_history([PastShot("E", AT, Plan(sequence, TIDAL_MILL)) for sequence in (START, many)])
    few, all_of_it = rows_of(csv_table(logbook).text)
    assert few["drop3_valve"] == few["flash2_ms"] == few["shutter_opens_ms"] == ""
    assert (all_of_it["drop3_open_ms"], all_of_it["drop3_valve"]) == ("9.0", "3")
    assert (all_of_it["flash2_ms"], all_of_it["flash2_output"]) == ("310.5", "4")
    assert all_of_it["shutter_opens_ms"] == "50.0"


def test_every_value_of_the_set_up_is_a_column(logbook):
    logbook.shots.add_history([PastShot("Evening", AT, Plan(START, TIDAL_MILL))])
    (row,) = rows_of(csv_table(logbook).text)
    assert float(row["setup.valves.0.nozzle_height_m"]) == TIDAL_MILL.valves[0].nozzle_height_m
    assert row["setup.light.units.1.name"] == TIDAL_MILL.light.units[1].name
    assert {name for name in row if name.startswith("setup.")} == {
        f"setup.{path}" for path, _ in leaves(TIDAL_MILL) if path != "other"
    }


@pytest.mark.parametrize("text", ["=1+1", "+1", "-1", "@SUM(A1)", "\t=1", "\r=1", "\n=1", "  =1", "＝1", "\u00a0=1"])
def test_no_text_is_taken_for_a_formula(text):
    assert not_a_formula(text) == f"'{text}"


def test_a_formula_is_guarded_wherever_somebody_can_type_one(logbook, tmp_path):
    evil = "=HYPERLINK(1)"
    past = PastShot(evil, AT, Plan(START, TIDAL_MILL), note=evil)
    logbook.shots.add_history([past])
    with sqlite3.connect(logbook.path) as raw:
        raw.execute(
            "INSERT INTO picture (shot_id, path, sha256, width_px, height_px, arrived_at) VALUES (1, ?, 'a', 1, 1, '2026-05-09 12:00:00')",
            (evil,),
        )
        raw.execute("UPDATE shot SET report = ?", (evil,))
        raw.execute("INSERT INTO tag VALUES (1, ?)", (evil,))
    raw.close()
    (row,) = rows_of(csv_table(logbook).text)
    assert {row[name] for name in ("sitting", "note", "picture", "report", "shapes")} == {f"'{evil}"}


def test_a_name_that_is_no_text_is_written_all_the_same(logbook, tmp_path):
    assert not_a_formula("a\udcffb\0") == "a?b?"


def test_a_table_that_cannot_be_written(logbook, tmp_path):
    with pytest.raises(WriteError, match="cannot be written"):
        export_csv(logbook, tmp_path / "none" / "log.csv")


def test_rows_that_cannot_be_read_are_counted_and_the_rest_is_there(logbook):
    logbook.shots.add_history([PastShot("s", AT + timedelta(seconds=n), Plan(START, TIDAL_MILL)) for n in range(4)])
    with sqlite3.connect(logbook.path) as raw:
        raw.execute("UPDATE shot SET sequence = '{' WHERE id = 2")
        raw.execute("UPDATE shot SET state = 'burnt' WHERE id = 3")
        raw.execute("UPDATE setup_revision SET content = replace(content, 'valves', 'valvs[')")
    raw.close()
    table = csv_table(logbook)
    assert (table.shots, table.unreadable) == (2, 2)
    assert [row["shot"] for row in rows_of(table.text)] == ["1", "4"]


def test_reading_works_beside_an_open_window_and_sees_its_last_shot(logbook):
    logbook.shots.add_history([PastShot("s", AT, Plan(START, TIDAL_MILL))])
    with reading(logbook.path) as copy:
        assert copy.shots.count() == 1
    assert logbook.shots.count() == 1


def beside(path: Path) -> dict[str, bytes]:
    return {file.name: file.read_bytes() for file in path.parent.iterdir() if file.is_file()}


def test_reading_changes_nothing_in_the_folder_even_of_an_older_logbook(tmp_path):
    old = tmp_path / "old.ondine"
    old.write_bytes((Path(__file__).parents[1] / "data" / "logbook-v2.ondine").read_bytes())
    before = beside(old)
    with reading(old) as copy:
        assert copy.shots.count() == 7
    assert beside(old) == before


def test_reading_on_media_that_cannot_be_written(tmp_path, monkeypatch):
    # Root may write anywhere: nothing may even be tried in that folder.
    place = tmp_path / "media"
    place.mkdir()
    Logbook.open(place / "log.ondine").close()
    before = beside(place / "log.ondine")
    place.chmod(0o555)
    try:
        with reading(place / "log.ondine") as copy:
            assert copy.shots.count() == 0
    finally:
        place.chmod(0o755)
    assert beside(place / "log.ondine") == before


def test_reading_what_a_crash_left_changes_nothing_and_sees_the_last_change(tmp_path):
    book = tmp_path / "log.ondine"
    Logbook.open(book).close()
    script = (
        "import os, signal, sqlite3, sys\n"
        "book = sqlite3.connect(sys.argv[1], isolation_level=None)\n"
        "book.execute(\"INSERT INTO state VALUES ('theme', 'day')\")\n"
        "os.kill(os.getpid(), signal.SIGKILL)\n"
    )
    subprocess.run([sys.executable, "-c", script, str(book)], check=False)
    for with_shm in (True, False):
        if not with_shm:
            (tmp_path / "log.ondine-shm").unlink()
        before = {name: content for name, content in beside(book).items() if not name.endswith("-shm")}
        with reading(book) as copy:
            assert copy.state.get("theme") == "day"
        after = beside(book)
        assert ("log.ondine-shm" in after) == with_shm
        assert {name: content for name, content in after.items() if not name.endswith("-shm")} == before


def test_simulated_shots_say_so_and_so_do_the_others(logbook):
    kinds = (BenchKind.SIMULATED, BenchKind.BY_HAND, BenchKind.UNKNOWN)
    plan = Plan(START, TIDAL_MILL)
    logbook.shots.add_history([PastShot("Evening", AT, plan, bench=kind) for kind in kinds])
    assert [row["bench"] for row in rows_of(csv_table(logbook).text)] == ["simulated", "by hand", "unknown"]


def test_times_are_told_in_another_convention_as_well(logbook):
    one = Sequence.with_one_flash((Pulse(0, 20_000),), 300_000)
    logbook.shots.add_history([PastShot("E", AT, Plan(sequence, TIDAL_MILL)) for sequence in (START, one)])
    convention = Convention(Counts.CLOSING_TO_OPENING, LightFrom.MEETING)
    pair, single = rows_of(csv_table(logbook, convention).text)
    assert pair["counted"] == "closing to opening, flash from the predicted meeting"
    assert (pair["drop1_wait_ms"], pair["drop2_wait_ms"]) == ("0.0", "73.0") and pair["drop2_start_ms"] == "95.0"
    meeting_us = predicts_for(TIDAL_MILL, Belief())(START.drops).meeting_us
    assert float(pair["flash1_delay_ms"]) == (START.first_flash_us - meeting_us) / 1000
    # Nothing meets there: its delay is left open, its time from the trigger stands.
    assert single["flash1_delay_ms"] == single["drop2_wait_ms"] == "" and single["flash1_ms"] == "300.0"
