"""Runs on hidden rigs: begun, fired, found, given up, left, and taken up again after a restart."""

import threading
from dataclasses import replace

import pytest

from ondine.bench.protocol import Bench
from ondine.bench.simulated.devices import SimulatedController, SimulatedTable
from ondine.bench.simulated.levels import ROOMS, Level
from ondine.bench.simulated.population import PracticeRig
from ondine.core.coach.goal import Goal
from ondine.core.setup import BenchKind
from ondine.core.units import Length, Units
from ondine.demo.taught import TAUGHT
from ondine.studio.events import BenchState, CoachSays, Notice, RigMeasured, Showed
from ondine.studio.practice.par import measure
from ondine.studio.practice.truth import event_words, truths
from tests.conftest import TestCamera


class DeafCamera(TestCamera):
    def expose(self, *what: object) -> None:
        self.told = what


@pytest.fixture
def hidden(table):
    """A studio on a simulated bench that takes no time and no pictures."""
    table.studio.close()
    simulated = SimulatedTable(5, table.controller.clock, table.ticks.sleep, table.ticks)
    table.simulated, table.camera = simulated, DeafCamera()
    table.bench = Bench(BenchKind.SIMULATED, SimulatedController(simulated, table.camera), table.camera)
    table.studio = table.open()
    return table


def heard(table) -> None:
    """Hand the events on as the window would."""
    table.settle()
    for event in list(table.events):
        if isinstance(event, Showed):
            table.studio.practice.showed(event)
            table.events.remove(event)


def fire(table, flash_us: int | None = None) -> str:
    if flash_us is not None:
        table.studio.composer.use_sequence(table.studio.composer.sequence.with_flash(0, flash_us))
    assert table.fire()
    heard(table)
    return table.studio.practice.book.shown[-1].shape


def where_it_is_full(rig: PracticeRig) -> int:
    return round(rig.events_s(rig.start)["sheet widest"] * 1e6)


def test_a_run_begins_with_what_its_photographer_entered_and_ends_with_the_goal(hidden):
    practice, composer = hidden.studio.practice, hidden.studio.composer
    own = composer.plan
    assert practice.begin(Level.EASY, "full-umbrella", hints=False)
    hidden.settle()
    rig = practice.rig
    assert composer.setup.valves == rig.setup.valves and composer.setup.mix == rig.setup.mix
    assert composer.sequence == rig.start and composer.belief.learned is None
    assert hidden.simulated.rig == rig.hidden != PracticeRig(rig.hidden and 1002, Level.EASY).hidden
    assert not practice.allows_hints
    first = fire(hidden)
    practice.tagged(hidden.newest().id, (first,))
    assert practice.is_running
    for _ in range(12):
        if fire(hidden, where_it_is_full(rig)) == "full-umbrella":
            break
    assert practice.is_running, "seen is not yet recognised"
    count = len(practice.book.shown)
    practice.tagged(hidden.newest().id, ("full-umbrella",))
    run = practice.book.run
    assert run.over and run.found and run.shots == count and practice.allows_hints
    assert any(f"Found in {count} shots" in e.message for e in hidden.heard(Notice))
    assert practice.leave()
    hidden.settle()
    assert composer.plan == own and practice.book.run is None
    assert hidden.simulated.seed == 5 and not hidden.simulated.tells
    # The rig's own shots stay its own.
    assert not practice.book.counts(run.first) and practice.book.counts(run.last + 1)


def test_a_wrong_claim_ends_nothing_and_says_what_is_there(hidden):
    practice = hidden.studio.practice
    practice.begin(Level.NORMAL, "full-umbrella", hints=True)
    shape = fire(hidden, 1_000_000)
    assert shape == "ripples"
    practice.tagged(hidden.newest().id, ("full-umbrella",))
    assert practice.is_running
    assert any("Not yet: that picture shows ripples" in e.message for e in hidden.heard(Notice))
    practice.tagged(99_999, ("full-umbrella",))
    assert practice.is_running


def test_given_up_counts_as_not_found(hidden):
    practice = hidden.studio.practice
    practice.begin(Level.TREACHEROUS, "crown", hints=True)
    fire(hidden)
    practice.give_up()
    assert (practice.book.run.over, practice.book.run.found, practice.book.run.shots) == (True, False, 1)
    numbers = [practice.book.run.rig]
    practice.begin(Level.TREACHEROUS, "crown", hints=True)
    numbers.append(practice.book.run.rig)
    assert numbers[1] == numbers[0] + 1 and not practice.book.shown


def test_what_the_bench_tells_is_what_the_rig_shows_with_its_late_light(hidden):
    """The picture is taken when the light falls, later than it was asked for; the rig made anew agrees."""
    practice = hidden.studio.practice
    practice.begin(Level.TREACHEROUS, "crown", hints=True)
    rig = practice.rig
    late_us = rig.hidden.flash_lag_s * 1e6
    assert late_us > 5_000
    crown_us = round((rig.events_s(rig.start)["touchdown"] + 6e-3) * 1e6)
    assert fire(hidden, crown_us) == "crown"
    (light,) = hidden.camera.told[1]
    assert light.at_us == pytest.approx(crown_us + late_us, abs=2)


