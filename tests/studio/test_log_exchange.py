"""Shots leave the log and come into it, beside all else."""

import json
import sqlite3
from contextlib import closing
from datetime import UTC, datetime
from time import sleep

import pandas as pd
import pytest

from ondine.core.setup import BenchKind
from ondine.logbook.backup import backups
from ondine.logbook.bench_kind import KEY
from ondine.logbook.column_map import Meaning
from ondine.logbook.records import PastShot
from ondine.logbook.store import Logbook
from ondine.studio.events import LogbookNamed, Notice, Trouble
from ondine.studio.log_events import (
    ExchangeProgress,
    LogReplaced,
    ShotsFound,
    SittingTold,
    TableRead,
    TableUnderstood,
)
from ondine.studio.log_exchange import Form


@pytest.fixture
def fired(table):
    for _ in range(3):
        table.fire()
        table.settle()
    table.studio.log.tag_shots([2], "crown", on=True)
    table.studio.log.wait()
    return table


def said(table, kind: type) -> list[str]:
    table.studio.errands.wait()
    return [event.message for event in table.events if isinstance(event, kind)]


def test_shots_are_written_in_every_form(fired, tmp_path):
    exchange = fired.studio.log_exchange
    # By when they were fired, whatever their order in the sheet.
    exchange.write(Form.CSV, [3, 1], tmp_path / "a.csv")
    exchange.write(Form.JSON, [2], tmp_path / "a.json")
    exchange.write(Form.SQLITE, [1, 2, 3], tmp_path / "a.sqlite")
    assert [words.split(" ")[0] for words in said(fired, Notice)][-3:] == ["2", "1", "3"]
    assert pd.read_csv(tmp_path / "a.csv")["shot"].tolist() == [1, 3]
    assert json.loads((tmp_path / "a.json").read_text())["shots"][0]["shapes"] == ["crown"]
    with closing(sqlite3.connect(tmp_path / "a.sqlite")) as base:
        assert base.execute("SELECT count(*) FROM shots").fetchone() == (3,)
    exchange.write(Form.CSV, [1], tmp_path / "none" / "a.csv")
    exchange.write(Form.CSV, [1], tmp_path / "a.txt.exe")
    assert len(said(fired, Trouble)) == 2 and fired.events[-1] == ExchangeProgress("", 0, 0)


def test_a_part_of_the_logbook_becomes_a_new_one(fired, tmp_path):
    out = tmp_path / "part.ondine"
    fired.studio.writer.submit(fired.studio.writer.logbook.state.put, KEY, BenchKind.CABLE.value).result()
    fired.studio.log_exchange.write_logbook([2], out)
    assert "a logbook of 1 shot and 0 pictures" in said(fired, Notice)[-1]
    book = Logbook.open(out)
    assert [shot.shapes for shot in book.shots.newest(9)] == [("crown",)] and book.state.get(KEY) == BenchKind.CABLE
    book.close()
    before = out.read_bytes()
    fired.studio.log_exchange.write_logbook([1], out)
    assert "there already" in said(fired, Trouble)[-1] and out.read_bytes() == before


def test_what_was_said_just_before_is_in_what_is_written_and_copied(fired, tmp_path):
    writer = fired.studio.writer
    # A disk that takes its time.
    writer.submit(sleep, 0.3)
    fired.studio.log.tag_shots([1], "pillar", on=True)
    fired.studio.log_exchange.write(Form.JSON, [1], tmp_path / "a.json")
    fired.studio.backups.now()
    fired.studio.errands.wait()
    fired.studio.backups.close()
    assert json.loads((tmp_path / "a.json").read_text())["shots"][0]["shapes"] == ["pillar"]
    (copy,) = backups(fired.path)
    with closing(sqlite3.connect(copy.path)) as base:
        assert base.execute("SELECT count(*) FROM tag WHERE shot_id = 1").fetchone() == (1,)


def test_sidecars_and_what_could_not_be_are_told(fired):
    fired.studio.log_exchange.write_sidecars([1, 2, 3], "stem")
    assert said(fired, Notice)[-1].startswith("0 sidecars written, 3 shots without a picture.")


def test_a_sitting_is_told_whole(fired):
    fired.studio.log_exchange.tell_sitting(2)
    fired.studio.errands.wait()
    (told,) = [event.report for event in fired.events if isinstance(event, SittingTold)]
    assert [shot.id for shot in told.shots] == [1, 2, 3] and told.goal == "crown" and told.counts == (("crown", 1),)
    assert "fallen into the bowl" in [course.name for course in told.courses]


