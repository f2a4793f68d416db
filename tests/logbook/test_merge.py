"""Two logbooks become one: nothing is there twice, and nothing is lost."""

import sqlite3
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest

from ondine.core.forecast.plan import Plan
from ondine.core.setup import BenchKind, Setup
from ondine.logbook.bench_kind import KEY, check_may_merge
from ondine.logbook.copying import copy_verified
from ondine.logbook.errors import LogbookError
from ondine.logbook.intake import PictureFacts
from ondine.logbook.merge import merge
from ondine.logbook.pairing import Pairing
from ondine.logbook.query_line import Vocabulary, read_query
from ondine.logbook.records import SittingFacts
from ondine.logbook.store import Logbook

NOON = datetime(2026, 5, 9, 12, 0, tzinfo=UTC)


def picture(name: str, sha: str) -> PictureFacts:
    return PictureFacts(Path("/pictures") / name, sha * 64, 6000, 4000, NOON, 0.5, 16.0, 200, 0.09)


def fill(book: Logbook, plan: Plan, name: str, begins: datetime, count: int) -> list[int]:
    sitting = book.sittings.begin(SittingFacts(name), begins)
    return [book.shots.plan(sitting, plan, begins + timedelta(minutes=n)) for n in range(count)]


@pytest.fixture
def laptop(tmp_path, sequence, setup) -> Logbook:
    book = Logbook.open(tmp_path / "laptop.ondine")
    fill(book, Plan(sequence, setup), "At home", NOON, 3)
    yield book
    book.close()


@pytest.fixture
def studio(tmp_path, sequence, setup) -> Logbook:
    book = Logbook.open(tmp_path / "studio.ondine")
    fill(book, Plan(sequence, replace(setup, name="Studio")), "In the studio", NOON + timedelta(days=1), 2)
    yield book
    book.close()


def dump(path: Path) -> dict[str, list[tuple[object, ...]]]:
    tables = ("sitting", "shot", "tag", "label", "picture", "setup_revision", "own_shape", "saved_search")
    with sqlite3.connect(path) as raw:
        found = {table: sorted(raw.execute(f"SELECT * FROM {table}").fetchall(), key=str) for table in tables}
    raw.close()
    return found


def test_the_laptop_s_shots_come_with_all_that_is_said_of_them(laptop, studio):
    laptop.shots.toggle_tag(2, "crown")
    laptop.shots.label([2], "foyer")
    laptop.shots.rate(2, 4)
    laptop.shots.annotate(2, "the best")
    laptop.shots.keep([2], keeper=True)
    laptop.pictures.add(picture("a.jpg", "a"), Pairing(2), NOON)
    laptop.names.save_search("crowns", "crown", NOON)
    laptop.shapes.add("twin crown", "T", "ring")
    before = dump(laptop.path)
    done = merge(studio.path, laptop.path)
    assert (done.shots, done.same, done.pictures) == (3, 0, 1) and "3 shots came" in done.words
    shots = {shot.at: shot for shot in studio.shots.newest(99)}
    assert len(shots) == 5
    came = shots[NOON + timedelta(minutes=1)]
    assert (came.shapes, came.labels, came.rating, came.note) == (("crown",), ("foyer",), 4, "the best")
    assert came.keeper and came.picture == Path("/pictures/a.jpg") and came.sitting == "At home"
    assert studio.setups.of_shot(came.id) == laptop.setups.of_shot(2)
    assert studio.names.searches() == {"crowns": "crown"} and [s.name for s in studio.shapes.own()] == ["twin crown"]
    # Words are found at once; figures are told when there is time.
    studio.facts.tell(99)
    studio._database.touched.note(None)
    query = read_query("home best gap 73 label foyer", Vocabulary(NOON))
    assert studio.search.ids(query).tolist() == [came.id]
    assert dump(laptop.path) == before


def test_twice_is_as_good_as_once(laptop, studio):
    merge(studio.path, laptop.path)
    once = dump(studio.path)
    again = merge(studio.path, laptop.path)
    assert (again.shots, again.same, again.pictures) == (0, 3, 0) and dump(studio.path) == once


def test_there_and_back_both_hold_the_same(laptop, studio, tmp_path):
    laptop.shots.toggle_tag(1, "crown")
    studio.shots.toggle_tag(2, "contact")
    merge(studio.path, laptop.path)
    merge(laptop.path, studio.path)

    def told(book: Logbook) -> list[tuple[object, ...]]:
        return [(s.at, s.sequence, s.setup_id, s.sitting, s.shapes) for s in book.shots.newest(99)]

    assert told(laptop) == told(studio) and laptop.shots.count() == 5


