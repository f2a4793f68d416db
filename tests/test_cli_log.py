"""The log from a shell: its words, its exit codes, and that what is read by other programs can be."""

import csv
import io
import json
import os
import shutil
import sqlite3
from contextlib import closing
from dataclasses import replace
from datetime import UTC, datetime, timedelta

import numpy as np
import pandas as pd
import pytest

from ondine.cli import main
from ondine.core.forecast.plan import Plan
from ondine.core.setup import BenchKind
from ondine.logbook.intake import read_picture
from ondine.logbook.records import PastShot
from ondine.logbook.store import Logbook
from tests.calibrated import IN_HAND
from tests.cards import card

BEGAN = datetime(2026, 5, 9, 18, 0, 0, tzinfo=UTC)


@pytest.fixture
def log(tmp_path):
    path = tmp_path / "log.ondine"
    book = Logbook.open(path)
    gaps = np.random.default_rng(2).uniform(15, 60, 12)
    times = [BEGAN + timedelta(seconds=float(s)) for s in np.cumsum(gaps)]
    book.shots.add_history(
        PastShot("Evening", at, IN_HAND, ("crown",) if n % 2 else (), n % 6, f"note {n}", bench=BenchKind.BY_HAND)
        for n, at in enumerate(times)
    )
    book.state.put("bench", "by hand")
    book.close()
    return path, times


def test_find_prints_a_line_for_each_shot(log, capsys):
    assert main(["find", str(log[0]), "crown rating>=3"]) == 0
    lines = capsys.readouterr().out.splitlines()
    assert [int(line.split()[0]) for line in lines] == [12, 10, 6, 4]
    assert "crown" in lines[0] and "note 11" in lines[0] and lines[0].count("*") == 5


def test_find_as_json_is_one_object_a_line(log, capsys):
    assert main(["find", str(log[0]), "crown", "--json"]) == 0
    shots = [json.loads(line) for line in capsys.readouterr().out.splitlines()]
    assert (
        len(shots) == 6 and shots[0]["flashes"] == [{"at_ms": 356.0, "output": 1}] and shots[0]["shapes"] == ["crown"]
    )
    assert pd.DataFrame(shots)["rating"].tolist() == [5, 3, 1, 5, 3, 1]


def test_find_as_csv_is_read_by_pandas(log, capsysbinary):
    assert main(["find", str(log[0]), "not crown", "--csv"]) == 0
    table = pd.read_csv(io.BytesIO(capsysbinary.readouterr().out))
    assert table["shot"].tolist() == [1, 3, 5, 7, 9, 11] and set(table["drop1_open_ms"]) == {22.0}


def test_what_cannot_be_understood_is_said(log, capsys):
    assert main(["find", str(log[0]), "rating>="]) == 2
    assert "no number" in capsys.readouterr().err
    assert main(["find", str(log[0].with_name("none.ondine")), ""]) == 2
    assert "no logbook" in capsys.readouterr().err


