from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest

from ondine.core.belief.priors import Belief, Prior
from ondine.core.forecast.plan import Plan
from ondine.core.setup import Setup, Valve
from ondine.core.timing.sequence import Pulse, Sequence
from ondine.logbook.errors import LogbookError
from ondine.logbook.file import claim
from ondine.logbook.identity import identity_of
from ondine.logbook.intake import PictureFacts
from ondine.logbook.outcomes import Outcome
from ondine.logbook.pairing import Pairing
from ondine.logbook.records import ShotState, SittingFacts
from ondine.logbook.snapshot import Snapshot, take_snapshot
from ondine.logbook.store import Logbook

NOON = datetime(2026, 5, 9, 12, 0, tzinfo=UTC)


def facts(name: str = "a.jpg", sha: str = "aa", taken: datetime | None = None) -> PictureFacts:
    return PictureFacts(Path("/pictures") / name, sha, 1200, 800, taken, 0.5, 16.0, 200, 0.09)


def fire(logbook: Logbook, sequence: Sequence, setup: Setup, at: datetime = NOON) -> int:
    sitting = logbook.sittings.begin(SittingFacts("Test sitting"), at)
    shot = logbook.shots.plan(sitting, Plan(sequence, setup), at)
    logbook.shots.finish(Outcome(shot, at, ShotState.FIRED, at + timedelta(milliseconds=20)))
    return shot


def test_a_shot_keeps_what_it_was_foreseen_with_and_what_the_bench_reported(logbook, sequence, setup):
    sitting = logbook.sittings.begin(SittingFacts("Evening"), NOON)
    belief = Belief(lag_s=Prior(9e-3, 1e-3))
    shot = logbook.shots.plan(sitting, Plan(sequence, setup, belief), NOON, head_m=0.118)
    logbook.shots.finish(Outcome(shot, NOON, ShotState.FIRED, NOON, (356_120, 361_000), "flash not ready"))
    record = logbook.shots.get(shot)
    assert (record.flash_reports_us, record.report, record.head_m) == ((356_120, 361_000), "flash not ready", 0.118)
    assert record.belief_id == belief.revision and logbook.setups.of_shot(shot) == (setup, belief)


def test_a_shot_is_there_before_it_fires(logbook, sequence, setup):
    sitting = logbook.sittings.begin(SittingFacts("Evening"), NOON)
    shot = logbook.shots.plan(sitting, Plan(sequence, setup), NOON)
    record = logbook.shots.get(shot)
    assert record.state is ShotState.PLANNED
    assert record.sequence == sequence and record.sitting == "Evening"


def test_a_shot_knows_the_setup_it_was_fired_with(logbook, sequence, setup):
    first = fire(logbook, sequence, setup)
    other = Setup(valves=(Valve(nozzle_height_m=0.4),))
    second = fire(logbook, sequence, other)
    assert logbook.setups.of_shot(first) == (setup, Belief())
    assert logbook.setups.of_shot(second) == (other, Belief())
    assert logbook.shots.get(fire(logbook, sequence, setup)).setup_id == logbook.shots.get(first).setup_id


def test_tags_ratings_and_notes_stay(tmp_path, sequence, setup):
    book = Logbook.open(tmp_path / "log.ondine")
    shot = fire(book, sequence, setup)
    assert book.shots.toggle_tag(shot, "full-umbrella")
    assert book.shots.toggle_tag(shot, "off-axis")
    assert not book.shots.toggle_tag(shot, "off-axis")
    book.shots.rate(shot, 9)
    book.shots.annotate(shot, "for print 3 – schön")
    book.state.put("theme", "day")
    book.close()
    again = Logbook.open(tmp_path / "log.ondine")
    record = again.shots.get(shot)
    assert (record.shapes, record.rating, record.note) == (("full-umbrella",), 5, "for print 3 – schön")
    assert again.state.get("theme") == "day" and again.state.get("nothing") is None
    again.close()


def test_what_a_crash_left_planned_is_read_as_unknown(tmp_path, sequence, setup):
    book = Logbook.open(tmp_path / "log.ondine")
    shot = book.shots.plan(book.sittings.begin(SittingFacts("s"), NOON), Plan(sequence, setup), NOON)
    book.close()
    again = Logbook.open(tmp_path / "log.ondine")
    record = again.shots.get(shot)
    assert record.state is ShotState.UNKNOWN and not record.outcome_known
    again.close()


def test_a_picture_is_known_by_its_content(logbook, sequence, setup):
    shot = fire(logbook, sequence, setup)
    assert logbook.pictures.add(facts("a.jpg", "aa"), Pairing(), NOON) == (True, None)
    assert logbook.pictures.add(facts("moved.jpg", "aa"), Pairing(shot), NOON) == (False, shot)
    assert logbook.shots.get(shot).picture == Path("/pictures/moved.jpg")


def test_there_is_no_shot_of_another_number(logbook):
    with pytest.raises(LogbookError, match="no shot 7"):
        logbook.shots.get(7)


def test_a_time_without_a_zone_is_refused(logbook, sequence, setup):
    with pytest.raises(Exception, match="zone"):
        logbook.sittings.begin(SittingFacts("s"), datetime(2026, 1, 1))


def test_a_thousand_times_survive_to_the_microsecond(logbook, setup):
    at = NOON.replace(microsecond=123456)
    shot = fire(logbook, Sequence.with_one_flash((Pulse(0, 20_001),), 300_007), setup, at)
    assert logbook.shots.get(shot).at == at + timedelta(milliseconds=20)


def test_a_snapshot_sees_what_the_logbook_sees(tmp_path, sequence, setup):
    book = Logbook.open(tmp_path / "log.ondine")
    for minute in range(5):
        shot = fire(book, sequence, setup, NOON + timedelta(minutes=minute, microseconds=minute))
        book.shots.toggle_tag(shot, "crown")
        book.shots.toggle_tag(shot, "blurred")
        book.shots.rate(shot, minute)
        book.pictures.add(facts(f"{minute}.jpg", str(minute)), Pairing(shot, sure=minute != 2), NOON)
    book.shots.plan(book.sittings.begin(SittingFacts("left"), NOON), Plan(sequence, setup), NOON)
    book.state.put("theme", "day")
    book.close()
    claimed = claim(tmp_path / "log.ondine")
    seen = take_snapshot(claimed, 4)
    book = Logbook(claimed)
    assert seen.shots == book.shots.newest(1000)[:4]
    assert seen.state == {"theme": "day", "identity": identity_of(book.path)}
    book.close()


def test_a_snapshot_of_a_new_logbook_is_empty(tmp_path):
    claimed = claim(tmp_path / "log.ondine")
    assert take_snapshot(claimed, 4) == Snapshot()
    claimed.release()
