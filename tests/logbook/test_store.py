from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest

from ondine.core.sequence import Pulse, Sequence
from ondine.core.setup import Rig, Setup
from ondine.logbook.file import enter
from ondine.logbook.glance import Glance, glance
from ondine.logbook.intake import PictureFacts
from ondine.logbook.pairing import Candidate, pair_arrival, pair_by_clock
from ondine.logbook.records import ShotQuery, ShotState, SittingFacts
from ondine.logbook.store import Logbook

NOON = datetime(2026, 5, 9, 12, 0, tzinfo=UTC)


def facts(name: str = "a.jpg", sha: str = "aa", taken: datetime | None = None) -> PictureFacts:
    return PictureFacts(Path("/pictures") / name, sha, 1200, 800, taken, 0.5, 16.0, 200, 0.09)


def fire(logbook: Logbook, sequence: Sequence, setup: Setup, at: datetime = NOON) -> int:
    sitting = logbook.begin_sitting(SittingFacts("Test sitting"), at)
    shot = logbook.plan_shot(sitting, sequence, setup, at)
    logbook.complete_shot(shot, at + timedelta(milliseconds=20))
    return shot


def test_a_shot_is_there_before_it_fires(logbook, sequence, setup):
    sitting = logbook.begin_sitting(SittingFacts("Evening"), NOON)
    shot = logbook.plan_shot(sitting, sequence, setup, NOON)
    record = logbook.shot(shot)
    assert record.state is ShotState.PLANNED
    assert record.sequence == sequence and record.sitting == "Evening"


def test_a_shot_knows_the_setup_it_was_fired_with(logbook, sequence, setup):
    first = fire(logbook, sequence, setup)
    other = Setup(rig=Rig(nozzle_height_m=0.4))
    second = fire(logbook, sequence, other)
    assert logbook.setup(logbook.shot(first).setup_id) == setup
    assert logbook.setup(logbook.shot(second).setup_id) == other
    assert logbook.shot(fire(logbook, sequence, setup)).setup_id == logbook.shot(first).setup_id


def test_tags_ratings_and_notes_stay(tmp_path, sequence, setup):
    book = Logbook.open(tmp_path / "log.ondine")
    shot = fire(book, sequence, setup)
    assert book.toggle_tag(shot, "full-umbrella")
    assert book.toggle_tag(shot, "off-axis")
    assert not book.toggle_tag(shot, "off-axis")
    book.rate(shot, 9)
    book.annotate(shot, "for print 3 – schön")
    book.put("theme", "day")
    book.close()
    again = Logbook.open(tmp_path / "log.ondine")
    record = again.shot(shot)
    assert (record.shapes, record.rating, record.note) == (("full-umbrella",), 5, "for print 3 – schön")
    assert again.get("theme") == "day" and again.get("nothing") is None
    again.close()


def test_what_a_crash_left_planned_is_read_as_unknown(tmp_path, sequence, setup):
    book = Logbook.open(tmp_path / "log.ondine")
    shot = book.plan_shot(book.begin_sitting(SittingFacts("s"), NOON), sequence, setup, NOON)
    book.close()
    again = Logbook.open(tmp_path / "log.ondine")
    record = again.shot(shot)
    assert record.state is ShotState.UNKNOWN and not record.outcome_known
    again.close()


def test_shots_are_found_by_shape_rating_and_words(logbook, sequence, setup):
    shots = [fire(logbook, sequence, setup, NOON + timedelta(minutes=i)) for i in range(4)]
    logbook.toggle_tag(shots[1], "crown")
    logbook.rate(shots[2], 4)
    logbook.annotate(shots[3], "100 % of it")
    assert [s.id for s in logbook.find(ShotQuery(shape="crown"))] == [shots[1]]
    assert [s.id for s in logbook.find(ShotQuery(min_rating=3))] == [shots[2]]
    assert [s.id for s in logbook.find(ShotQuery(text="100 %"))] == [shots[3]]
    assert [s.id for s in logbook.find(ShotQuery(text="%_"))] == []
    assert len(logbook.find(ShotQuery(text="test SITTING"))) == 4
    assert [s.id for s in logbook.recent(2)] == [shots[3], shots[2]]


def test_a_picture_is_known_by_its_content(logbook, sequence, setup):
    shot = fire(logbook, sequence, setup)
    assert logbook.add_picture(facts("a.jpg", "aa"), None, NOON)
    assert not logbook.add_picture(facts("moved.jpg", "aa"), shot, NOON)
    assert logbook.shot(shot).picture == Path("/pictures/moved.jpg")


def test_there_is_no_shot_of_another_number(logbook):
    with pytest.raises(LookupError, match="no shot 7"):
        logbook.shot(7)


def test_a_time_without_a_zone_is_refused(logbook, sequence, setup):
    with pytest.raises(Exception, match="zone"):
        logbook.begin_sitting(SittingFacts("s"), datetime(2026, 1, 1))


def shot_at(seconds: float, number: int, taken: bool = False) -> Candidate:
    return Candidate(number, NOON + timedelta(seconds=seconds), taken)


def test_an_arrival_goes_to_the_shot_fired_just_before():
    shots = [shot_at(0, 1), shot_at(30, 2), shot_at(60, 3)]
    assert pair_arrival(NOON + timedelta(seconds=33), None, shots) == 2
    assert pair_arrival(NOON + timedelta(seconds=400), None, shots) is None
    assert pair_arrival(NOON + timedelta(seconds=33), None, [shot_at(0, 1), shot_at(30, 2, taken=True)]) == 1


def test_a_camera_clock_that_agrees_decides_between_quick_shots():
    shots = [shot_at(0, 1), shot_at(2, 2)]
    assert pair_arrival(NOON + timedelta(seconds=5), NOON + timedelta(seconds=0.3), shots) == 1
    assert pair_arrival(NOON + timedelta(seconds=5), NOON - timedelta(hours=1), shots) == 2


def test_import_pairs_by_the_clock_alone():
    shots = [shot_at(0, 1), shot_at(41, 2)]
    assert pair_by_clock(NOON + timedelta(seconds=39), shots) == 2
    assert pair_by_clock(NOON + timedelta(seconds=20), shots) is None
    assert pair_by_clock(None, shots) is None


def test_a_thousand_times_survive_to_the_microsecond(logbook, setup):
    at = NOON.replace(microsecond=123456)
    shot = fire(logbook, Sequence((Pulse(0, 20_001),), 300_007), setup, at)
    assert logbook.shot(shot).at == at + timedelta(milliseconds=20)


def test_a_glance_sees_what_the_logbook_sees(tmp_path, sequence, setup):
    book = Logbook.open(tmp_path / "log.ondine")
    for minute in range(5):
        shot = fire(book, sequence, setup, NOON + timedelta(minutes=minute, microseconds=minute))
        book.toggle_tag(shot, "crown")
        book.toggle_tag(shot, "blurred")
        book.rate(shot, minute)
        book.add_picture(facts(f"{minute}.jpg", str(minute)), shot, NOON)
    book.plan_shot(book.begin_sitting(SittingFacts("left"), NOON), sequence, setup, NOON)
    book.put("theme", "day")
    book.close()
    door = enter(tmp_path / "log.ondine")
    seen = glance(door, 4)
    book = Logbook(door)
    assert seen.shots == book.recent(4)
    assert seen.desk == {"theme": "day"}
    book.close()


def test_a_glance_at_a_new_logbook_is_empty(tmp_path):
    door = enter(tmp_path / "log.ondine")
    assert glance(door, 4) == Glance()
    door.leave()