def test_what_both_say_differently_stays_as_it_is_here(laptop, studio, tmp_path):
    copy = tmp_path / "copy.ondine"
    copy_verified(laptop.path, copy)
    other = Logbook.open(copy)
    laptop.shots.annotate(1, "mine")
    other.shots.annotate(1, "theirs")
    other.shots.annotate(2, "only theirs")
    laptop.shots.rate(1, 2)
    other.shots.rate(1, 5)
    laptop.shots.toggle_tag(1, "crown")
    other.shots.toggle_tag(1, "contact")
    other.close()
    merge(laptop.path, copy)
    first, second = laptop.shots.get(1), laptop.shots.get(2)
    assert (first.note, first.rating, first.shapes) == ("mine", 2, ("contact", "crown"))
    assert second.note == "only theirs" and laptop.shots.count() == 3


def said(book: Logbook, shot: int) -> tuple[object, ...]:
    found = book.shots.get(shot)
    return found.shapes, found.labels, found.note, found.rating, found.keeper


@pytest.fixture
def both_said(laptop, tmp_path) -> tuple[Logbook, Path]:
    """A logbook that says something of its first shot, and a copy of it."""
    laptop.shots.toggle_tag(1, "crown")
    laptop.shots.label([1], "foyer")
    laptop.shots.annotate(1, "a note")
    laptop.shots.rate(1, 4)
    laptop.shots.keep([1], keeper=True)
    laptop.names.save_search("crowns", "crown", NOON)
    laptop.shapes.add("twin crown", "T", "ring")
    copy_verified(laptop.path, tmp_path / "copy.ondine")
    return laptop, tmp_path / "copy.ondine"


def remove_all(book: Logbook) -> None:
    book.shots.toggle_tag(1, "crown")
    book.shots.label([1], "foyer", on=False)
    book.shots.annotate(1, "")
    book.shots.rate(1, 0)
    book.shots.keep([1], keeper=False)
    book.names.forget_search("crowns")
    book.shapes.forget(book.shapes.own()[0].key)


def test_what_was_removed_here_does_not_come_back(both_said):
    book, copy = both_said
    remove_all(book)
    merge(book.path, copy)
    assert said(book, 1) == ((), (), "", 0, False)
    assert book.names.searches() == {} and book.shapes.own() == []


def test_what_was_put_back_by_hand_is_no_longer_removed(both_said):
    book, copy = both_said
    remove_all(book)
    book.shots.tag([1], "crown")
    book.shots.annotate(1, "another note")
    book.shots.tag([1], "crown", on=False)
    book.shots.toggle_tag(1, "crown")
    book.shots.toggle_tag(1, "ripples")
    with sqlite3.connect(book.path) as raw:
        marks = set(raw.execute("SELECT kind FROM removed WHERE shot_id = 1"))
    raw.close()
    assert marks == {("label",), ("rating",), ("keeper",)}
    merge(book.path, copy)
    assert said(book, 1) == (("crown", "ripples"), (), "another note", 0, False)


def test_the_marks_come_along_but_remove_nothing(both_said, studio):
    book, copy = both_said
    remove_all(book)
    # Who has it keeps it.
    other = Logbook.open(copy)
    merge(other.path, book.path)
    assert said(other, 1) == (("crown",), ("foyer",), "a note", 4, True) and other.names.searches()
    # Who never had it does not get it from a third one.
    merge(studio.path, book.path)
    came = next(shot.id for shot in studio.shots.newest(9) if shot.at == NOON)
    merge(studio.path, other.path)
    assert said(studio, came) == ((), (), "", 0, False) and studio.names.searches() == {}
    other.close()


REAL, PRACTICE = BenchKind.BY_HAND, BenchKind.SIMULATED