def test_match_tells_and_apply_takes_in(log, tmp_path, capsys):
    path, times = log
    card(tmp_path / "card", times, timedelta(hours=-5, seconds=12))
    assert main(["match", str(path), str(tmp_path / "card")]) == 0
    told = capsys.readouterr().out
    assert "behind the log's in UTC" in told and "IMG_0003.JPG: shot 3" in told
    assert "11 sure, 1 doubtful, 0 pictures without a shot, 0 shots without a picture" in told
    assert main(["match", str(path), str(tmp_path / "card"), "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert found["clocks"][0]["offset_s"] == pytest.approx(-5 * 3600 + 12, abs=0.6) and len(found["pairs"]) == 11
    assert main(["match", str(path), str(tmp_path / "card"), "--apply"]) == 0
    assert "11 pictures taken in, 1 more as questions" in capsys.readouterr().err
    assert main(["match", str(path), str(tmp_path / "card")]) == 0
    assert "in the log already" in capsys.readouterr().out
    assert main(["find", str(path), "without picture"]) == 0
    assert capsys.readouterr().out == ""


def test_one_left_over_is_not_told_as_several(log, tmp_path, capsys):
    path, times = log
    card(tmp_path / "card", times[1:], timedelta(0))
    assert main(["match", str(path), str(tmp_path / "card")]) == 0
    assert "1 shot without a picture." in capsys.readouterr().out


def test_match_names_a_folder_that_is_not_there(log, tmp_path, capsys):
    assert main(["match", str(log[0]), str(tmp_path / "none")]) == 2
    assert "cannot be read" in capsys.readouterr().err


def test_backup_and_restore(log, capsys):
    path = log[0]
    assert main(["backup", str(path)]) == 0
    copy = capsys.readouterr().out.strip().split(": ")[1]
    book = Logbook.open(path)
    book.shots.annotate(1, "spoilt")
    book.close()
    assert main(["backup", str(path), "--restore", copy]) == 0
    book = Logbook.open(path)
    assert book.shots.get(1).note == "note 0"
    book.close()
    assert main(["backup", str(path.with_name("none.ondine"))]) == 2


def test_merge_brings_what_is_missing_and_refuses_what_does_not_mix(log, tmp_path, capsys):
    path = log[0]
    other = tmp_path / "other.ondine"
    book = Logbook.open(other)
    laptop = PastShot(
        "Laptop", BEGAN - timedelta(days=1), Plan(IN_HAND.sequence, IN_HAND.setup), bench=BenchKind.BY_HAND
    )
    book.shots.add_history([laptop])
    book.close()
    assert main(["merge", str(path), str(other)]) == 0
    assert "1 shot came" in capsys.readouterr().out
    os.link(path, tmp_path / "linked.ondine")
    for same in (path, tmp_path / "linked.ondine"):
        assert main(["merge", str(path), str(same)]) == 2
        assert "Both are the same" in capsys.readouterr().err
    for bench, says in ((BenchKind.UNKNOWN, "answer what opens the valve"), (BenchKind.SIMULATED, "do not mix")):
        unlike = Logbook.open(tmp_path / f"{bench}.ondine")
        unlike.shots.add_history([replace(laptop, bench=bench)])
        unlike.close()
        assert main(["merge", str(path), str(unlike.path)]) == 2
        assert says in capsys.readouterr().err
    book = Logbook.open(path)
    assert book.shots.count() == 13
    book.close()


def test_merging_into_a_hard_link_of_an_open_logbook_writes_nothing(log, tmp_path, capsys):
    """Of before: 300 shots went beside the link's name, where the open logbook never saw them."""
    path, other, link = log[0], tmp_path / "other.ondine", tmp_path / "linked.ondine"
    shutil.copyfile(path, other)
    book = Logbook.open(path)
    os.link(path, link)
    before = path.read_bytes()
    assert main(["merge", str(link), str(other)]) == 2
    assert str(path) in capsys.readouterr().err
    assert path.read_bytes() == before and not link.with_name("linked.ondine-wal").exists()
    book.close()


def test_a_table_of_the_csv_module_has_one_row_a_shot(log, capsysbinary):
    main(["find", str(log[0]), "", "--csv"])
    rows = list(csv.DictReader(io.StringIO(capsysbinary.readouterr().out.decode())))
    assert len(rows) == 12 and {row["bench"] for row in rows} == {"by hand"}


def test_the_log_is_written_as_json_and_as_a_database(log, tmp_path, capsys):
    out, base = tmp_path / "log.json", tmp_path / "log.sqlite"
    assert main(["export", str(log[0]), "crown rating>=3", "--json", str(out)]) == 0
    assert [shot["shot"] for shot in json.loads(out.read_text())["shots"]] == [4, 6, 10, 12]
    assert main(["export", str(log[0]), "--sqlite", str(base)]) == 0
    with closing(sqlite3.connect(base)) as connection:
        assert pd.read_sql("SELECT * FROM shots", connection)["rating"].sum() == sum(n % 6 for n in range(12))
    assert "12 shots written" in capsys.readouterr().out
    assert main(["export", str(log[0]), "--json", str(tmp_path / "log.txt")]) == 2
    assert "must end in .json" in capsys.readouterr().err


def test_a_table_of_others_is_looked_at_before_it_is_taken_in(log, tmp_path, capsys):
    table = tmp_path / "old.csv"
    table.write_text("when;open;flash (ms);note\n2026-04-01 19:00;22;356;one\n2026-04-01 19:01;22;x;two\n")
    asked = ["import-table", str(log[0]), str(table), "--map", "at=when"]
    assert main(asked) == 2
    told = capsys.readouterr().out
    assert "1 shot to take in, 1 row cannot be." in told and "Line 3" in told and "when: at" in told
    assert main([*asked, "--json", "--apply"]) == 2
    told = capsys.readouterr()
    assert json.loads(told.out)["shots"] == 1 and "1 shot taken in" in told.err
    assert main(["find", str(log[0]), "sitting old", "--json"]) == 0
    (shot,) = [json.loads(line) for line in capsys.readouterr().out.splitlines()]
    assert shot["note"] == "one" and shot["sitting"] == "old" and shot["bench"] == "unknown"
    # A second time there is nothing new.
    assert main([*asked, "--apply"]) == 2
    assert "1 is in the log already" in capsys.readouterr().out
    assert main(["import-table", str(log[0]), str(tmp_path / "none.csv")]) == 2


def test_sidecars_are_written_from_a_shell(log, tmp_path, capsys):
    pictures = card(tmp_path / "pictures", [log[1][1], log[1][3]], timedelta())
    book = Logbook.open(log[0])
    for number, path in zip((2, 4), pictures, strict=True):
        book.pictures.give(read_picture(path), number, True, BEGAN)
    book.close()
    assert main(["xmp", str(log[0]), "crown", "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert len(told["written"]) == 2 and told["without_picture"] == 4
    assert all(path.endswith(".xmp") for path in told["written"])
    assert main(["xmp", str(log[0]), "crown"]) == 0
    assert "2 said it all already" in capsys.readouterr().out
    assert main(["xmp", str(log[0]), "--to", str(tmp_path / "none")]) == 2
    assert "no folder" in capsys.readouterr().err
