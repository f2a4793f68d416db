"""A card with a wrong clock finds its shots; nothing is written before somebody says so."""

import json
from datetime import UTC, datetime, timedelta
from pathlib import Path

import numpy as np
import pytest

from ondine.core.forecast.plan import Plan
from ondine.core.log.camera_clock import Clock
from ondine.core.setup import BenchKind
from ondine.logbook.card import read_card
from ondine.logbook.pairing import Pairing
from ondine.logbook.query_line import Vocabulary, read_query
from ondine.logbook.records import SittingFacts
from ondine.studio.card_import import matched, take_in, told
from ondine.studio.intake import read_for
from tests.cards import card, frame, photographed
from tests.rawfiles import dng

BEGAN = datetime(2026, 5, 9, 18, 0, 0, 400_000, tzinfo=UTC)
AHEAD = timedelta(hours=2, minutes=3, seconds=17)


@pytest.fixture
def fired(logbook, sequence, setup) -> list[datetime]:
    """Forty shots, half a minute or so apart."""
    gaps = np.random.default_rng(4).uniform(15, 60, 40)
    times = [BEGAN + timedelta(seconds=float(s)) for s in np.cumsum(gaps)]
    sitting = logbook.sittings.begin(SittingFacts("Evening"), BEGAN)
    for at in times:
        logbook.shots.plan(sitting, Plan(sequence, setup), at, bench=BenchKind.BY_HAND)
    logbook.shots.recover()
    return times


def give(logbook):
    return lambda facts, shot, sure: logbook.pictures.give(facts, shot, sure, BEGAN)


def test_a_card_whose_clock_is_hours_off_finds_all_its_shots(logbook, fired, tmp_path):
    card(tmp_path / "card", fired, AHEAD)
    found = matched(logbook, read_card(tmp_path / "card"))
    (clock,) = found.match.clocks
    assert clock.offset_s == pytest.approx(AHEAD.total_seconds(), abs=0.5)
    assert all(pair.sure and pair.frame == pair.shot for pair in found.match.pairs) and len(found.match.pairs) == 40
    # Nothing is written until it is asked for.
    assert all(shot.picture is None for shot in logbook.shots.newest(100))
    done = take_in(BenchKind.BY_HAND, found, give(logbook))
    assert (done.done, done.of, len(done.taken), done.questions, done.refused) == (40, 40, 40, [], [])
    for shot in logbook.shots.newest(100):
        assert shot.picture.name == f"IMG_{shot.id:04d}.JPG" and shot.picture_sure


@pytest.mark.parametrize("last", [1, 3])
def test_a_card_that_is_finished_later_finds_its_last_frames(logbook, fired, tmp_path, last):
    """Of before: "No clock was found", "no shot"."""
    files = card(tmp_path / "card", fired[:15], AHEAD)
    later = tmp_path / "later"
    later.mkdir()
    for path in files[-last:]:
        path.rename(later / path.name)
    take_in(BenchKind.BY_HAND, matched(logbook, read_card(tmp_path / "card")), give(logbook))
    for path in later.iterdir():
        path.rename(tmp_path / "card" / path.name)
    found = matched(logbook, read_card(tmp_path / "card"))
    assert len(found.known) == 15 - last and not found.match.frames_left
    assert [found.shots[pair.shot].shot_id for pair in found.match.pairs] == list(range(16 - last, 16))
    assert all(pair.sure for pair in found.match.pairs)


def test_a_second_body_has_a_clock_of_its_own(logbook, fired, tmp_path):
    for n, at in enumerate(fired, start=1):
        is_second = n % 8 == 0
        shown = (at + AHEAD + timedelta(minutes=is_second)).replace(tzinfo=None)
        frame(tmp_path / "card" / f"IMG_{n:04d}.JPG", shown, n, serial="2" if is_second else "1")
    found = matched(logbook, read_card(tmp_path / "card"))
    assert len(found.match.clocks) == 2 and len(found.match.pairs) == 40
    assert {found.frames[p.frame].path.name for p in found.match.pairs if p.clock == 1} == {
        f"IMG_{n:04d}.JPG" for n in range(8, 41, 8)
    }