def test_a_run_goes_on_after_a_restart(hidden):
    practice = hidden.studio.practice
    practice.begin(Level.EASY, "jet-top", hints=True)
    fire(hidden)
    rig, book = practice.rig.hidden, practice.book
    hidden.studio.close()
    simulated = SimulatedTable(5, hidden.controller.clock, hidden.ticks.sleep, hidden.ticks)
    hidden.bench = Bench(BenchKind.SIMULATED, SimulatedController(simulated, hidden.camera), hidden.camera)
    hidden.studio = hidden.open()
    hidden.settle()
    assert hidden.studio.practice.book == book
    # The rig, and the luck that its next shot has, are those of the run.
    assert simulated.rig == rig and simulated.shots == 1 and simulated.tells


def test_a_spoilt_book_is_set_aside_and_practice_begins_anew(hidden):
    hidden.studio.log.keep("practice", '{"runs": [{"level": "hopeless"}]}')
    hidden.settle()
    hidden.studio.close()
    hidden.studio = hidden.open()
    assert hidden.studio.practice.book.runs == ()
    hidden.studio.say_what_was_set_aside()
    assert any("what was practised" in getattr(event, "message", "") for event in hidden.events)


def test_a_busy_bench_keeps_its_rig(hidden):
    practice = hidden.studio.practice
    hidden.studio.bench.state = BenchState.FIRING
    assert not practice.begin(Level.EASY, "crown", hints=True) and practice.book.run is None
    hidden.studio.bench.state = BenchState.READY
    assert practice.begin(Level.EASY, "crown", hints=True)
    hidden.studio.bench.state = BenchState.FIRING
    assert not practice.leave() and practice.book.run is not None
    hidden.studio.bench.state = BenchState.READY


def test_the_coach_learns_from_the_rig_on_the_bench_alone(hidden):
    practice, coach = hidden.studio.practice, hidden.studio.coach
    fire_free = hidden.fire
    assert fire_free()
    hidden.settle()
    hidden.studio.log.toggle_tag(hidden.newest().id, "ripples")
    practice.begin(Level.EASY, "full-umbrella", hints=True)
    hidden.settle()
    coach.turn(True)
    coach.aim_at(Goal())
    said = hidden.heard(CoachSays, within_s=30)
    assert said[-1].shots == 0, "a shot of another rig has taught it"
    shape = fire(hidden)
    hidden.studio.log.toggle_tag(hidden.newest().id, shape)
    hidden.settle()
    hidden.events.clear()
    coach.ask()
    assert hidden.heard(CoachSays, within_s=30)[-1].shots == 1
    practice.leave()
    hidden.settle()
    hidden.events.clear()
    coach.ask()
    assert hidden.heard(CoachSays, within_s=30)[-1].newest == 1


def test_par_is_what_the_coach_needs_and_its_path_is_one_on_this_rig():
    found = measure(Level.EASY, 1001, "full-umbrella", lambda: True)
    assert 1 <= found.par <= 6
    rig = PracticeRig(1001, Level.EASY, luck=1)
    assert [one.shape for one in found.path] == [rig.fire(one.sequence) for one in found.path]
    assert found.path[-1].shape == "full-umbrella"
    stopped = threading.Event()
    stopped.set()
    assert measure(Level.EASY, 1001, "full-umbrella", lambda: not stopped.is_set()) is None


def test_the_par_of_another_rig_is_not_taken_for_this_ones(hidden):
    practice = hidden.studio.practice
    practice.begin(Level.EASY, "crown", hints=True)
    practice.take(RigMeasured(4242, 1, ()))
    assert practice.book.run.par == 0
    practice.take(RigMeasured(practice.book.run.rig, 3, ()))
    assert practice.book.run.par == 3


def test_closing_ends_the_search_for_a_par(hidden):
    hidden.studio.practice.begin(Level.TREACHEROUS, "full-umbrella", hints=True)
    hidden.studio.close()
    assert not any(thread.name.startswith("practice") for thread in threading.enumerate())
    assert not any(isinstance(event, RigMeasured) for event in hidden.events)
    hidden.studio = hidden.open()


def test_harder_levels_hide_more():
    def spread(level: Level, name: str) -> float:
        values = [getattr(PracticeRig(seed, level).hidden, name) for seed in range(40)]
        return max(values) - min(values)

    for name in ("valve_lag_s", "outlet_m", "jet_factor", "height_offset_m", "flash_lag_s"):
        assert spread(Level.EASY, name) <= spread(Level.NORMAL, name) < spread(Level.TREACHEROUS, name)
    assert ROOMS[Level.TREACHEROUS] == replace(ROOMS[Level.TREACHEROUS], share=1.0, jitter_s=1.5e-3)
    assert spread(Level.EASY, "flash_lag_s") == 0


def test_the_truth_is_the_hidden_rig_s_in_the_photographer_s_units():
    rig = PracticeRig(2001, Level.NORMAL)
    told = {one.name: one for one in truths(rig, Units(length=Length.CM))}
    assert told["The flash lights late by"].truly == f"{rig.hidden.flash_lag_s * 1e3:.0f} ms"
    height = told["Nozzle height"]
    assert height.thought == f"{rig.setup.nozzle_height_m * 100:.1f} cm"
    assert height.truly == f"{(rig.setup.nozzle_height_m + rig.hidden.height_offset_m) * 100:.1f} cm"
    assert f"touchdown {rig.events_s(rig.start)['touchdown'] * 1e3:.0f} ms" in event_words(rig, rig.start)


def test_what_was_learned_of_another_rig_does_not_come_back_by_undoing(hidden):
    composer = hidden.studio.composer
    composer.learn(TAUGHT.learned)
    hidden.studio.practice.begin(Level.EASY, "crown", hints=False)
    composer.use_sequence(composer.sequence.with_flash(0, 111_000))
    composer.undo()
    assert composer.belief.learned is None
