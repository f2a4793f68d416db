"""Early or late: told by the shape, in ms, and judged by the next shot."""

import numpy as np
import pytest

from ondine.bench.simulated.population import make_rig
from ondine.core.belief.priors import Belief
from ondine.core.coach.diagnosis import Diagnosis, Fault, diagnose, verdict
from ondine.core.coach.evidence import Seen
from ondine.core.coach.goal import Goal
from ondine.core.coach.posterior import absorb, start
from ondine.core.coach.unknowns import Unknowns
from ondine.core.timing.sequence import Pulse, Sequence

RIG = make_rig(4)
SIZE = RIG.start.drops[0].open_us
PAIR = (Pulse(0, SIZE), Pulse(SIZE + 60_000, SIZE))
KNOWN = RIG.events_s(Sequence.with_one_flash(PAIR, 300_000))


def taught(shots: int = 14):
    rng, seen = np.random.default_rng(2), []
    for number in range(shots):
        sequence = Sequence.with_one_flash(PAIR, int((KNOWN["touchdown"] + rng.uniform(-0.02, 0.14)) * 1e6))
        seen.append(Seen(sequence, RIG.fire(sequence), shot=number))
    return absorb(start(Unknowns(Belief(), RIG.setup)), seen)


BELIEF = taught()


def at(off_s: float, shape: str) -> Seen:
    return Seen(Sequence.with_one_flash(PAIR, int((KNOWN["sheet widest"] + off_s) * 1e6)), shape)


@pytest.mark.parametrize(
    ("off_s", "shape", "word"),
    [(-0.03, "rising-jet", "early"), (-0.012, "rising-jet", "early"), (0.02, "collapsed", "late")],
)
def test_how_early_or_late_a_picture_is(off_s, shape, word):
    found = diagnose(BELIEF, at(off_s, shape), Goal())
    assert found.fault is Fault.FLASH
    assert f"Too {word}" in found.says
    assert found.late_s == pytest.approx(off_s, abs=max(3 * found.spread_s, 6e-3))
    assert found.move_us == pytest.approx(-found.late_s * 1e6, abs=500)


def test_the_goal_itself_needs_no_move():
    found = diagnose(BELIEF, at(0, "full-umbrella"), Goal())
    assert found.fault is Fault.NOTHING and found.move_us == 0 and "This is it" in found.says


def test_an_interval_at_which_no_drop_meets_the_jet_is_at_fault():
    far = (Pulse(0, SIZE), Pulse(SIZE + 400_000, SIZE))
    found = diagnose(
        BELIEF, Seen(Sequence.with_one_flash(far, int(KNOWN["sheet widest"] * 1e6)), "falling-jet"), Goal()
    )
    assert found.fault in (Fault.INTERVAL, Fault.UNKNOWN) and found.move_us <= 0
    near = (Pulse(0, SIZE), Pulse(SIZE + 20_000, SIZE))
    crater = Sequence.with_one_flash(near, int((KNOWN["touchdown"] + 0.05) * 1e6))
    close = diagnose(BELIEF, Seen(crater, "crater-hit"), Goal())
    if close.fault is Fault.INTERVAL:
        assert close.move_us > 0 and "longer" in close.says


@pytest.mark.parametrize("shape", ["blurred", "ghosted", "satellites-or-bubbles"])
def test_a_picture_of_luck_and_light_says_nothing_of_time(shape):
    assert diagnose(BELIEF, at(0, shape), Goal()).fault is Fault.UNKNOWN


def test_one_drop_says_nothing_of_a_collision():
    one = Seen(Sequence.with_one_flash(PAIR[:1], 300_000), "rising-jet")
    assert diagnose(BELIEF, one, Goal()).fault is Fault.UNKNOWN
    assert diagnose(BELIEF, one, Goal("jet-top")).fault in (Fault.FLASH, Fault.NOTHING)


def test_a_shot_that_taught_already_does_not_count_twice():
    last = BELIEF.seen[-1]
    once, again = diagnose(BELIEF, last, Goal()), diagnose(BELIEF, Seen(last.sequence, last.shape, shot=1000), Goal())
    if once.fault is again.fault is Fault.FLASH:
        assert again.spread_s <= once.spread_s * 1.05


def test_drops_in_an_odd_order_get_a_sentence():
    odd = Sequence.with_one_flash((Pulse(95_000, SIZE), Pulse(0, SIZE)), 300_000)
    assert diagnose(BELIEF, Seen(odd, "crown"), Goal()).says


def told(late_ms: float, fault: Fault = Fault.FLASH) -> Diagnosis:
    return Diagnosis(fault, late_ms / 1000, 1e-3, round(-late_ms * 1000), "")


@pytest.mark.parametrize(
    ("before", "after", "moved_us", "words"),
    [
        (told(12), told(0, Fault.NOTHING), -12_000, "right"),
        (told(12), told(4), -12_000, "4 ms are left"),
        (told(-12), told(20), 12_000, "wrong"),
        (told(12), told(4), 12_000, ""),
        (told(12), told(4), 0, ""),
        (told(12, Fault.UNKNOWN), told(4), -12_000, ""),
        (told(12), told(4, Fault.UNKNOWN), -12_000, ""),
    ],
)
def test_the_next_shot_judges_the_advice(before, after, moved_us, words):
    says = verdict(before, after, moved_us)
    assert words in says and bool(says) == bool(words)