def test_missing_and_foreign_frames_are_told_apart(logbook, fired, tmp_path):
    files = card(tmp_path / "card", fired, AHEAD)
    for n in (3, 11, 12, 30):
        files[n].unlink()
    for n in range(5):
        frame(tmp_path / "card" / f"TRIAL{n}.JPG", datetime(2026, 5, 9, 12, n, n), 500 + n)
    found = matched(logbook, read_card(tmp_path / "card"))
    assert [found.shots[n].shot_id for n in found.match.shots_left] == [4, 12, 13, 31]
    assert {found.frames[n].path.name[:5] for n in found.match.frames_left} == {"TRIAL"}
    as_json = json.loads(json.dumps(told(found)))
    assert as_json["shots_without_frame"] == [4, 12, 13, 31] and len(as_json["frames_without_shot"]) == 5
    assert len(as_json["pairs"]) == 36 and as_json["doubtful"] == []


def test_doubtful_frames_become_questions(logbook, fired, tmp_path):
    files = card(tmp_path / "card", fired, AHEAD)
    # A burst: two more frames in the second of the tenth shot.
    for n in (1, 2):
        frame(files[9].with_name(f"IMG_0010_{n}.JPG"), (fired[9] + AHEAD).replace(tzinfo=None), 300 + n)
    found = matched(logbook, read_card(tmp_path / "card"))
    (pair,) = found.match.doubtful
    assert found.shots[pair.shot].shot_id == 10 and found.frames[pair.frame].path.name == "IMG_0010.JPG"
    done = take_in(BenchKind.BY_HAND, found, give(logbook))
    assert done.questions == [10] and not logbook.shots.get(10).picture_sure
    query = read_query("picture in question", Vocabulary(BEGAN))
    assert logbook.search.ids(query).tolist() == [10]


def test_raw_files_come_with_their_jpegs(logbook, fired, tmp_path):
    for n, path in enumerate(card(tmp_path / "card", fired[:12], AHEAD)):
        dng(path.with_suffix(".DNG"), 300 + n, (fired[n] + AHEAD).replace(tzinfo=None))
    found = matched(logbook, read_card(tmp_path / "card"))
    take_in(BenchKind.BY_HAND, found, give(logbook))
    paths = {Path(path).name for path in logbook.pictures.paths()}
    assert len(paths) == 24 and len(logbook.search.ids(read_query("with picture", Vocabulary(BEGAN)))) == 12


def test_what_is_cancelled_stays_and_is_gone_on_with(logbook, fired, tmp_path):
    card(tmp_path / "card", fired, AHEAD)
    found = matched(logbook, read_card(tmp_path / "card"))
    progress = []
    first = take_in(
        BenchKind.BY_HAND, found, give(logbook), lambda s: progress.append(s.done), lambda: len(progress) == 15
    )
    assert first.done == 15
    again = matched(logbook, read_card(tmp_path / "card"))
    # What the log has tells the clock; only the rest is matched.
    assert len(again.known) == 15 and len(again.match.pairs) == 25 and all(p.sure for p in again.match.pairs)
    take_in(BenchKind.BY_HAND, again, give(logbook))
    assert all(shot.picture is not None for shot in logbook.shots.newest(100))