@pytest.mark.parametrize(
    ("here", "answered_here", "there", "answered_there", "comes"),
    [
        ([REAL], None, [REAL], None, True),
        ([PRACTICE], None, [PRACTICE], None, True),
        # What the shots tell decides, not what was answered or left open.
        ([REAL], None, [PRACTICE], None, "do not mix"),
        ([REAL], REAL, [PRACTICE], REAL, "do not mix"),
        ([PRACTICE], PRACTICE, [REAL], None, "do not mix"),
        ([REAL], REAL, [REAL, PRACTICE], REAL, "do not mix"),
        # Shots of before formats told it: the answer counts; without one it is asked for.
        ([REAL], None, [BenchKind.UNKNOWN], REAL, True),
        ([REAL], None, [BenchKind.UNKNOWN], PRACTICE, "do not mix"),
        ([REAL], None, [BenchKind.UNKNOWN], None, "laptop.ondine are of a table or simulated"),
        ([], None, [REAL], None, "studio.ondine are of a table or simulated"),
        ([], REAL, [REAL], None, True),
        # An older logbook whose shots disagree is what its owner said.
        ([REAL, PRACTICE], REAL, [REAL], None, True),
        ([REAL, PRACTICE], None, [REAL], None, "studio.ondine are of a table or simulated"),
    ],
)
def test_practice_and_table_never_mix(tmp_path, sequence, here, answered_here, there, answered_there, comes):
    books = []
    for name, benches, answered in (("studio", here, answered_here), ("laptop", there, answered_there)):
        book = Logbook.open(tmp_path / f"{name}.ondine")
        sitting = book.sittings.begin(SittingFacts(name), NOON)
        for bench in benches:
            book.shots.plan(sitting, Plan(sequence, Setup()), NOON, bench=bench)
        if answered is not None:
            book.state.put(KEY, answered.value)
        books.append(book)
    if comes is True:
        check_may_merge(*books)
    else:
        with pytest.raises(LogbookError, match=comes):
            check_may_merge(*books)
    for book in books:
        book.close()


def test_a_renamed_sitting_is_the_same_sitting(laptop, tmp_path):
    copy = tmp_path / "copy.ondine"
    copy_verified(laptop.path, copy)
    other = Logbook.open(copy)
    other.sittings.describe(1, SittingFacts("At home, again"))
    other.close()
    merge(laptop.path, copy)
    assert [s.name for s in laptop.sittings.all()] == ["At home"]


def test_two_shots_of_one_moment_stay_two(laptop, studio, sequence, setup):
    sitting = laptop.sittings.begin(SittingFacts("Twins"), NOON + timedelta(hours=1))
    for _ in range(2):
        laptop.shots.plan(sitting, Plan(sequence, setup), NOON + timedelta(hours=1))
    assert merge(studio.path, laptop.path).shots == 5 and merge(studio.path, laptop.path).same == 5


def test_a_part_becomes_a_logbook_of_its_own(laptop, tmp_path):
    laptop.pictures.add(picture("a.jpg", "a"), Pairing(2), NOON)
    laptop.pictures.add(picture("b.jpg", "b"), Pairing(3), NOON)
    part = Logbook.open(tmp_path / "part.ondine")
    done = merge(part.path, laptop.path, [2, 1, 2, 77])
    assert (done.shots, done.same, done.pictures) == (2, 0, 1)
    assert [shot.at for shot in part.shots.newest(9)] == [NOON + timedelta(minutes=1), NOON]
    assert [s.shots for s in part.sittings.all()] == [2]
    part.close()


def test_a_picture_that_is_here_already_is_not_there_twice(laptop, studio):
    laptop.pictures.add(picture("a.jpg", "a"), Pairing(1), NOON)
    laptop.pictures.add(picture("b.jpg", "b"), Pairing(2), NOON)
    # Here it is the raw file beside another one.
    studio.pictures.add(picture("x.nef", "b"), Pairing(1), NOON)
    studio.pictures.add(picture("x.jpg", "c"), Pairing(1), NOON)
    assert merge(studio.path, laptop.path).pictures == 1
    with sqlite3.connect(studio.path) as raw:
        assert raw.execute("SELECT count(*) FROM picture").fetchone()[0] == 2
    raw.close()


def test_what_fails_half_way_leaves_the_logbook_as_it_was(laptop, studio):
    before = dump(studio.path)
    with sqlite3.connect(laptop.path) as raw:
        raw.execute("DROP TABLE picture")
    raw.close()
    with pytest.raises(LogbookError):
        merge(studio.path, laptop.path)
    assert dump(studio.path) == before
    studio.shots.annotate(1, "it still writes")


def test_many_shots_come_quickly_enough_to_wait_for(tmp_path, sequence):
    big = Logbook.open(tmp_path / "big.ondine")
    first = fill(big, Plan(sequence, Setup()), "Long", NOON, 1)[0]
    big.close()
    with sqlite3.connect(tmp_path / "big.ondine") as raw:
        raw.execute(
            "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 3000) "
            "INSERT INTO shot (sitting_id, setup_id, belief_id, planned_at, state, sequence, report, bench, rating, note) "
            "SELECT sitting_id, setup_id, belief_id, printf('2026-06-01 10:00:00.%06d', i), state, sequence, report, "
            f"bench, rating, note FROM shot, n WHERE id = {first}"
        )
    raw.close()
    new = Logbook.open(tmp_path / "new.ondine")
    assert merge(new.path, tmp_path / "big.ondine").shots == 3001
    assert merge(new.path, tmp_path / "big.ondine").same == 3001
    new.close()
