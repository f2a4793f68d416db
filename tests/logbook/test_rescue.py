"""What can be read of a damaged logbook is saved, what cannot is counted, and the damaged one stays as it was."""

import random
import shutil
import sqlite3
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest

from ondine.core.forecast.plan import Plan
from ondine.demo.scenario import START, TIDAL_MILL
from ondine.logbook.errors import LogbookError
from ondine.logbook.query_line import Vocabulary, read_query
from ondine.logbook.records import PastShot
from ondine.logbook.rescue import MOST_GAP, MOST_ROWID, _rows, rescue
from ondine.logbook.store import Logbook
from tests.calibrated import TAUGHT

AT = datetime(2026, 5, 9, 12, 0, tzinfo=UTC)
DATA = Path(__file__).parents[1] / "data"
COUNT = 400


@pytest.fixture(scope="module")
def filled_once(tmp_path_factory, empty_logbook) -> Path:
    """A logbook of several pages a table."""
    path = tmp_path_factory.mktemp("full") / "log.ondine"
    shutil.copyfile(empty_logbook, path)
    book = Logbook.open(path)
    book.shots.add_history(
        PastShot("Evening", AT + timedelta(minutes=n), Plan(START, TIDAL_MILL, TAUGHT), ("crown",), n % 6, f"note {n}")
        for n in range(COUNT)
    )
    book.setups.keep("Mill", TIDAL_MILL, TAUGHT, AT)
    book.state.put("theme", "dark-room")
    book.close()
    return path


@pytest.fixture
def full(tmp_path: Path, filled_once: Path) -> Path:
    """A copy of it for each test."""
    return Path(shutil.copyfile(filled_once, tmp_path / "log.ondine"))


def saved_shots(path: Path) -> dict[int, str]:
    book = Logbook.open(path)
    found = {shot.id: shot.note for shot in book.shots.newest(1000)}
    book.close()
    return found


def test_a_sound_logbook_is_saved_whole(full, tmp_path):
    saved = rescue(full, tmp_path / "new.ondine")
    assert saved.rows["shot"] == COUNT and not saved.lost and saved.stand_ins == 0
    book = Logbook.open(tmp_path / "new.ondine")
    assert book.shots.get(7).note == "note 6" and book.shots.get(7).shapes == ("crown",)
    assert book.setups.of_shot(7) == (TIDAL_MILL, TAUGHT) and [k.name for k in book.setups.kept()] == ["Mill"]
    assert book.state.get("theme") == "dark-room"
    book.close()


def test_torn_pages_lose_what_stood_on_them_and_nothing_else(full, tmp_path):
    content = bytearray(full.read_bytes())
    # The page on which a shot from the middle stands.
    torn = content.index(b"note 200") // 4096 + 1
    content[(torn - 1) * 4096 : torn * 4096] = bytes(4096)
    full.write_bytes(content)
    saved = rescue(full, tmp_path / "new.ondine")
    found = saved_shots(tmp_path / "new.ondine")
    assert saved.rows["shot"] == len(found) > COUNT * 0.8
    assert saved.lost["shot"] == COUNT - len(found) > 0
    assert all(note == f"note {number - 1}" for number, note in found.items())
    assert full.read_bytes() == content
    assert "Not to be read" in saved.words


def test_a_lost_set_up_keeps_its_shots(full, tmp_path):
    with sqlite3.connect(full) as raw:
        raw.execute("DELETE FROM setup_revision")
        raw.execute("DELETE FROM sitting")
    raw.close()
    saved = rescue(full, tmp_path / "new.ondine")
    assert saved.stand_ins == 2 and len(saved_shots(tmp_path / "new.ondine")) == COUNT


@pytest.mark.parametrize("at", [0, 18, 63, 70, 99])
def test_a_flipped_bit_in_the_header_costs_nothing(full, tmp_path, at):
    content = bytearray(full.read_bytes())
    content[at] ^= 1
    full.write_bytes(content)
    assert rescue(full, tmp_path / "new.ondine").rows["shot"] == COUNT


@pytest.mark.parametrize("table", ["tag", "picture", "state", "belief_revision", "sitting"])
def test_a_missing_table_costs_that_table(full, tmp_path, table):
    with sqlite3.connect(full) as raw:
        raw.execute(f"DROP TABLE {table}")
    raw.close()
    rescue(full, tmp_path / "new.ondine")
    assert len(saved_shots(tmp_path / "new.ondine")) == COUNT


def test_an_older_logbook_is_saved_and_brought_up_to_date(tmp_path):
    old = tmp_path / "old.ondine"
    old.write_bytes((DATA / "logbook-v2.ondine").read_bytes())
    saved = rescue(old, tmp_path / "new.ondine")
    assert saved.rows["shot"] == 7 and len(saved_shots(tmp_path / "new.ondine")) == 7


def test_a_tree_that_answers_with_smaller_rows_ends(tmp_path):
    """Of before: it went round for ever. (A tree that was cut off; pytest's own time limit ends what does not.)"""
    cut = tmp_path / "cut.ondine"
    cut.write_bytes((DATA / "logbook-v2.ondine").read_bytes()[:95_222])
    saved = rescue(cut, tmp_path / "new.ondine")
    assert saved.rows["shot"] == 7 and len(saved_shots(tmp_path / "new.ondine")) == 7
    assert {path.name for path in tmp_path.iterdir()} == {"cut.ondine", "new.ondine"}


