"""Shots are found again; each answer is held against a plain walk through the records."""

import sqlite3
from contextlib import closing
from dataclasses import replace
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
from hypothesis import HealthCheck, example, given, settings
from hypothesis import strategies as st

from ondine.core.forecast.plan import Plan
from ondine.core.log.atlas import KEYS, UNTAGGED
from ondine.core.setup import BenchKind, Mix, Setup
from ondine.core.timing.sequence import FlashPulse, Pulse, Sequence
from ondine.logbook import shelf
from ondine.logbook.outcomes import Outcome
from ondine.logbook.query import EVERYTHING, Order, Query
from ondine.logbook.query_line import Vocabulary, read_query
from ondine.logbook.records import PastShot, ShotState, SittingFacts
from ondine.logbook.search import Search
from ondine.logbook.shelf import FORGOTTEN, Touched
from ondine.logbook.store import Logbook
from tests.calibrated import IN_HAND

NOON = datetime(2026, 5, 9, 12, 0, tzinfo=UTC)
MILKY = replace(Setup(), name="Milky", mix=Mix(milk_mass_fraction=0.2))
SHAPES = ("crown", "full-umbrella", "jet-top")
WORDS = ("", "for the foyer", "glycerine again", "gap too short", "Überlauf")


def ask(line: str) -> Query:
    return read_query(line, Vocabulary(NOON))


