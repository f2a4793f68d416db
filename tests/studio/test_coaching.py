"""The coach at work: what a shot says, what a box can dial, and what is told."""

import time
from dataclasses import replace
from datetime import UTC, datetime

import pytest

from ondine.core.coach.goal import Goal
from ondine.core.setup import BenchKind, Mix, Release, Triggers
from ondine.core.setup.box import Box
from ondine.core.table.firing import problems
from ondine.core.timing.dials import dialled
from ondine.core.timing.limits import Outputs
from ondine.core.timing.sequence import FlashPulse
from ondine.logbook.records import PastShot, ShotRecord, ShotState
from ondine.studio.coaching import Coaching, seen_in
from ondine.studio.events import CoachSays, CoachSilent, CoachThinks, Trouble
from tests.conftest import PAIR


def record(*shapes: str, reports: tuple[int, ...] | None = None) -> ShotRecord:
    at = datetime(2026, 5, 9, tzinfo=UTC)
    return ShotRecord(7, "Test", "a", "b", at, ShotState.FIRED, PAIR, "", reports, None, 0, "", shapes, None)


@pytest.mark.parametrize(
    ("shapes", "said"),
    [
        (("crown",), "crown"),
        (("blurred", "full-umbrella"), "full-umbrella"),
        (("crown", "full-umbrella"), "full-umbrella"),
        (("blurred",), "blurred"),
        (("crown", "of another program"), "crown"),
    ],
)
def test_of_several_tags_the_liveliest_counts(shapes, said):
    assert seen_in(record(*shapes)).shape == said


def test_what_says_nothing_is_nothing():
    assert seen_in(record()) is None and seen_in(record("of another program")) is None


def test_a_shot_without_a_drop_or_a_flash_teaches_nothing():
    """A logbook of the past may hold one; of before, the coach ended with NumPy's words."""
    for sequence in (replace(PAIR, drops=()), replace(PAIR, flashes=())):
        assert seen_in(replace(record("crown"), sequence=sequence)) is None


def test_the_flash_counts_when_the_bench_says_it_fired():
    assert seen_in(record("crown", reports=(351_234,))).sequence.flashes == (FlashPulse(351_234),)
    assert seen_in(record("crown", reports=(1, 2))).sequence == PAIR


@pytest.fixture
def coached(table):
    told = []
    studio = table.studio
    coach = Coaching(studio.writer, studio.composer, BenchKind.CABLE, told.append, studio.guard)
    coach.told = told
    yield coach
    coach.close()


def said(coach, count: int = 1) -> CoachSays:
    end = time.monotonic() + 30
    while time.monotonic() < end:
        found = [event for event in coach.told if isinstance(event, CoachSays)]
        if len(found) >= count:
            return found[-1]
        time.sleep(0.01)
    raise AssertionError(coach.told)


def test_it_is_silent_until_it_is_asked(coached):
    coached.ask()
    time.sleep(0.4)
    assert not coached.told
    coached.turn(True)
    assert said(coached).shots == 0
    thinking = [event.busy for event in coached.told if isinstance(event, CoachThinks)]
    assert thinking[0] is True and thinking.count(True) - thinking.count(False) in (0, 1)


def test_only_this_benchs_tags_teach_in_the_order_in_which_they_fired(coached, table):
    plan = table.studio.composer.plan
    past = [
        PastShot("A", datetime(2026, 5, 9, 12, minute, tzinfo=UTC), plan, shapes, bench=bench)
        for minute, shapes, bench in (
            (3, ("crater",), BenchKind.CABLE),
            (1, ("crown",), BenchKind.CABLE),
            (2, (), BenchKind.CABLE),
            (4, ("full-umbrella",), BenchKind.SIMULATED),
        )
    ]
    logbook = table.studio.writer.logbook
    logbook.shots.add_history(past)
    tagged = logbook.shots.tagged(BenchKind.CABLE, 500)
    assert [shot.shapes for shot in tagged] == [("crown",), ("crater",)]
    assert [shot.shapes for shot in logbook.shots.tagged(BenchKind.CABLE, 1)] == [("crater",)]
    coached.turn(True)
    assert said(coached).shots == 2


def test_equal_shots_say_how_steady_the_rig_is(coached, table):
    plan = table.studio.composer.plan
    tags = ("full-umbrella", "torn-umbrella", "full-umbrella", "full-umbrella")
    past = [
        PastShot("A", datetime(2026, 5, 9, 12, minute, tzinfo=UTC), plan, (shape,), bench=BenchKind.CABLE)
        for minute, shape in enumerate(tags)
    ]
    table.studio.writer.logbook.shots.add_history(past)
    coached.turn(True)
    assert said(coached).steady.startswith("3 of 4 hit (30 to 95%). For 3 keepers take")
    coached.told.clear()
    coached.aim_at(Goal("crown"))
    assert "0 of 4 hit" in said(coached).steady


def test_a_box_gets_what_its_dials_can_say(coached, table):
    box = Box(in_use=True, step_us=10_000)
    table.studio.composer.use_setup(replace(table.studio.composer.setup, box=box))
    coached.turn(True)
    best = said(coached).proposal.best.sequence
    assert best == dialled(best, box)
    assert best.first_flash_us % 10_000 == 0


