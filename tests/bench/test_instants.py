"""Pictures to name: each shows what is said of it, well inside its phase."""

import numpy as np
import pytest

from ondine.bench.simulated.frame import firing_of, rigs_of
from ondine.bench.simulated.instants import ASKED, MIDDLE, Instant, Phase, asked_in, instant_of
from ondine.bench.simulated.witness import seen
from ondine.core.forecast.shapes import BY_KEY


@pytest.mark.parametrize("shape", ["crown", "jet-top", "contact", "full-umbrella", "ripples"])
def test_what_stands_at_the_flash_is_the_shape_that_is_asked_for(shape):
    one = instant_of(3, 1, shape)
    what = firing_of(rigs_of(one.rig, one.seed, one.setup), one.seed, 1, one.setup, one.sequence, (one.rig.head_m,))
    at_s = one.sequence.first_flash_us / 1e6
    assert one.shape == shape == seen(what, at_s, one.setup.camera.frame_top_m)
    # Not at a border, where two names would be right.
    phase = next(phase for phase in one.phases if phase.first_s <= at_s <= phase.last_s)
    edge_s = (1 - MIDDLE) / 2 * min(phase.last_s - phase.first_s, 40e-3)
    assert min(at_s - phase.first_s, phase.last_s - at_s) >= edge_s - 1e-6
    assert one == instant_of(3, 1, shape) != instant_of(4, 1, shape)


def test_a_round_asks_for_different_shapes_and_each_comes_up_in_some_round():
    rounds = [asked_in(seed, 10) for seed in range(12)]
    assert all(len(set(shapes)) == 10 for shapes in rounds) and len(set(rounds)) == 12
    assert {shape for shapes in rounds for shape in shapes} == set(ASKED) <= set(BY_KEY)


def test_neighbours_and_distances_are_read_off_the_phases():
    one = instant_of(3, 1, "crater")
    times = (("touchdown", 0.0, 0.002), ("crown", 0.0025, 0.02), ("crater", 0.0205, 0.05), ("rising-jet", 0.0505, 0.09))
    phases = tuple(Phase(*row) for row in times)
    made = Instant(one.rig, one.seed, one.setup, one.sequence.with_flash(0, 30_000), "crater", phases)
    assert made.is_beside("crown") and made.is_beside("rising-jet") and not made.is_beside("touchdown")
    assert made.off_s("crown") == pytest.approx(0.010) and made.off_s("rising-jet") == pytest.approx(-0.0205)
    assert made.off_s("full-umbrella") is None
    assert np.isclose(made.off_s("crater"), 0)