def shot(number: int) -> PastShot:
    """A shot whose every property follows from its number."""
    sequence = Sequence(
        (Pulse(0, 20_000 + 1000 * (number % 5)), Pulse(90_000 + 1000 * (number % 7), 20_000)),
        (FlashPulse(350_000 + 500 * (number % 11)),),
    )
    return PastShot(
        sitting=("Lake light", "Sand light")[number // 20 % 2],
        at=NOON + timedelta(days=number // 20, minutes=number % 20),
        plan=Plan(sequence, MILKY if number % 3 == 0 else Setup()),
        shapes=(SHAPES[number % 3],) if number % 4 else (),
        rating=number % 6,
        note=WORDS[number % 5],
        bench=BenchKind.BY_HAND if number % 2 else BenchKind.SIMULATED,
        keeper=number % 9 == 0,
        labels=("print 3",) if number % 13 == 0 else (),
    )


@pytest.fixture(scope="module")
def season(tmp_path_factory) -> Logbook:
    book = Logbook.open(tmp_path_factory.mktemp("season") / "log.ondine")
    book.shots.add_history([shot(number) for number in range(1, 61)])
    yield book
    book.close()


FITS = {
    "crown": lambda n: "crown" in shot(n).shapes,
    "not crown": lambda n: "crown" not in shot(n).shapes,
    "gap 70-72": lambda n: 70 <= 90 + n % 7 - (20 + n % 5) <= 72,
    "interval>=94": lambda n: 90 + n % 7 >= 94,
    "flash 352": lambda n: n % 11 == 4,
    "rating>=4": lambda n: n % 6 >= 4,
    "rating 2": lambda n: n % 6 == 2,
    "not rating>=4": lambda n: n % 6 < 4,
    "keeper": lambda n: n % 9 == 0,
    "tagged": lambda n: n % 4 != 0,
    "untagged": lambda n: n % 4 == 0,
    "by hand": lambda n: n % 2 == 1,
    "simulated": lambda n: n % 2 == 0,
    "foyer": lambda n: n % 5 == 1,
    "foy": lambda n: n % 5 == 1,
    "cro": lambda n: "crown" in shot(n).shapes,
    "umb": lambda n: "full-umbrella" in shot(n).shapes,
    "note cro": lambda n: False,
    "uberlauf": lambda n: n % 5 == 4,
    '"too short"': lambda n: n % 5 == 3,
    '"short too"': lambda n: False,
    "lake": lambda n: n // 20 % 2 == 0,
    'sitting "sand light"': lambda n: n // 20 % 2 == 1,
    "liquid milk": lambda n: n % 3 == 0,
    "set-up milky": lambda n: n % 3 == 0,
    "label print": lambda n: n % 13 == 0,
    "note print": lambda n: False,
    "since 2026-05-10": lambda n: n // 20 >= 1,
    "before 2026-05-10": lambda n: n // 20 == 0,
    "on 2026-05-11": lambda n: n // 20 == 2,
    "without picture": lambda n: True,
    "with picture": lambda n: False,
    "in the bin": lambda n: False,
    "did not fire": lambda n: False,
}


@pytest.mark.parametrize("line", FITS)
def test_a_search_finds_what_a_walk_through_all_shots_finds(season, line):
    wanted = [n for n in range(60, 0, -1) if FITS[line](n)]
    assert season.search.ids(ask(line)).tolist() == wanted


@settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(st.sampled_from(sorted(FITS)), min_size=1, max_size=4, unique=True))
def test_all_terms_have_to_hold(season, lines):
    wanted = [n for n in range(60, 0, -1) if all(FITS[line](n) for line in lines)]
    assert season.search.ids(ask(" ".join(lines))).tolist() == wanted


def test_shots_stand_in_the_order_of_their_time_not_of_their_number(logbook):
    for days in (3, 1, 2):
        logbook.shots.add_history([replace(shot(1), at=NOON + timedelta(days=days), rating=days)])
    assert logbook.search.ids(EVERYTHING).tolist() == [1, 3, 2]
    assert logbook.search.ids(EVERYTHING, Order.OLDEST).tolist() == [2, 3, 1]
    assert [s.id for s in logbook.shots.newest(2)] == [1, 3]
    logbook.shots.keep([2], keeper=True)
    assert logbook.search.ids(EVERYTHING, Order.BEST).tolist() == [2, 1, 3]


def test_a_shot_that_fires_late_stands_where_it_fired(logbook, sequence, setup):
    sitting = logbook.sittings.begin(SittingFacts("Evening"), NOON)
    for minutes in (0, 1):
        logbook.shots.plan(sitting, Plan(sequence, setup), NOON + timedelta(minutes=minutes))
    assert logbook.search.ids(EVERYTHING).tolist() == [2, 1]
    logbook.shots.finish(Outcome(1, NOON, ShotState.FIRED, NOON + timedelta(minutes=5)))
    assert logbook.search.ids(EVERYTHING).tolist() == [1, 2] and [s.id for s in logbook.shots.newest(9)] == [1, 2]


def test_what_is_written_is_found_at_once(logbook, sequence, setup):
    sitting = logbook.sittings.begin(SittingFacts("Evening"), NOON)
    assert len(logbook.search.ids(EVERYTHING)) == 0
    for number in range(1, 4):
        logbook.shots.plan(sitting, Plan(sequence, setup), NOON + timedelta(minutes=number), bench=BenchKind.BY_HAND)
        assert len(logbook.search.ids(ask("by hand interval 95 untagged unheard"))) == 0
        assert len(logbook.search.ids(ask("by hand interval 95"))) == number
    # All columns are in memory by now; each change has to reach them.
    for line in ("keeper", "rating>=3", "tagged", "in the bin", "label foyer", "note late", "did not fire"):
        assert logbook.search.ids(ask(line)).tolist() == []
    logbook.shots.keep([1], keeper=True)
    logbook.shots.rate(2, 3)
    logbook.shots.toggle_tag(3, "crown")
    logbook.shots.label([1, 2], "foyer")
    logbook.shots.annotate(2, "too late")
    logbook.shots.finish(Outcome(3, NOON + timedelta(minutes=3), ShotState.FAILED, None))
    found = {line: logbook.search.ids(ask(line)).tolist() for line in ("keeper", "rating>=3", "tagged", "label foyer")}
    assert found == {"keeper": [1], "rating>=3": [2], "tagged": [3], "label foyer": [2, 1]}
    assert logbook.search.ids(ask("note late")).tolist() == [2]
    assert logbook.search.ids(ask("did not fire")).tolist() == [3]
    logbook.shots.toggle_tag(3, "crown")
    logbook.shots.label([2], "foyer", on=False)
    assert logbook.search.ids(ask("tagged")).tolist() == []
    assert logbook.search.ids(ask("label foyer")).tolist() == [1]


def test_the_bin_keeps_its_shots_out_of_sight_and_gives_them_back(logbook, sequence, setup):
    sitting = logbook.sittings.begin(SittingFacts("Evening"), NOON)
    for number in range(3):
        logbook.shots.plan(sitting, Plan(sequence, setup), NOON + timedelta(minutes=number))
    logbook.shots.toggle_tag(2, "crown")
    logbook.shots.bin([2], NOON)
    assert logbook.search.ids(EVERYTHING).tolist() == [3, 1]
    assert logbook.search.ids(ask("in the bin")).tolist() == [2] and logbook.shots.get(2).binned
    assert logbook.search.ids(ask("crown")).tolist() == [] and logbook.search.ids(ask("crown in the bin")).tolist() == [
        2
    ]
    # What is in the bin teaches nothing, and is not among the newest.
    assert logbook.shots.tagged(BenchKind.UNKNOWN, 10) == [] and [s.id for s in logbook.shots.newest(9)] == [3, 1]
    logbook.shots.bin([2], None)
    assert logbook.search.ids(EVERYTHING).tolist() == [3, 2, 1]


def test_a_sitting_that_is_renamed_is_found_by_its_new_name(logbook, sequence, setup):
    sitting = logbook.sittings.begin(SittingFacts("Evening", place="Mill loft"), NOON)
    logbook.shots.plan(sitting, Plan(sequence, setup), NOON)
    logbook.sittings.describe(sitting, SittingFacts("Dusk", place="Quay", note="the valve drips"))
    assert logbook.search.ids(ask("evening")).tolist() == []
    assert [logbook.search.ids(ask(word)).tolist() for word in ("dusk", "quay", "drips")] == [[1]] * 3


@pytest.mark.parametrize("line", ['"', "-", "* OR *", "NEAR(a b)", "note:a", "a AND", "'; DROP TABLE shot; --", "\0x"])
def test_no_word_is_a_command_of_the_index(season, line):
    assert len(season.search.ids(ask(line))) in range(61)
    assert season.shots.count() == 60


def test_figures_come_as_columns(season):
    ids, figures = season.search.figures(ask("rating>=0"), ("interval_ms", "rating", "after_meeting_ms"))
    assert ids.tolist() == list(range(1, 61)) and figures.shape == (60, 3)
    assert figures[:, 0].tolist() == [90 + n % 7 for n in range(1, 61)]
    assert figures[:, 1].tolist() == [n % 6 for n in range(1, 61)] and np.isfinite(figures[:, 2]).any()


def test_the_most_alike_come_first(season):
    # What is like a shot that is not there is by time.
    assert season.search.near(EVERYTHING, 999).tolist() == season.search.ids(EVERYTHING, Order.LIKE).tolist()
    near = season.search.near(EVERYTHING, 7)
    assert near[0] == 7 and len(near) == 60
    ids, figures = season.search.figures(EVERYTHING, ("interval_ms",))
    away = dict(zip(ids.tolist(), np.abs(figures[:, 0] - 90.0), strict=True))
    first, last = ([away[n] for n in part.tolist()] for part in (near[:15], near[-15:]))
    assert np.mean(first) < np.mean(last)


def test_shots_of_one_timing_are_counted_together(logbook):
    timings = [1, 2, 1, 1, 2, 3]
    logbook.shots.add_history(
        [replace(shot(t), at=NOON + timedelta(minutes=i), shapes=("crown",) if i in (0, 2, 5) else ("contact",) if i == 3 else ())
         for i, t in enumerate(timings)]
    )  # fmt: skip
    groups = logbook.search.groups(EVERYTHING, "crown", 10)
    assert [(g.shot_id, g.count, g.known, g.hits) for g in groups] == [(4, 3, 3, 2), (6, 1, 1, 1), (5, 2, 0, 0)]
    assert logbook.search.of_group(4).tolist() == [1, 3, 4]
    assert len(logbook.search.groups(EVERYTHING, "crown", 2)) == 2


def test_figures_that_an_older_ondine_told_otherwise_are_told_anew(logbook):
    logbook.shots.add_history([shot(n) for n in range(1, 31)])
    assert logbook.facts.waiting() == 0
    with sqlite3.connect(logbook.path) as raw:
        raw.execute("UPDATE shot_facts SET version = 0, gap_ms = 1 WHERE shot_id <= 10")
        raw.execute("DELETE FROM shot_facts WHERE shot_id > 25")
        raw.execute("UPDATE shot SET sequence = 'nonsense' WHERE id = 30")
    raw.close()
    assert logbook.facts.waiting() == 15
    assert [logbook.facts.tell(6) for _ in range(4)] == [6, 6, 3, 0] and logbook.facts.waiting() == 0
    _, gaps = logbook.search.figures(EVERYTHING, ("gap_ms",))
    assert gaps[:29, 0].tolist() == [90 + n % 7 - (20 + n % 5) for n in range(1, 30)] and np.isnan(gaps[29, 0])


def test_what_was_touched_is_told_once():
    touched = Touched()
    touched.note([1, 2])
    touched.note([2, 3])
    assert touched.take() == {1, 2, 3} and touched.take() == set()
    touched.note([1])
    touched.note(None)
    touched.note([4])
    assert touched.take() is None and touched.take() == set()


def test_points_of_the_atlas_have_both_figures_and_the_shape_that_says_most(logbook):
    logbook.shots.add_history([replace(shot(n), shapes=()) for n in range(1, 6)])
    one = Sequence((Pulse(0, 22_000),), (FlashPulse(300_000),))
    logbook.shots.add_history([replace(shot(6), plan=Plan(one, Setup()))])
    logbook.shots.tag([1], "blurred")
    logbook.shots.tag([1], "crown")
    logbook.shots.tag([1], "full-umbrella")
    logbook.shots.tag([2], "crown")
    logbook.shots.tag([3], "own-twin")
    logbook.shots.tag([4], "own-bird")
    for name, letter in (("twin", "T"), ("bird", "B")):
        logbook.shapes.add(name, letter, "ring")
    found = logbook.search.points(EVERYTHING, "interval_ms", "flash_ms")
    # One drop has no interval.
    assert found.ids.tolist() == [1, 2, 3, 4, 5] and found.x.tolist() == [90 + n % 7 for n in range(1, 6)]
    assert [KEYS[s] if 0 <= s < len(KEYS) else s for s in found.shape.tolist()] == [
        "full-umbrella", "crown", len(KEYS) + 1, len(KEYS), UNTAGGED,
    ]  # fmt: skip
    # Taken off the board, a shape keeps to itself.
    logbook.shapes.forget("own-bird")
    found = logbook.search.points(EVERYTHING, "interval_ms", "flash_ms")
    assert found.shape.tolist()[2:] == [len(KEYS), len(KEYS) + FORGOTTEN, UNTAGGED]
    assert found.comparable.all()
    # A tag that goes is gone here too.
    logbook.shots.tag([1], "full-umbrella", on=False)
    again = logbook.search.points(EVERYTHING, "interval_ms", "flash_ms")
    assert KEYS[again.shape[0]] == "crown"


def test_what_fell_from_elsewhere_or_was_not_well_known_cannot_be_compared(logbook):
    low = replace(Setup(), valves=(replace(Setup().valves[0], nozzle_height_m=0.22),))
    logbook.shots.add_history([shot(n) for n in range(1, 5)])
    logbook.shots.add_history([replace(shot(5), plan=Plan(shot(5).plan.sequence, low))])
    by_trigger = logbook.search.points(EVERYTHING, "interval_ms", "flash_ms")
    assert by_trigger.comparable.tolist() == [True] * 4 + [False]
    # Nobody has taught this belief anything: its touchdown is known to some eight milliseconds.
    by_touchdown = logbook.search.points(EVERYTHING, "interval_ms", "after_touchdown_ms")
    assert not by_touchdown.comparable.any()
    logbook.shots.add_history([replace(shot(6), plan=IN_HAND)])
    assert logbook.search.points(EVERYTHING, "interval_ms", "after_touchdown_ms").comparable.tolist()[-1]
    assert logbook.search.points(EVERYTHING, "interval_ms", "open_ms").comparable.all()


def test_a_ladder_has_the_instants_of_one_splash(season):
    """The shots of one sitting with the same drops, by their flash: held against a walk through all records."""
    records = {record.id: record for record in season.shots.newest(99)}
    for number in (1, 23, 44):
        here = records[number]
        # Sittings of one name on other days are others.
        same = [
            r for r in records.values() if r.at.date() == here.at.date() and r.sequence.drops == here.sequence.drops
        ]
        wanted = [r.id for r in sorted(same, key=lambda r: (r.sequence.first_flash_us, r.at))]
        assert season.search.ladder(number).tolist() == wanted and number in wanted
    assert season.search.ladder(9999).tolist() == []


def test_the_figures_of_some_shots_are_told_without_those_they_lack(season):
    told, lost = season.search.figures_of([7, 9999])
    assert told["interval_ms"] == 90 + 7 % 7 and told["flash_ms"] == 350 + 0.5 * 7 and told["rating"] == 1
    assert "head_mm" not in told and lost == {}


def test_a_ladder_leaves_out_what_is_in_the_bin(logbook):
    logbook.shots.add_history([shot(n) for n in (1, 36)] + [replace(shot(1), at=NOON + timedelta(days=0, minutes=40))])
    assert logbook.search.ladder(1).tolist() == [1]
    same = [replace(shot(1), at=NOON + timedelta(hours=2, minutes=n), sitting="One") for n in range(3)]
    logbook.shots.add_history(same)
    first = logbook.shots.count() - 2
    assert logbook.search.ladder(first).tolist() == [first, first + 1, first + 2]
    logbook.shots.bin([first + 1], NOON)
    assert logbook.search.ladder(first).tolist() == [first, first + 2]


@given(st.lists(st.integers(-(2**63), 2**63 - 1)), st.integers(1, 40))
def test_a_long_text_is_read_part_by_part_and_nothing_is_lost_between(numbers, part_chars):
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(shelf, "PART_CHARS", part_chars)
        assert shelf._numbers(",".join(str(number) for number in numbers)).tolist() == numbers
    assert shelf._numbers(None).tolist() == []


@given(st.integers(-(10**12), 10**12), st.integers(6, 9))
@example(169, 1)
@example(493, 6)
def test_a_figure_keeps_its_decimals_to_the_last_bit(digits, decimals):
    figure = digits / 10**decimals
    with closing(sqlite3.connect(":memory:")) as database:
        database.execute("CREATE TABLE shot_facts (shot_id, height_mm)")
        database.execute("INSERT INTO shot_facts VALUES (1, ?)", (figure,))
        held = database.execute(shelf.NUMBERS["height_mm"]).fetchone()[1]
    assert held / shelf.SCALE == figure


@pytest.mark.parametrize("part_shots", [1, 7, 60, 1000])
def test_columns_that_are_read_part_by_part_are_those_that_are_read_at_once(season, monkeypatch, part_shots):
    monkeypatch.setattr(shelf, "PART_SHOTS", part_shots)
    parted, whole = (Search(season.search._database) for _ in range(2))
    for name in (*Search.OFTEN, *Search.SELDOM):
        steps = 1
        while not parted.make_ready(name):
            steps += 1
        assert steps == (1 if name in shelf.SETS else 60 // part_shots + 1)
        whole._shelf.refresh()
        np.testing.assert_array_equal(parted._shelf.column(name), whole._shelf.column(name))


def test_a_column_that_is_half_read_begins_again_when_a_shot_changes(logbook, monkeypatch):
    monkeypatch.setattr(shelf, "PART_SHOTS", 10)
    logbook.shots.add_history([shot(n) for n in range(1, 31)])
    assert not logbook.search.make_ready("rating") and not logbook.search.make_ready("rating")
    logbook.shots.rate(3, 5)
    while not logbook.search.make_ready("rating"):
        pass
    found = logbook.search.ids(ask("rating 5"), Order.OLDEST).tolist()
    assert found == [n for n in range(1, 31) if n % 6 == 5 or n == 3]
