"""Tables that others wrote: any encoding and separator, columns by name or by hand, and nothing guessed silently."""

import io
import time
from dataclasses import replace
from datetime import UTC, datetime, timedelta, timezone
from pathlib import Path

import pandas as pd
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from ondine.core.forecast.shapes import SHAPES
from ondine.core.setup import BenchKind
from ondine.core.timing.sequence import FlashPulse, Pulse, Sequence
from ondine.logbook.column_map import ASKED, Meaning, Unit, guess
from ondine.logbook.export import csv_table
from ondine.logbook.foreign_table import TableError, read_table
from ondine.logbook.import_table import Dates, meaning_of, read_shots
from ondine.logbook.records import PastShot
from tests.calibrated import IN_HAND

AT = datetime(2026, 5, 9, 12, 0, tzinfo=UTC)
PLAIN = """Date;Time;Drop size (ms);Interval (ms);Flash delay (ms);Result;Stars;Notes;Room
09.05.2026;19:40:05;22;95,5;356,0;full umbrella, heart;***;schön;cellar
09.05.2026;19:42;20;;300;nothing of the kind;;;cellar
"""


def written(tmp_path: Path, text: str, encoding: str = "utf-8", name: str = "old log.csv") -> Path:
    path = tmp_path / name
    path.write_bytes(text.encode(encoding))
    return path


def shots_of(path: Path, meanings: dict[str, Meaning] | None = None, **more):
    table = read_table(path)
    return read_shots(
        table, guess(table.columns) if meanings is None else meanings, IN_HAND, SHAPES, **{"zone": UTC} | more
    )


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "cp1252", "utf-32"])
@pytest.mark.parametrize("separator", [";", "\t", "|"])
def test_any_encoding_and_separator_is_read(tmp_path, encoding, separator):
    found = shots_of(written(tmp_path, PLAIN.replace(";", separator), encoding))
    assert not found.left_out and found.words == "2 shots to take in."
    one, two = found.shots
    assert one.at == datetime(2026, 5, 9, 19, 40, 5, tzinfo=UTC) and one.note == "schön" and one.rating == 3
    assert one.plan.sequence == Sequence((Pulse(0, 22_000), Pulse(95_500, 22_000)), (FlashPulse(356_000),))
    # A shape is one that Ondine knows; other words are kept as labels, so that none is lost.
    assert one.shapes == ("full-umbrella",) and one.labels == ("heart",) and two.labels == ("nothing of the kind",)
    assert two.plan.sequence.drops == (Pulse(0, 20_000),) and two.plan.setup == IN_HAND.setup


def test_commas_part_columns_where_points_part_decimals(tmp_path):
    text = 'fired_at,open 1 (ms),gap (ms),flash 1 (s),note\n2026-05-09T19:40:05.250+02:00,22.5,73,0.356,"a, b"\n'
    (shot,) = shots_of(written(tmp_path, text)).shots
    assert shot.at == datetime(2026, 5, 9, 17, 40, 5, 250_000, tzinfo=UTC) and shot.note == "a, b"
    assert shot.plan.sequence == Sequence((Pulse(0, 22_500),), (FlashPulse(356_000),))


def test_a_gap_counts_from_the_closing(tmp_path):
    text = "date\topen\tgap\tflash\n2026-05-09\t20\t70\t350\n"
    (shot,) = shots_of(written(tmp_path, text)).shots
    assert shot.plan.sequence.drops == (Pulse(0, 20_000), Pulse(90_000, 20_000))


def test_ondine_s_own_table_comes_back_as_it_was_and_only_once(tmp_path, logbook):
    three = Sequence(
        (Pulse(0, 20_000), Pulse(90_500, 21_000), Pulse(180_000, 9_000)), (FlashPulse(350_000), FlashPulse(351_000))
    )
    past = [
        PastShot("Evening", AT, IN_HAND, ("crown", "off-axis"), 3, "=1+1, »äöü«", labels=("foyer",), keeper=True),
        PastShot("Evening", AT + timedelta(minutes=1), replace(IN_HAND, sequence=three), bench=BenchKind.SIMULATED),
    ]
    logbook.shots.add_history(past)
    path = written(tmp_path, csv_table(logbook).text)
    again = shots_of(path)
    assert not again.left_out and [shot.plan.sequence for shot in again.shots] == [p.plan.sequence for p in past]
    assert [replace(shot, plan=IN_HAND) for shot in again.shots] == [replace(p, plan=IN_HAND) for p in past]
    assert shots_of(path, known=logbook.shots.newest(9)).known == 2
    # The same row twice is one shot.
    twice = written(tmp_path, PLAIN + PLAIN.splitlines()[1] + "\n", name="twice.csv")
    assert len(shots_of(twice).shots) == 2 and shots_of(twice).known == 1


