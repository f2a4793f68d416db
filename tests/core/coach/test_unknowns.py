"""What a newcomer's belief must cover, and coordinates that are spread as they should be."""

from dataclasses import replace

import numpy as np
import pytest
from scipy.stats import kstest, norm

from ondine.core.belief.priors import Belief
from ondine.core.coach.unknowns import Unknowns, evenly_drawn, systematic
from ondine.core.setup import Setup, Valve

UNKNOWNS = Unknowns(Belief(), Setup())
POINTS = evenly_drawn(2048, len(UNKNOWNS.names), np.random.default_rng(4))


def test_draws_are_standard_normal_in_each_coordinate():
    for column in POINTS.T:
        assert kstest(column, "norm").statistic < 0.01
    assert np.abs(np.corrcoef(POINTS.T) - np.eye(POINTS.shape[1])).max() < 0.1


def test_quantiles_are_those_of_the_normal_distribution():
    from ondine.core.coach.unknowns import _quantiles

    shares = np.linspace(0.001, 0.999, 57)
    np.testing.assert_allclose(_quantiles(shares), norm.ppf(shares), atol=2e-4)


@pytest.mark.parametrize(
    ("name", "low", "high"),
    [  # Common practice, no published source: what tables differ by.
        ("lag_s", 3e-3, 25e-3),
        ("outlet_factor", 0.9, 1.5),
        ("flow_factor", 0.8, 1.2),
        ("height_error_m", -5e-3, 5e-3),
        ("flash_lag_s", 0.0, 0.12),
        ("jitter_s", 0.4e-3, 3e-3),
    ],
)
def test_practice_lies_inside_what_is_believed_before_the_first_shot(name, low, high):
    values = UNKNOWNS.values(POINTS)[name]
    assert np.quantile(values, 0.1) < high and np.quantile(values, 0.9) > low
    inside = np.mean((values > low) & (values < high))
    assert 0.5 < inside < 0.99
    assert np.mean(values < low) > 0.005 and np.mean(values > high) > 0.005


def test_a_weighed_flow_is_believed_as_well_as_it_was_weighed():
    weighed = replace(Setup(), valves=(Valve(flow_sd_m3_s=0.05e-6),))
    spread = np.std(np.log(Unknowns(Belief(), weighed).values(POINTS)["flow_factor"]))
    assert spread == pytest.approx(0.05 / 2.6, rel=0.05)
    assert np.std(np.log(UNKNOWNS.values(POINTS)["flow_factor"])) > 0.12


def test_the_first_learned_rig_is_in_the_middle_of_all():
    learned = UNKNOWNS.learned(POINTS[:200]).values()
    for name in ("lag_s", "jet_speed_factor"):
        low, high = np.quantile(learned[name], [0.02, 0.98])
        assert low < learned[name][0] < high


def test_systematic_choice_takes_each_as_often_as_its_weight_asks():
    weights = np.array([0.5, 0.25, 0.125, 0.125])
    np.testing.assert_array_equal(np.bincount(systematic(weights, 8, 0.3), minlength=4), [4, 2, 1, 1])
