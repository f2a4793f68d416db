"""One picture may be two files; the same file may come twice, from elsewhere, under another name."""

from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest

from ondine.core.forecast.plan import Plan
from ondine.logbook.intake import PictureFacts
from ondine.logbook.model import Picture
from ondine.logbook.pairing import Pairing
from ondine.logbook.query import EVERYTHING
from ondine.logbook.query_line import Vocabulary, read_query
from ondine.logbook.records import SittingFacts

NOON = datetime(2026, 5, 9, 12, 0, tzinfo=UTC)


@pytest.fixture
def shots(logbook, sequence, setup) -> list[int]:
    sitting = logbook.sittings.begin(SittingFacts("Evening"), NOON)
    return [logbook.shots.plan(sitting, Plan(sequence, setup), NOON + timedelta(minutes=n)) for n in range(3)]


def file(name: str, sha: str, at: datetime | None = NOON) -> PictureFacts:
    return PictureFacts(Path("/card/DCIM") / name, sha * 64, 6000, 4000, at, 0.5, 16.0, 200, 0.09)


def rows(logbook) -> list[tuple[object, ...]]:
    with logbook.pictures._database.session() as session:
        return [
            (p.shot_id, Path(p.path).name, p.beside_path and Path(p.beside_path).name) for p in session.query(Picture)
        ]


@pytest.mark.parametrize("first", ["raw", "jpeg"])
def test_a_raw_file_and_its_jpeg_are_one_picture(logbook, shots, first):
    raw, jpeg = file("IMG_7.NEF", "a"), file("IMG_7.JPG", "b")
    one, other = (raw, jpeg) if first == "raw" else (jpeg, raw)
    assert logbook.pictures.add(one, Pairing(shots[0]), NOON) == (True, shots[0])
    # Whatever shot the other file is taken for by its time of arrival, it is this picture's.
    assert logbook.pictures.add(other, Pairing(shots[1], sure=False), NOON) == (False, shots[0])
    assert rows(logbook) == [(shots[0], "IMG_7.JPG", "IMG_7.NEF")]
    assert logbook.shots.get(shots[0]).picture_sha256 == "b" * 64
    assert logbook.pictures.paths() == {"/card/DCIM/IMG_7.JPG", "/card/DCIM/IMG_7.NEF"}
    # Both are known from now on, wherever they lie.
    for facts in (raw, jpeg):
        assert logbook.pictures.add(facts, Pairing(shots[2]), NOON) == (False, shots[0])
    assert len(rows(logbook)) == 1


def test_files_of_one_name_from_other_times_or_places_are_two_pictures(logbook, shots):
    logbook.pictures.add(file("IMG_7.NEF", "a"), Pairing(shots[0]), NOON)
    logbook.pictures.add(file("IMG_7.JPG", "b", NOON + timedelta(days=1)), Pairing(shots[1]), NOON)
    logbook.pictures.add(file("IMG_70.JPG", "c"), Pairing(shots[2]), NOON)
    assert [row[0] for row in rows(logbook)] == shots


def test_a_picture_that_moved_is_known_by_its_content(logbook, shots):
    logbook.pictures.add(file("IMG_7.JPG", "a"), Pairing(shots[0]), NOON)
    assert logbook.pictures.add(file("kept/best.jpg", "a"), Pairing(shots[1]), NOON) == (False, shots[0])
    assert rows(logbook) == [(shots[0], "best.jpg", None)]


def test_a_search_knows_of_a_picture_at_once(logbook, shots):
    without = read_query("without picture", Vocabulary(NOON))
    assert logbook.search.ids(without).tolist() == shots[::-1]
    logbook.pictures.add(file("IMG_7.JPG", "a"), Pairing(shots[1], sure=False), NOON)
    assert logbook.search.ids(without).tolist() == [shots[2], shots[0]]
    question = read_query("picture in question", Vocabulary(NOON))
    assert logbook.search.ids(question).tolist() == [shots[1]]
    logbook.pictures.answer(shots[1], belongs=False)
    assert logbook.search.ids(question).tolist() == [] and len(logbook.search.ids(without)) == 3
    assert len(logbook.search.ids(EVERYTHING)) == 3


def test_a_matched_picture_goes_to_its_shot_unless_somebody_said_otherwise(logbook, shots):
    logbook.pictures.add(file("1.JPG", "a"), Pairing(shots[0], sure=False), NOON)
    logbook.pictures.add(file("2.JPG", "b"), Pairing(shots[1], sure=True), NOON)
    assert logbook.pictures.give(file("1.JPG", "a"), shots[2], True, NOON) is False
    assert logbook.pictures.give(file("2.JPG", "b"), shots[2], True, NOON) is False
    assert logbook.pictures.give(file("3.JPG", "c"), shots[0], True, NOON) is True
    assert rows(logbook) == [(shots[2], "1.JPG", None), (shots[1], "2.JPG", None), (shots[0], "3.JPG", None)]
    assert logbook.search.ids(read_query("without picture", Vocabulary(NOON))).tolist() == []