def test_another_goal_is_thought_about(coached):
    coached.turn(True)
    said(coached)
    coached.aim_at(Goal("crown"))
    assert said(coached, 2).proposal.goal == Goal("crown")


def test_a_table_at_which_nothing_falls_is_a_sentence(coached, table):
    setup = table.studio.composer.setup
    table.studio.composer.use_setup(replace(setup, mix=replace(setup.mix, temperature_c=-99.0)))
    coached.turn(True)
    silent = waited(coached, CoachSilent)
    assert silent.why and not any(isinstance(event, Trouble) for event in coached.told)


def test_openings_that_let_no_drop_fall_are_a_sentence(coached, table):
    composer = table.studio.composer
    short = tuple(replace(pulse, open_us=1_000) for pulse in composer.sequence.drops)
    composer.use_sequence(replace(composer.sequence, drops=short))
    coached.turn(True)
    assert "open the valve longer" in waited(coached, CoachSilent).why


def waited(coach, kind: type):
    end = time.monotonic() + 20
    while time.monotonic() < end:
        for event in coach.told:
            if isinstance(event, kind):
                return event
        time.sleep(0.01)
    raise AssertionError(coach.told)


def test_closing_in_the_midst_of_a_thought_ends_it(coached):
    coached.turn(True)
    while not coached.told:
        time.sleep(0.005)
    began = time.monotonic()
    coached.close()
    assert time.monotonic() - began < 5
    assert not any(isinstance(event, Trouble) for event in coached.told)


def asked(coached, kind):
    """Ask anew, and return the first answer of a kind."""
    coached.told.clear()
    coached.ask()
    return waited(coached, kind)


@pytest.mark.parametrize("shape", ["crown", "full-umbrella", "rising-jet", None])
@pytest.mark.parametrize(
    "triggers",
    [
        Triggers(),
        Triggers(shutter_lag_s=0.265, shutter_jitter_s=0.0015),
        Triggers(release=Release.INFRARED, mirror_up=False, shutter_lag_s=0.14),
    ],
)
def test_what_it_proposes_may_be_fired(coached, table, shape, triggers):
    setup = replace(table.studio.composer.setup, triggers=triggers)
    table.studio.composer.use_setup(setup)
    coached.on, coached.goal = True, Goal(shape)
    proposal = asked(coached, CoachSays).proposal
    for one in (proposal.best, proposal.safer, proposal.bolder):
        assert one is None or not problems(one.sequence, setup)


def test_a_crown_that_comes_before_the_shutter_opens_is_a_sentence(coached, table):
    setup = table.studio.composer.setup
    table.studio.composer.use_setup(replace(setup, triggers=Triggers(shutter_lag_s=0.6)))
    coached.on, coached.goal = True, Goal("crown")
    why = asked(coached, CoachSilent).why
    assert why.startswith("No shot that may show crown can be fired here. The shutter may still be shut: it opens")
    assert why.endswith("Open it earlier, or start the drops later.")


def test_a_box_that_cannot_dial_two_drops_is_a_sentence(coached, table):
    box = Box(name="Box", in_use=True, max_drops=1)
    table.studio.composer.use_setup(replace(table.studio.composer.setup, box=box))
    coached.on = True
    assert "Box knows one drop" in asked(coached, CoachSilent).why
    coached.goal = Goal("crown")
    assert len(asked(coached, CoachSays).proposal.best.sequence.drops) == 1


def test_where_a_goal_cannot_be_had_all_is_said_of_the_nearest(coached, table):
    setup = table.studio.composer.setup
    table.studio.composer.use_setup(replace(setup, mix=Mix(glycerine_mass_fraction=0.9)))
    coached.on, coached.goal = True, Goal("crown")
    says = asked(coached, CoachSays)
    assert says.reason == "This table cannot: crown. Nearest that it can: crater."
    assert says.proposal.goal == Goal("crater") and next(iter(says.proposal.best.shapes)) == "crater"
    assert not says.hit and says.steps[-1].hits == 0
    plan = table.studio.composer.plan
    shot = PastShot("A", datetime(2026, 5, 9, 12, tzinfo=UTC), plan, ("crater",), bench=BenchKind.CABLE)
    table.studio.writer.logbook.shots.add_history([shot])
    says = asked(coached, CoachSays)
    assert says.hit and says.steps[-1].hits == 1


def test_a_controller_with_too_few_outputs_is_a_sentence(table):
    studio, told = table.studio, []
    coach = Coaching(
        studio.writer, studio.composer, BenchKind.CABLE, told.append, studio.guard, outputs=Outputs(valves=1)
    )  # fmt: skip
    coach.told = told
    setup = studio.composer.setup
    studio.composer.use_setup(replace(setup, valves=(setup.valves[0], setup.valves[0])))
    first, second = studio.composer.sequence.drops
    studio.composer.use_sequence(replace(studio.composer.sequence, drops=(first, replace(second, valve=1))))
    coach.on = True
    try:
        assert "this controller drives 1" in asked(coach, CoachSilent).why
    finally:
        coach.close()