def test_what_pandas_writes_is_read(tmp_path):
    frame = pd.DataFrame({"at": ["2026-05-09 12:00:00"], "open": [22.0], "interval": [95.0], "flash": [356.0]})
    for separator in (",", ";"):
        held = io.StringIO()
        frame.to_csv(held, sep=separator, decimal="," if separator == ";" else ".", index=True)
        meanings = {
            "at": Meaning("at"),
            "open": Meaning("open"),
            "interval": Meaning("interval"),
            "flash": Meaning("flash1"),
        }
        (shot,) = shots_of(written(tmp_path, held.getvalue()), meanings).shots
        assert shot.plan.sequence == Sequence((Pulse(0, 22_000), Pulse(95_000, 22_000)), (FlashPulse(356_000),))


@pytest.mark.parametrize(
    ("row", "why"),
    [
        ("2026-05-09;22;oops;356", "no number"),
        ("2026-05-09;22;95;", "when the flash"),
        ("2026-05-09;;95;356", "how long the valve"),
        ("2026-05-09;22;95;9999", "from 0 to 5 s"),
        ("2026-05-09;22;-95;356", "from 0 to 5 s"),
        ("2026-13-40;22;95;356", "no day"),
        ("yesterday;22;95;356", "no date"),
        (";22;95;356", "when it was fired"),
        ("2026-05-09 25:99;22;95;356", "no time of day"),
    ],
)
def test_a_row_that_is_no_shot_is_named_by_its_line_and_the_rest_is_taken(tmp_path, row, why):
    good = "2026-05-09 12:00;22;95;356"
    found = shots_of(written(tmp_path, f"at;open;interval;flash\n{good}\n{row}\n"))
    assert len(found.shots) == 1 and len(found.left_out) == 1
    assert found.left_out[0].startswith("Line 3: ") and why in found.left_out[0]
    assert found.words == "1 shot to take in, 1 row cannot be."


def test_dates_of_numbers_alone_are_never_guessed(tmp_path):
    head = "date;open;flash\n"
    with pytest.raises(TableError, match="day or with the month"):
        shots_of(written(tmp_path, f"{head}05/09/2026;22;356\n"))
    for dates, day in ((Dates.DAY_FIRST, (5, 9)), (Dates.MONTH_FIRST, (9, 5))):
        (shot,) = shots_of(written(tmp_path, f"{head}05/09/2026;22;356\n"), dates=dates).shots
        assert (shot.at.day, shot.at.month) == day
    # Another row may tell.
    told = shots_of(written(tmp_path, f"{head}05/09/2026;22;356\n05/23/2026;22;356\n")).shots
    assert [(shot.at.month, shot.at.day) for shot in told] == [(5, 9), (5, 23)]


def test_a_time_without_a_zone_is_the_computers(tmp_path):
    zone = timezone(timedelta(hours=2))
    (shot,) = shots_of(written(tmp_path, "at;open;flash\n2026-05-09 7:40 pm;22;356\n"), zone=zone).shots
    assert shot.at == datetime(2026, 5, 9, 17, 40, tzinfo=UTC)


def test_columns_are_mapped_by_hand_with_their_units(tmp_path):
    path = written(tmp_path, "when,a,b,c\n2026-05-09,22000,0.095,356\n")
    meanings = dict(meaning_of(text) for text in ("at=when", "open=a,us", "interval=b, s", "flash1=c"))
    assert meanings["a"] == Meaning("open", Unit.US)
    (shot,) = shots_of(path, meanings).shots
    assert shot.plan.sequence == Sequence((Pulse(0, 22_000), Pulse(95_000, 22_000)), (FlashPulse(356_000),))
    for text, why in (("at", "no map"), ("bogus=when", "no map"), ("at=", "no map")):
        with pytest.raises(TableError, match=why):
            meaning_of(text)
    with pytest.raises(TableError, match="no column “nowhere”"):
        shots_of(path, {"nowhere": Meaning("at")})


@pytest.mark.parametrize(
    ("lacks", "why"), [("at", "when a shot"), ("open", "valve was open"), ("flash", "flash was fired")]
)
def test_what_a_table_must_tell_is_asked_for(tmp_path, lacks, why):
    head = ";".join(name for name in ("at", "open", "flash", "note") if name != lacks)
    with pytest.raises(TableError, match=why):
        shots_of(written(tmp_path, f"{head}\n1;2;3\n"))


