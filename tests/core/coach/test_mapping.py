"""The map of chances: around what is in hand, over any two timings, with the shots that belong on it."""

import numpy as np
import pytest

from ondine.bench.simulated.population import make_rig
from ondine.core.belief.priors import Belief
from ondine.core.coach.chances import courses
from ondine.core.coach.evidence import Seen
from ondine.core.coach.goal import Goal
from ondine.core.coach.mapping import RIGS, Axis, axes, chance_map
from ondine.core.coach.posterior import start
from ondine.core.coach.tags import clean_share
from ondine.core.coach.unknowns import Unknowns
from ondine.core.forecast.phases import INDEX
from ondine.core.setup import Setup
from ondine.core.timing.sequence import FlashPulse, Pulse, Sequence
from tests.calibrated import TAUGHT

PAIR = Sequence.with_one_flash((Pulse(0, 20_000), Pulse(95_000, 20_000)), 340_000)
THREE = Sequence.with_one_flash((*PAIR.drops, Pulse(180_000, 22_000)), 380_000)
BELIEF = start(Unknowns(TAUGHT, Setup()))


def test_the_usual_two_timings_come_first():
    assert axes(PAIR)[:2] == (Axis("interval", 1), Axis("flash"))
    assert [axis.name for axis in axes(THREE)] == [
        "interval 2", "flash", "interval 1", "drop 3 open", "drop 2 open", "drop 1 open",
    ]  # fmt: skip
    assert axes(Sequence.with_one_flash(PAIR.drops[:1], 1))[0] == Axis("flash")


@pytest.mark.parametrize("axis", axes(THREE))
def test_a_timing_that_is_put_is_read_again_and_leaves_others_alone(axis):
    moved = axis.put(THREE, axis.of(THREE) + 3_000)
    assert axis.of(moved) == axis.of(THREE) + 3_000
    for other in axes(THREE):
        if other != axis and {other.kind, axis.kind} != {"interval", "open"}:
            assert other.of(moved) == other.of(THREE)


@pytest.mark.parametrize(("x", "y"), [(0, 1), (1, 0), (0, 2), (1, 3), (2, 3)])
def test_each_place_on_a_map_has_the_chance_that_it_has_by_itself(x, y):
    across, up = axes(PAIR)[x], axes(PAIR)[y]
    found = chance_map(BELIEF, Goal(), PAIR, across, up)
    assert found.chance.shape == (len(found.y_us), len(found.x_us))
    rigs = BELIEF.unknowns.rigs(BELIEF.even(RIGS))
    for row, column in ((0, 0), (16, 16), (20, 9), (32, 32)):
        one = up.put(across.put(PAIR, int(found.x_us[column])), int(found.y_us[row]))
        made = courses([one.drops], BELIEF.unknowns, rigs).chances(np.array([[one.first_flash_us / 1e6]]))
        whole = clean_share(TAUGHT.variation, 2) * made[INDEX["full-umbrella"], 0, 0].mean()
        assert found.chance[row, column] == pytest.approx(whole, abs=1e-6)


def test_only_shots_that_differ_in_these_two_timings_are_on_it():
    moved = PAIR.with_flash(0, 350_000).with_interval(0, 100_000)
    other = Sequence.with_one_flash((Pulse(0, 26_000), Pulse(95_000, 20_000)), 340_000)
    seen = (Seen(PAIR, "crown"), Seen(moved, "full-umbrella"), Seen(other, "crater"), Seen(THREE, "ripples"))
    found = chance_map(BELIEF, Goal(), PAIR, *axes(PAIR)[:2], seen)
    assert found.shots == ((95_000, 340_000, "crown"), (100_000, 350_000, "full-umbrella"))


def test_a_map_stays_where_timings_can_be_fired():
    low = Sequence.with_one_flash((Pulse(0, 20_000), Pulse(24_000, 20_000)), 12_000)
    found = chance_map(start(Unknowns(Belief(), Setup())), Goal(), low, *axes(low)[:2])
    assert found.x_us.min() > 20_000 and found.y_us.min() >= 0 and np.isfinite(found.chance).all()


def test_a_height_that_is_wanted_is_on_the_map():
    rig = make_rig(9)
    known = start(Unknowns(Belief(), rig.setup))
    x, y = axes(rig.start)[:2]
    anywhere, low, high = (
        chance_map(known, Goal(height_m=height_m), rig.start, x, y).chance for height_m in (None, 0.012, 0.3)
    )
    assert (low <= anywhere + 1e-6).all() and low.max() > 0 and high.max() < 1e-3


def test_the_flash_of_a_map_is_the_earliest_one():
    drops = (Pulse(0, 22_000), Pulse(95_000, 22_000))
    two = Sequence(drops, (FlashPulse(360_000, 0), FlashPulse(340_000, 1)))
    flash = Axis("flash")
    assert flash.of(two) == 340_000
    assert flash.put(two, 350_000).flashes == (FlashPulse(360_000, 0), FlashPulse(350_000, 1))
