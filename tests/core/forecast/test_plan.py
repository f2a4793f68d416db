from dataclasses import replace

import pytest

from ondine.core.belief.priors import Belief, Prior
from ondine.core.forecast.plan import Plan
from ondine.core.setup.fields import put
from ondine.demo.scenario import START, TIDAL_MILL
from tests.calibrated import TAUGHT

PLAN = Plan(START, TIDAL_MILL, TAUGHT)


@pytest.mark.parametrize(
    "other",
    [
        replace(PLAN, sequence=START.with_flash(0, 1_000)),
        replace(PLAN, setup=put(TIDAL_MILL, "camera.iso", 400)),
        replace(PLAN, belief=replace(TAUGHT, lag_s=Prior(0.02, 0.001))),
    ],
)
def test_a_plan_is_another_when_any_part_is(other):
    assert other != PLAN
    # Undo compares plans by value, not by who made them.
    assert Plan(replace(START), replace(TIDAL_MILL), replace(TAUGHT)) == PLAN and hash(PLAN) != hash(other)


def test_nothing_is_learned_until_something_is():
    assert Plan(START, TIDAL_MILL).belief == Belief() != TAUGHT