TWICE = "date,time,open,interval,open,flash\n2026-05-09,19:40,22,95,24,356\n"


def test_a_column_that_is_there_twice_is_asked_for(tmp_path):
    """Of before: the second “open” was read as drop 5."""
    path = written(tmp_path, TWICE)
    with pytest.raises(TableError, match=r"“open \[column 3\]” and “open \[column 5\]” may mean the same"):
        shots_of(path)
    table = read_table(path)
    known = {column: m for column, m in guess(table.columns).items() if m.field != ASKED}
    assert [m.field for m in known.values()] == ["date", "time", "interval", "flash1"]
    meant = known | {"open [column 3]": Meaning("drop1_open"), "open [column 5]": Meaning("drop2_open")}
    (shot,) = shots_of(path, meant).shots
    assert [pulse.open_us for pulse in shot.plan.sequence.drops] == [22_000, 24_000]
    with pytest.raises(TableError, match="are both “All drops open for”"):
        shots_of(path, known | {f"open [column {n}]": Meaning("open") for n in (3, 5)})


@pytest.mark.parametrize("names", ["open;open time", "open (ms);opentime", "flash;flash 1"])
def test_two_names_of_one_thing_are_asked_for(tmp_path, names):
    first, second = names.split(";")
    found = guess(["date", first, second])
    assert {column for column, meaning in found.items() if meaning.field == ASKED} == {first, second}


def test_names_that_mean_nothing_may_be_there_twice(tmp_path):
    path = written(tmp_path, "date;open;flash;x;x;\n2026-05-09;22;356;1;2;3\n")
    assert read_table(path).columns == ("date", "open", "flash", "x [column 4]", "x [column 5]", "column 6")
    assert len(shots_of(path).shots) == 1


def test_a_million_columns_are_refused_at_once(tmp_path):
    path = tmp_path / "wide.csv"
    path.write_text(",".join(["open"] * 1_000_000) + "\n" + ",".join(["1"] * 1_000_000) + "\n")
    began = time.process_time()
    with pytest.raises(TableError, match="1000000 columns"):
        read_table(path)
    # It took minutes: the bound is generous.
    assert time.process_time() - began < 20


def test_reading_a_table_can_be_cancelled(tmp_path):
    with pytest.raises(TableError, match="not read to the end"):
        read_table(written(tmp_path, PLAIN), lambda: True)


@pytest.mark.parametrize("clock", ["13:00 AM", "0:30 PM", "13:00 pm", "99:00 AM"])
def test_hours_that_no_half_of_a_day_has_are_left_out(tmp_path, clock):
    (why,) = shots_of(written(tmp_path, f"date;time;open;flash\n2026-05-09;{clock};22;356\n")).left_out
    assert "no time of day" in why


@pytest.mark.parametrize("day", ["0001-01-01", "9999-12-31", "1492-10-12"])
@pytest.mark.parametrize("zone", [None, UTC])
def test_a_row_of_a_year_that_no_camera_knows_leaves_the_others(tmp_path, day, zone):
    path = written(tmp_path, f"date;open;flash\n{day};22;356\n2019-05-09;22;356\n")
    found = shots_of(path, zone=zone)
    assert len(found.shots) == 1 and "Line 2" in found.left_out[0]


@pytest.mark.parametrize(
    ("content", "why"),
    [
        (b"", "no columns"),
        (b"just words\nand more\n", "no columns"),
        (b"a,b,c\n", "no rows"),
        (b"\x89PNG\r\n\x1a\n\0\0\0", "no text"),
        (b"\xff\xfe" + b"\x00\xd8" * 3, "letters"),
        (b'a,b\n"' + b"x" * 200_000 + b'",1\n', "cannot be read as a table|no columns"),
    ],
)
def test_what_is_no_table_is_a_sentence(tmp_path, content, why):
    path = tmp_path / "odd.csv"
    path.write_bytes(content)
    with pytest.raises(TableError, match=why):
        read_table(path)
    with pytest.raises(TableError, match="cannot be read"):
        read_table(tmp_path / "missing.csv")


@settings(max_examples=60, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.binary(max_size=300))
def test_whatever_a_file_holds_it_is_shots_or_a_sentence(tmp_path, content):
    path = tmp_path / "any.csv"
    path.write_bytes(b"at;open;flash\n" + content)
    try:
        found = shots_of(path)
    except TableError:
        return
    assert all(shot.plan.sequence.drops[0].open_us > 0 for shot in found.shots)