class Damaged:
    """Answers a query for the row after a number as a damaged table does: rows by their number, or an error."""

    def __init__(self, *answers: tuple[int, ...] | None) -> None:
        self.answers, self.asked = list(answers), 0

    def execute(self, query: str, values: tuple[int]) -> "Damaged":
        self.asked += 1
        self.after = values[0]
        return self

    def fetchone(self) -> tuple[object, ...] | None:
        if not self.answers:
            raise sqlite3.DatabaseError("database disk image is malformed")
        answer = self.answers.pop(0) if len(self.answers) > 1 else self.answers[0]
        return None if answer is None else (*answer, f"row {answer[0]}")


def test_only_rising_row_numbers_are_taken_and_it_is_bounded():
    found = list(_rows(Damaged((1,), (2,), (2,), (5,), (3,), (9,), None), "shot", "note"))
    assert [row[0] for row in found if row] == ["row 1", "row 2", "row 5", "row 9"]
    assert found.count(None) == 2
    for answers in (((7,),), ()):
        endless = Damaged(*answers)
        list(_rows(endless, "shot", "note"))
        assert endless.asked <= MOST_GAP + 2
    assert list(_rows(Damaged((MOST_ROWID + 1,)), "shot", "note")) == [(f"row {MOST_ROWID + 1}",)]


def test_a_length_that_nobody_wrote_is_not_believed(full, tmp_path):
    """A damaged length of half a gigabyte would be read from overflow pages that lead in a circle."""
    with sqlite3.connect(full) as raw:
        raw.execute("UPDATE shot SET note = zeroblob(60000000) WHERE id = 9")
    raw.close()
    saved = rescue(full, tmp_path / "new.ondine")
    assert saved.lost["shot"] == 1 and saved.rows["shot"] == COUNT - 1


def test_refusals(full, tmp_path):
    with pytest.raises(LogbookError, match="There is no logbook"):
        rescue(tmp_path / "none", tmp_path / "new.ondine")
    with pytest.raises(LogbookError, match="exists already"):
        rescue(full, full)
    with pytest.raises(LogbookError, match="no folder"):
        rescue(full, tmp_path / "none" / "new.ondine")
    (tmp_path / "text.ondine").write_text("95 ms " * 100)
    with pytest.raises(LogbookError, match="Nothing can be read"):
        rescue(tmp_path / "text.ondine", tmp_path / "new.ondine")
    assert not (tmp_path / "new.ondine").exists()


def test_whatever_is_torn_a_rescue_ends_with_a_logbook_or_a_sentence(full, tmp_path):
    whole, dice = full.read_bytes(), random.Random(9)
    for number in range(12):
        content = bytearray(whole)
        for _ in range(dice.randint(1, 8)):
            start = dice.randrange(len(content))
            length = dice.choice((1, 16, 4096))
            content[start : start + length] = dice.randbytes(len(content[start : start + length]))
        full.write_bytes(content)
        new = tmp_path / f"new{number}.ondine"
        try:
            rescue(full, new)
        except LogbookError:
            assert not new.exists()
        else:
            saved_shots(new)
        assert full.read_bytes() == content


def test_what_the_log_came_to_know_later_is_saved_too(full, tmp_path):
    book = Logbook.open(full)
    with book.shots._database.session() as session:
        session.connection().exec_driver_sql("UPDATE shot SET flash_reports_us = '[356120, 361000]' WHERE id = 7")
    book.shots.label([7], "foyer")
    book.shots.keep([7], keeper=True)
    book.shots.bin([8], AT)
    book.names.save_search("crowns", "crown rating>=4", AT)
    twin = book.shapes.add("twin crown", "t", "ring")
    book.close()
    rescue(full, tmp_path / "new.ondine")
    again = Logbook.open(tmp_path / "new.ondine")
    shot = again.shots.get(7)
    assert shot.flash_reports_us == (356_120, 361_000) and shot.keeper and shot.labels == ("foyer",)
    assert again.shots.get(8).binned and again.names.searches() == {"crowns": "crown rating>=4"}
    assert again.shapes.own() == [twin]
    # Figures and words are told anew.
    assert again.facts.waiting() == COUNT and again.facts.tell(COUNT) == COUNT and again.facts.tell(1) == 0
    query = read_query('label foyer flash 356 "note 6"', Vocabulary(AT))
    assert again.search.ids(query).tolist() == [7]
    again.close()


@pytest.mark.parametrize("version", [5, 6])
def test_an_older_format_loses_nothing_on_its_way(tmp_path, version):
    saved = rescue(DATA / f"logbook-v{version}.ondine", tmp_path / "new.ondine")
    assert not saved.lost
    with sqlite3.connect(DATA / f"logbook-v{version}.ondine") as raw:
        wanted = raw.execute("SELECT count(*) FROM shot").fetchone()[0]
    raw.close()
    book = Logbook.open(tmp_path / "new.ondine")
    assert book.shots.count() == wanted
    # Several flashes came with format 6; of format 5 the one report becomes a list.
    assert (book.shots.get(2).flash_reports_us or ()) == {5: (391_500,), 6: (356_000, 367_000)}[version]
    book.close()
