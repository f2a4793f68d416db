"""The update against general references: a brute-force grid on two unknowns, a general sampler on five."""

from dataclasses import replace

import emcee
import numpy as np
import pytest

from ondine.bench.simulated.population import make_rig
from ondine.core.belief.priors import Belief, Prior
from ondine.core.coach.evidence import Seen, log_likelihood
from ondine.core.coach.posterior import Frame, Trust, absorb, start
from ondine.core.coach.unknowns import Unknowns
from ondine.core.forecast.shapes import shape_probabilities
from ondine.core.forecast.whole import forecast
from ondine.core.timing.sequence import Pulse, Sequence

RIG = make_rig(3)
FREE = ("height_error_m", "jet_delay_factor", "sheet_time_factor")


def unknowns(*free: str) -> Unknowns:
    """Unknowns of which all are known but some, and the light's lag and the jitter, which always are."""
    pinned = {
        name: Prior(prior.mean, 1e-7 * (abs(prior.mean) or 1e-3))
        for name, prior in Belief().priors.items()
        if name not in free
    }
    return Unknowns(replace(Belief(), **pinned), RIG.setup)


def shots(count: int, seed: int = 6) -> list[Seen]:
    """Shots of a rig that the belief can think of: the update is on trial here, not the laws."""
    rng, size = np.random.default_rng(seed), RIG.start.drops[0].open_us
    whole = Unknowns(Belief(), RIG.setup)
    middle = np.zeros((1, len(whole.names)))
    middle[0, -2] = 0.4
    rig = whole.rigs(middle)
    made = []
    for number in range(count):
        drops = (Pulse(0, size), Pulse(size + int(rng.integers(50, 90)) * 1000, size))
        flash_us = int(rng.integers(185, 355)) * 1000
        what = forecast(RIG.setup, Belief(), Sequence(drops, ()), rig)
        at_us = flash_us + round(float(rng.normal(0, rig.jitter_s[0])) * 1e6)
        shape = next(iter(shape_probabilities(what, at_us)))
        made.append(Seen(Sequence.with_one_flash(drops, flash_us), shape, shot=number))
    return made


