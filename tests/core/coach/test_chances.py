"""Chances over many timings at once, against shots drawn one by one."""

import numpy as np
import pytest

from ondine.core.belief.priors import Belief
from ondine.core.coach.chances import courses
from ondine.core.coach.unknowns import Unknowns, evenly_drawn
from ondine.core.forecast.phases import INDEX, phases
from ondine.core.forecast.whole import forecast
from ondine.core.setup import Setup
from ondine.core.timing.sequence import Pulse, Sequence

UNKNOWNS = Unknowns(Belief(), Setup())
RIGS = UNKNOWNS.rigs(evenly_drawn(60, len(UNKNOWNS.names), np.random.default_rng(5)))
TRAINS = [(Pulse(0, 20_000), Pulse(start, 20_000)) for start in (80_000, 95_000, 140_000)]
TIMES_S = np.linspace(0.15, 0.45, 9)


def test_chances_are_the_shares_of_shots_with_so_much_jitter():
    made = courses(TRAINS, UNKNOWNS, RIGS).chances(np.tile(TIMES_S, (3, 1)))
    rng = np.random.default_rng(2)
    for number, drops in enumerate(TRAINS):
        what = forecast(UNKNOWNS.setup, UNKNOWNS.belief, Sequence(drops, ()), RIGS)
        course = phases(what, what.spots[0])
        for at, time_s in enumerate(TIMES_S):
            luck = rng.logistic(0, np.sqrt(3) / np.pi, (400, RIGS.count)) * RIGS.jitter_s
            shown = np.stack([course.at(time_s + one) for one in luck])
            for key in ("crown", "full-umbrella", "ripples", "rising-jet"):
                share = (shown == INDEX[key]).mean(axis=0)
                np.testing.assert_allclose(made[INDEX[key], number, at], share, atol=0.12)
                assert made[INDEX[key], number, at].mean() == pytest.approx(share.mean(), abs=0.01)


def test_something_is_always_seen():
    made = courses(TRAINS, UNKNOWNS, RIGS).chances(np.tile(TIMES_S, (3, 1)))
    np.testing.assert_allclose(made.sum(axis=0), 1, atol=0.02)


def test_one_train_out_of_several_is_as_if_alone():
    together, alone = courses(TRAINS, UNKNOWNS, RIGS), courses(TRAINS[1:2], UNKNOWNS, RIGS)
    times = TIMES_S[None]
    np.testing.assert_allclose(together.of_train(1).chances(times), alone.chances(times), atol=1e-6)
    first, last = alone.window_s(INDEX["full-umbrella"])
    there = np.isfinite(first)
    assert there.any() and (last[there] > first[there]).all()


def test_the_window_of_a_shape_is_that_of_each_train_and_rig():
    made = courses(TRAINS, UNKNOWNS, RIGS)
    for key in ("crown", "full-umbrella", "rising-jet"):
        first, last = made.window_s(INDEX[key])
        assert first.shape == last.shape == (len(TRAINS), RIGS.count)
        for number in range(len(TRAINS)):
            for rig in range(0, RIGS.count, 7):
                spans = [
                    (start, end)
                    for shape, start, end in zip(
                        made.shapes, made.start_s[:, number, rig], made.end_s[:, number, rig], strict=True
                    )
                    if shape == INDEX[key] and end > start
                ]
                if spans:
                    assert first[number, rig] == min(start for start, _ in spans)
                    assert last[number, rig] == max(end for _, end in spans)
                else:
                    assert not np.isfinite(first[number, rig]) and not np.isfinite(last[number, rig])
