"""The log as JSON and as a database, read by other programs; and the page that tells its columns."""

import json
import re
import sqlite3
from contextlib import closing
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from importlib.resources import files
from pathlib import Path

import jsonschema
import pandas as pd
import pytest

from ondine.core.setup import BenchKind
from ondine.core.timing.sequence import FlashPulse, Pulse, Sequence
from ondine.logbook.exchange_columns import columns_in_words
from ondine.logbook.export import csv_table
from ondine.logbook.export_json import export_json, shots_schema
from ondine.logbook.export_sqlite import export_sqlite
from ondine.logbook.outcomes import Outcome
from ondine.logbook.records import PastShot, ShotState, SittingFacts
from ondine.logbook.writing import WriteError
from tests.calibrated import IN_HAND

AT = datetime(2026, 5, 9, 12, 0, tzinfo=UTC)
THREE = Sequence(
    (Pulse(0, 20_000), Pulse(90_500, 21_000), Pulse(180_000, 9_000, 1)), (FlashPulse(350_000), FlashPulse(351_000, 2))
)


@pytest.fixture
def season(logbook):
    """Three shots: a pair with tags and labels, three drops by hand, and one whose flashes the bench reported."""
    logbook.shots.add_history([
        PastShot("Evening", AT, IN_HAND, ("crown", "off-axis"), 3, "=1+1, »äöü«", labels=("print 3", "foyer"), keeper=True),
        PastShot("Evening", AT + timedelta(minutes=1), replace(IN_HAND, sequence=THREE), bench=BenchKind.BY_HAND),
    ])  # fmt: skip
    sitting = logbook.sittings.begin(SittingFacts("Later"), AT + timedelta(hours=1))
    number = logbook.shots.plan(sitting, IN_HAND, AT + timedelta(hours=1), 0.115, BenchKind.CABLE)
    logbook.shots.finish(
        Outcome(number, AT + timedelta(hours=1), ShotState.FIRED, AT + timedelta(hours=1), (356_012,), "done")
    )
    return logbook


def test_json_is_as_its_published_schema_says(season, tmp_path):
    out = tmp_path / "log.json"
    assert export_json(season, out) == 3
    told = json.loads(out.read_text(encoding="utf-8"))
    published = json.loads((files("ondine") / "assets" / "schemas" / "shots.schema.json").read_text(encoding="utf-8"))
    assert published == shots_schema()
    jsonschema.validate(told, published)
    first, second, _ = told["shots"]
    assert first["note"] == "=1+1, »äöü«" and first["labels"] == ["foyer", "print 3"] and first["keeper"] is True
    assert first["figures"]["interval_ms"] == 95.0 and first["setup"] in told["setups"]
    assert second["drops"][2] == {"start_ms": 180.0, "open_ms": 9.0, "valve": 2} and second["bench"] == "by hand"
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate({**told, "version": 2}, published)


def test_only_what_was_asked_for_is_written(season, tmp_path):
    assert export_json(season, tmp_path / "a.json", [3]) == 1 and export_sqlite(season, tmp_path / "a.sqlite", [3]) == 1
    assert json.loads((tmp_path / "a.json").read_text())["shots"][0]["shot"] == 3


def test_the_database_is_read_by_pandas_and_says_what_its_columns_are(season, tmp_path):
    out = tmp_path / "log.sqlite"
    assert export_sqlite(season, out) == 3
    with closing(sqlite3.connect(out)) as connection:
        read = {
            name: pd.read_sql(f"SELECT * FROM {name}", connection)
            for name in ("shots", "drops", "flashes", "tags", "labels", "setups", "about")
        }
        assert connection.execute("PRAGMA integrity_check").fetchone() == ("ok",)
    shots = read["shots"].set_index("shot")
    assert shots.loc[1, "note"] == "=1+1, »äöü«" and shots.loc[3, "head_mm"] == 115.0
    assert shots["interval_ms"].tolist() == [95.0, 90.5, 95.0] and shots["keeper"].tolist() == [1, 0, 0]
    assert read["drops"].groupby("shot").size().tolist() == [2, 3, 2]
    assert read["drops"].query("shot == 2 and number == 3")["valve"].item() == 2
    assert read["flashes"].query("shot == 3")["reported_ms"].item() == pytest.approx(356.012)
    assert sorted(read["tags"].query("shot == 1")["shape"]) == ["crown", "off-axis"]
    assert json.loads(read["setups"]["content"][0])["name"] == IN_HAND.setup.name
    about = read["about"].set_index(["in_table", "name"])
    for name, table in read.items():
        if name != "about":
            assert list(table.columns) == [column for of, column in about.index if of == name]
    assert about.loc[("shots", "interval_ms"), "unit"] == "ms" and (about["says"] != "").all()


def test_the_same_figures_stand_in_table_json_and_database(season, tmp_path):
    export_json(season, tmp_path / "a.json")
    export_sqlite(season, tmp_path / "a.sqlite")
    (tmp_path / "a.csv").write_text(csv_table(season).text, encoding="utf-8")
    table = pd.read_csv(tmp_path / "a.csv").set_index("shot")
    told = json.loads((tmp_path / "a.json").read_text(encoding="utf-8"))["shots"]
    with closing(sqlite3.connect(tmp_path / "a.sqlite")) as connection:
        base = pd.read_sql("SELECT * FROM shots", connection).set_index("shot")
    for shot in told:
        for key, value in shot["figures"].items():
            assert table.loc[shot["shot"], key] == pytest.approx(value)
            assert base.loc[shot["shot"], key] == pytest.approx(value, abs=0.01)


def test_no_other_database_is_written_over(season, tmp_path):
    out = tmp_path / "mine.sqlite"
    with closing(sqlite3.connect(out)) as connection, connection:
        connection.execute("CREATE TABLE precious (x)")
    before = out.read_bytes()
    with pytest.raises(WriteError, match="left untouched"):
        export_sqlite(season, out)
    with pytest.raises(WriteError, match=r"must end in \.sqlite"):
        export_sqlite(season, season.path)
    assert out.read_bytes() == before
    again = tmp_path / "log.sqlite"
    assert export_sqlite(season, again) == export_sqlite(season, again) == 3


def test_every_column_of_the_table_stands_on_its_page(season):
    page = (Path(__file__).parents[2] / "docs" / "log-table.md").read_text(encoding="utf-8")
    assert page.endswith(columns_in_words())
    header = csv_table(season).text.splitlines()[0].split(",")
    told = set(re.findall(r"`([a-z0-9_#]+)`", columns_in_words()))
    for name in header:
        if not name.startswith("setup."):
            assert re.sub(r"(?<=^drop)\d+|(?<=^flash)\d+(?=_(ms|output))", "#", name) in told, name