def moments(points: np.ndarray, weights: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    middle = weights @ points
    return middle, np.sqrt(weights @ (points - middle) ** 2)


def on_grid(two: Unknowns, seen: list[Seen], power: float = 1.0) -> tuple[np.ndarray, np.ndarray]:
    """Middle and spread of the last two coordinates by brute force, on a grid that is fine against both."""
    axes = np.linspace(-4.5, 4.5, 1501), np.linspace(-4, 4, 61)
    grid = np.zeros((1501 * 61, len(two.names)))
    grid[:, -2:] = np.stack(np.meshgrid(*axes, indexing="ij"), axis=-1).reshape(-1, 2)
    log_density = power * log_likelihood(seen, two, two.rigs(grid)).sum(axis=0) - 0.5 * (grid**2).sum(axis=1)
    density = np.exp(log_density - log_density.max())
    return moments(grid[:, -2:], density / density.sum())


@pytest.mark.parametrize("count", [1, 3, 8])
def test_two_unknowns_are_believed_as_on_a_fine_grid(count):
    two, seen = unknowns(), shots(count)
    middle, spread = on_grid(two, seen)
    learned = absorb(start(two, count=2048), seen)
    found, wide = moments(learned.coordinates[:, -2:], learned.weights)
    np.testing.assert_allclose(found, middle, atol=0.12)
    np.testing.assert_allclose(wide, spread, rtol=0.15, atol=0.02)


@pytest.mark.parametrize(
    ("trust", "power"), [(Trust(0.4), 0.4), (Trust(1.0, worth=3), 3 / 8), (Trust(0.8, worth=6), 0.6)]
)
def test_shots_count_with_their_power_on_the_grid_too(trust, power):
    two, seen = unknowns(), shots(8)
    # Pictures that tell nothing are no shots that the others share their worth with.
    duds = [replace(seen[0], shape="blurred")] * 5
    middle, spread = on_grid(two, seen, power)
    learned = absorb(start(two, count=2048, trust=trust), [*seen[:4], *duds, *seen[4:]])
    found, wide = moments(learned.coordinates[:, -2:], learned.weights)
    np.testing.assert_allclose(found, middle, atol=0.12)
    np.testing.assert_allclose(wide, spread, rtol=0.15, atol=0.02)


def test_each_shot_weighs_the_same_however_early_it_came():
    two, seen = unknowns(), shots(8)
    duds = [replace(seen[0], shape="blurred")] * 5
    # So little trust that no rig has to be moved: what is left is the sum itself.
    before = start(two, trust=Trust(0.04, worth=3))
    learned = absorb(before, [*seen[:4], *duds, *seen[4:]])
    np.testing.assert_array_equal(learned.points, before.points)
    np.testing.assert_allclose(learned.log_weights, 0.04 * 3 / 8 * learned.likelihood.sum(axis=0), atol=1e-12)


@pytest.mark.parametrize(("shots", "power"), [(0, 0.8), (1, 0.8), (40, 0.8), (80, 0.4), (400, 0.08)])
def test_no_number_of_shots_counts_as_more_than_they_are_worth(shots, power):
    assert Trust(0.8, worth=40).among(shots) == pytest.approx(power)


def test_five_unknowns_are_believed_as_a_general_sampler_does():
    five, seen = unknowns(*FREE), shots(8)
    own = [five.names.index(name) for name in (*FREE, "flash_lag_s", "jitter_s")]

    def log_density(points: np.ndarray) -> np.ndarray:
        coordinates = np.zeros((len(points), len(five.names)))
        coordinates[:, own] = points
        return log_likelihood(seen, five, five.rigs(coordinates)).sum(axis=0) - 0.5 * (points**2).sum(axis=1)

    rng = np.random.default_rng(8)
    walkers = rng.standard_normal((64, len(own)))
    # Its own random numbers are the old global ones.
    np.random.seed(8)
    sampler = emcee.EnsembleSampler(len(walkers), len(own), log_density, vectorize=True)
    sampler.run_mcmc(walkers, 1500)
    chain = sampler.get_chain(discard=400, flat=True)
    middle, spread = chain.mean(axis=0), chain.std(axis=0)

    learned = absorb(start(five, count=2048), seen)
    found, wide = moments(learned.coordinates[:, own], learned.weights)
    np.testing.assert_allclose(found, middle, atol=0.15)
    np.testing.assert_allclose(wide, spread, rtol=0.2)


@pytest.mark.parametrize("trust", [Trust(), Trust(1.0, worth=5)])
def test_the_same_shots_teach_the_same_whether_they_come_one_by_one_or_together(trust):
    all_of_it, seen = unknowns(*Belief().priors), shots(12)
    together = absorb(start(all_of_it, trust=trust), seen)
    alone = start(all_of_it, trust=trust)
    for one in seen:
        alone = absorb(alone, [one])
    np.testing.assert_array_equal(together.points, alone.points)
    np.testing.assert_array_equal(together.log_weights, alone.log_weights)
    other = absorb(start(all_of_it, seed=2, trust=trust), seen, seed=2)
    assert not np.array_equal(other.points, together.points)


def test_what_is_learned_narrows_with_the_shots():
    all_of_it, seen = unknowns(*Belief().priors), shots(20)
    spreads = []
    for count in (0, 4, 20):
        belief = absorb(start(all_of_it), seen[:count])
        lands = forecast(RIG.setup, Belief(), seen[0].sequence, all_of_it.rigs(belief.coordinates)).falls.touchdown_s[0]
        spreads.append(float(moments(lands, belief.weights)[1]))
    assert spreads[0] > 3 * spreads[1] and spreads[1] > 1.3 * spreads[2]


def test_a_hundred_equal_shots_and_contradictions_come_to_an_end():
    all_of_it, one = unknowns(*Belief().priors), shots(1)[0]
    many = absorb(start(all_of_it), [one] * 100)
    assert len(many.seen) == 100 and np.isfinite(many.log_weights).all()
    against = [replace(one, shape=shape) for shape in ("rising-jet", "in-flight") * 6]
    torn = absorb(start(all_of_it), against)
    assert np.isfinite(torn.coordinates).all() and np.isfinite(torn.weights).all()


def test_learning_ends_when_it_is_told_to():
    all_of_it = unknowns(*Belief().priors)
    asked = iter([True, True, False])
    some = absorb(start(all_of_it), shots(30), goes_on=lambda: next(asked))
    assert 0 < len(some.seen) < 30


def test_a_frame_leaves_neither_middle_nor_correlation():
    rng = np.random.default_rng(0)
    coordinates = rng.standard_normal((500, 4)) @ rng.standard_normal((4, 4)) + 3
    frame = Frame.around(coordinates)
    points = frame.into(coordinates)
    np.testing.assert_allclose(points.mean(axis=0), 0, atol=1e-9)
    np.testing.assert_allclose(np.cov(points.T), np.eye(4), atol=1e-3)
    np.testing.assert_allclose(frame.out(points), coordinates)