def test_one_picture_that_the_log_has_tells_the_clock_of_a_regular_series(logbook, sequence, setup, tmp_path):
    times = [BEGAN + timedelta(seconds=41 * n) for n in range(30)]
    sitting = logbook.sittings.begin(SittingFacts("Series"), BEGAN)
    for at in times:
        logbook.shots.plan(sitting, Plan(sequence, setup), at, bench=BenchKind.BY_HAND)
    logbook.shots.recover()
    files = card(tmp_path / "card", times, AHEAD)
    files[0].unlink()
    unknown = matched(logbook, read_card(tmp_path / "card"))
    assert not any(pair.sure for pair in unknown.match.pairs)
    facts = read_for(BenchKind.BY_HAND, files[7])
    logbook.pictures.add(facts, Pairing(8), BEGAN)
    known = matched(logbook, read_card(tmp_path / "card"))
    assert all(pair.sure for pair in known.match.pairs)
    assert all(
        known.frames[p.frame].path.name == f"IMG_{known.shots[p.shot].shot_id:04d}.JPG" for p in known.match.pairs
    )


def test_the_clock_can_be_slid_by_hand(logbook, fired, tmp_path):
    card(tmp_path / "card", fired, AHEAD)
    found = matched(logbook, read_card(tmp_path / "card"))
    slid = found.with_clock(Clock(AHEAD.total_seconds() + 9000))
    assert len(slid.match.pairs) < 10 and slid.frames == found.frames
    assert len(slid.with_clock(found.match.clocks[0]).match.pairs) == 40


def test_a_damaged_picture_is_named_and_the_others_come(logbook, fired, tmp_path):
    files = card(tmp_path / "card", fired, AHEAD)
    files[5].write_bytes(files[5].read_bytes()[:-40])
    found = matched(logbook, read_card(tmp_path / "card"))
    done = take_in(BenchKind.BY_HAND, found, give(logbook))
    (refused,) = [*found.refused, *done.refused]
    assert len(done.taken) == 39 and "IMG_0006.JPG" in refused
    assert logbook.shots.get(6).picture is None


def test_an_empty_card_has_nothing_to_match(logbook, fired, tmp_path):
    found = matched(logbook, read_card(tmp_path))
    assert found.frames == () and found.match.pairs == () and told(found)["pairs"] == []


def test_originals_are_not_touched(logbook, fired, tmp_path):
    files = card(tmp_path / "card", fired, AHEAD)
    before = {path: (path.read_bytes(), path.stat().st_mtime_ns) for path in files}
    (tmp_path / "card").chmod(0o555)
    try:
        take_in(BenchKind.BY_HAND, matched(logbook, read_card(tmp_path / "card")), give(logbook))
    finally:
        (tmp_path / "card").chmod(0o755)
    assert {path: (path.read_bytes(), path.stat().st_mtime_ns) for path in files} == before
    assert sorted((tmp_path / "card").iterdir()) == sorted(files)


def test_one_photograph_of_the_clock_card_decides_what_times_alone_cannot(logbook, sequence, setup, tmp_path):
    """Shots a minute apart, by the tick: any shift by a minute fits as well."""
    times = [BEGAN + timedelta(minutes=n) for n in range(12)]
    sitting = logbook.sittings.begin(SittingFacts("Evening"), BEGAN)
    for at in times:
        logbook.shots.plan(sitting, Plan(sequence, setup), at, bench=BenchKind.BY_HAND)
    logbook.shots.recover()
    folder = tmp_path / "card"
    card(folder, times[2:9], AHEAD)
    without = matched(logbook, read_card(folder))
    assert not any(pair.sure for pair in without.match.pairs)
    shown = BEGAN + timedelta(minutes=20)
    photographed(folder / "IMG_0900.JPG", shown, shown=(shown + AHEAD).replace(tzinfo=None))
    found = matched(logbook, read_card(folder))
    assert found.clock_cards == 1 and told(found)["clock_cards"] == 1
    # A clock of whole seconds shows half a second too little on the whole.
    (anchor,) = found.anchors
    assert anchor.camera_s - anchor.true_s == pytest.approx(int((shown + AHEAD).timestamp()) + 0.5 - shown.timestamp())
    assert len(found.match.pairs) == 7 and all(p.sure and p.shot == p.frame + 2 for p in found.match.pairs)
    # Sliding by hand keeps it.
    assert found.with_clock(Clock(0.0)).clock_cards == 1