def test_a_table_is_read_understood_and_taken_in_with_a_copy_kept_first(fired, tmp_path):
    table, desk = tmp_path / "old.csv", fired.studio.table_desk
    rows = "\n".join(f"2026-04-01 19:{minute:02d};22;356;n{minute}" for minute in range(30))
    table.write_text(f"at;open;b;note\n{rows}\n")
    desk.read(table)
    fired.studio.errands.wait()
    (read,) = [event for event in fired.events if isinstance(event, TableRead)]
    assert set(read.meanings) == {"at", "open", "note"}
    desk.understand(read.meanings, None, fired.studio.composer.plan)
    fired.studio.errands.wait()
    assert "flash was fired" in [e for e in fired.events if isinstance(e, TableUnderstood)][-1].words
    desk.take_in()
    fired.studio.errands.wait()
    assert fired.studio.writer.logbook.shots.count() == 3
    desk.understand(read.meanings | {"b": Meaning("flash1")}, None, fired.studio.composer.plan)
    fired.studio.errands.wait()
    assert [e for e in fired.events if isinstance(e, TableUnderstood)][-1].words == "30 shots to take in."
    desk.take_in()
    assert said(fired, Notice)[-1] == "In the log: 30 shots of the table."
    assert fired.studio.writer.logbook.shots.count() == 33 and len(backups(fired.path)) == 1
    assert any(isinstance(event, LogReplaced) for event in fired.events)
    # Once is enough.
    desk.take_in()
    fired.studio.errands.wait()
    assert fired.studio.writer.logbook.shots.count() == 33
    fired.studio.search.find("sitting old flash 356")
    assert len(fired.heard(ShotsFound)[-1].ids) == 30


def test_a_table_that_is_none_is_a_sentence(fired, tmp_path):
    odd = tmp_path / "odd.csv"
    odd.write_bytes(b"\x89PNG\0\0")
    fired.studio.table_desk.read(odd)
    fired.studio.table_desk.read(tmp_path / "gone.csv")
    told = said(fired, Trouble)
    assert "no text" in told[-2] and "cannot be read" in told[-1]


def test_another_logbook_s_shots_come_in_while_this_one_is_open(fired, tmp_path):
    other = Logbook.open(tmp_path / "laptop.ondine")
    other.shots.add_history(
        [
            PastShot(
                "Away",
                datetime(2026, 5, 9, tzinfo=UTC),
                fired.studio.composer.plan,
                ("ripples",),
                bench=BenchKind.BY_HAND,
            )
        ]
    )
    other.close()
    fired.studio.search.find("ripples")
    fired.heard(ShotsFound)
    fired.studio.log_exchange.merge(tmp_path / "laptop.ondine")
    assert "1 shot came" in said(fired, Notice)[-1]
    fired.studio.search.find("ripples")
    assert len(fired.heard(ShotsFound, 2)[-1].ids) == 1
    fired.studio.log_exchange.merge(fired.path)
    fired.studio.log_exchange.merge(tmp_path / "gone.ondine")
    told = said(fired, Trouble)
    assert "open" in told[-2] and "no logbook" in told[-1]


def test_practice_and_table_do_not_mix(fired, tmp_path):
    fired.studio.writer.submit(fired.studio.writer.logbook.state.put, KEY, BenchKind.CABLE.value).result()
    other = Logbook.open(tmp_path / "practice.ondine")
    other.state.put(KEY, BenchKind.SIMULATED.value)
    other.close()
    fired.studio.log_exchange.merge(tmp_path / "practice.ondine")
    assert "do not mix" in said(fired, Trouble)[-1]


def test_a_copy_is_opened_as_a_logbook_of_its_own(fired):
    fired.studio.backups.now()
    fired.heard(Notice)
    (copy,) = backups(fired.path)
    assert fired.studio.backups.folder == copy.path.parent
    for _ in range(2):
        fired.studio.log_exchange.open_copy(copy.path)
        fired.studio.errands.wait()
    named = [event.path for event in fired.events if isinstance(event, LogbookNamed)]
    assert len(set(named)) == 1 and named[0].parent == fired.path.parent
    book = Logbook.open(named[0])
    assert book.shots.count() == 3
    book.close()


def test_it_ends_with_the_program_in_the_midst(fired, tmp_path):
    exchange = fired.studio.log_exchange
    for n in range(20):
        exchange.write(Form.CSV, [1, 2, 3], tmp_path / f"{n}.csv")
    fired.studio.errands.close()
    exchange.write(Form.CSV, [1], tmp_path / "late.csv")
    assert not (tmp_path / "late.csv").exists() and not list(tmp_path.glob("*.part"))
