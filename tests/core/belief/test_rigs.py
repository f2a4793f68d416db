"""Rigs drawn from a belief: what a few hundred of them must know of it."""

import math
from dataclasses import replace

import numpy as np
import pytest
from scipy.stats import kstest

from ondine.core.belief.priors import Belief, Prior, Variation
from ondine.core.belief.rigs import DEFAULT_COUNT, LUCKY_DROPS, sample_rigs

BOUNDED = ("energy_share", "jet_delay_factor", "jet_slowing_factor", "sheet_peak_share")


def test_rigs_are_the_same_for_the_same_seed_and_start_in_the_middle():
    first, again = sample_rigs(Belief(), 100, seed=3), sample_rigs(Belief(), 100, seed=3)
    assert np.array_equal(first.lag_s, again.lag_s)
    assert not np.array_equal(first.lag_s, sample_rigs(Belief(), 100, seed=4).lag_s)
    for name, prior in Belief().priors.items():
        assert getattr(first, name)[0] == prior.mean
    assert not first.release_luck[:, 0].any() and not first.volume_luck[:, 0].any()
    assert first.count == 100 and sample_rigs(Belief()).count == DEFAULT_COUNT


def test_few_rigs_know_the_spreads_and_are_not_correlated():
    rigs, columns = sample_rigs(Belief()), []
    for name, prior in Belief().priors.items():
        drawn = getattr(rigs, name)
        if name == "height_error_m":
            middle, spread = prior.mean, prior.sd
        else:
            # Log-normal: the median is the prior's mean, the relative spread the prior's.
            middle, spread = math.log(prior.mean), math.sqrt(math.log(1 + (prior.sd / prior.mean) ** 2))
            drawn = np.log(drawn)
        columns.append(drawn)
        if name not in BOUNDED:
            assert drawn.mean() == pytest.approx(middle, abs=0.01 * spread), name
            assert drawn.std() == pytest.approx(spread, rel=0.02), name
    among = np.corrcoef([*columns, *rigs.release_luck, *rigs.volume_luck])
    assert np.abs(among - np.eye(len(among))).max() < 0.06


def test_draws_are_spread_more_evenly_than_chance_would():
    # The largest distance from the normal distribution (Kolmogorov's): chance keeps 256 draws under 0.053 only half of
    # the time, and 21 independent columns never; a Latin hypercube keeps them all there.
    rigs, apart = sample_rigs(Belief()), []
    columns = [*rigs.release_luck, *rigs.volume_luck / 0.01]
    for name in ("lag_s", "flow_factor", "merge_ratio", "crown_time_factor", "tip_mass_share"):
        prior = Belief().priors[name]
        columns.append(np.log(getattr(rigs, name) / prior.mean) / math.sqrt(math.log1p((prior.sd / prior.mean) ** 2)))
    for column in columns:
        apart.append(kstest(column, "norm").statistic)
    assert len(apart) == 21 and max(apart) < 0.053


def test_numbers_stay_where_rigs_can_be():
    wide = Belief(**{name: Prior(prior.mean, 3 * abs(prior.mean) + 1) for name, prior in Belief().priors.items()})
    rigs = sample_rigs(wide)
    assert rigs.energy_share.max() <= 1 and rigs.energy_share.min() >= 0.05
    assert rigs.jet_delay_factor.min() >= 1 and rigs.jet_slowing_factor.min() >= 1
    assert rigs.outlet_factor.max() <= 5 and rigs.momentum_factor.min() >= 0.2
    assert rigs.sheet_peak_share.max() <= 0.65 and rigs.sheet_peak_share.min() >= 0.25
    assert rigs.lag_s.min() > 0 and rigs.height_error_m.min() < 0


def test_shots_vary_on_one_and_the_same_rig():
    certain = Belief(**{name: Prior(prior.mean, 0.0) for name, prior in Belief().priors.items()})
    rigs = sample_rigs(certain)
    assert np.ptp(rigs.jet_speed_factor) == 0
    assert rigs.volume_luck.shape == rigs.release_luck.shape == (LUCKY_DROPS, DEFAULT_COUNT)
    assert rigs.volume_luck.std() == pytest.approx(0.01, rel=0.02)
    assert rigs.release_luck.std() == pytest.approx(1.0, rel=0.02)
    steady = sample_rigs(replace(certain, variation=Variation(0.0)))
    assert not steady.volume_luck.any()
