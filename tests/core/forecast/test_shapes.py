from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ondine.core.belief.priors import Belief, Prior, Variation
from ondine.core.belief.rigs import sample_rigs
from ondine.core.constants import STANDARD_GRAVITY_M_S2 as G
from ondine.core.forecast.instant import at_instant
from ondine.core.forecast.outline import outline
from ondine.core.forecast.shapes import BY_KEY, SHAPES, shape_probabilities
from ondine.core.forecast.whole import forecast
from ondine.core.setup import Setup, Valve
from ondine.core.timing.sequence import Pulse, Sequence

CERTAIN = Belief(**{name: Prior(prior.mean, 0.0) for name, prior in Belief().priors.items()}, variation=Variation(0.0))


def test_the_shapes_of_a_sweep_come_in_their_order():
    seen = []
    what = forecast(Setup(), CERTAIN, Sequence.with_one_flash((Pulse(0, 20_000),), 0))
    for flash in range(200_000, 700_000, 1_000):
        key = next(iter(shape_probabilities(what, flash)))
        if not seen or seen[-1] != key:
            seen.append(key)
    assert seen == [
        "nothing-in-frame",
        "in-flight",
        "touchdown",
        "crown",
        "crater",
        "rising-jet",
        "beaded-jet",
        "jet-top",
        "falling-jet",
        "ripples",
    ]


def test_the_shapes_of_a_collision_come_in_their_order():
    setup = Setup()
    what = forecast(setup, CERTAIN, Sequence.with_one_flash((Pulse(0, 20_000), Pulse(95_000, 20_000)), 0))
    met = round(what.meetings.time_s[1, 0] * 1e6)
    keys = [next(iter(shape_probabilities(what, met + d))) for d in (-2_000, 500, 1_800, 3_600, 7_000, 14_000, 60_000)]
    assert keys == [
        "near-miss-above",
        "contact",
        "opening-umbrella",
        "full-umbrella",
        "torn-umbrella",
        "collapsed",
        "ripples",
    ]


def test_an_early_second_drop_hits_the_crater():
    what = forecast(Setup(), CERTAIN, Sequence.with_one_flash((Pulse(0, 20_000), Pulse(52_000, 10_000)), 0))
    after = round(what.falls.touchdown_s[1, 0] * 1e6) + 1_000
    assert next(iter(shape_probabilities(what, after))) == "crater-hit"


def test_a_third_drop_soon_after_opens_a_second_umbrella():
    # Larger drops have longer-lived sheets; here the third falls onto the second's sheet.
    setup, lasting = Setup(valves=(Valve(flow_m3_s=6e-6),)), replace(CERTAIN, sheet_time_factor=Prior(1.0, 0.0))
    pair = forecast(setup, lasting, Sequence.with_one_flash((Pulse(0, 20_000), Pulse(95_000, 20_000)), 0))
    assert np.isfinite(pair.meetings.time_s[1, 0])
    trio = Sequence.with_one_flash((Pulse(0, 20_000), Pulse(95_000, 20_000), Pulse(116_500, 4_200)), 0)
    rigs = sample_rigs(lasting, 1)
    found = forecast(setup, lasting, trio, replace(rigs, merge_ratio=np.zeros(1)))
    assert found.meetings.on_sheet[2, 0]
    # They close with the drop's speed and the sheet's own upward one, a throw since the first meeting.
    first, third = (found.meetings.time_s[k, 0] for k in (1, 2))
    rises = found.meetings.sheet_m_s[1, 0] - G * (third - first)
    assert found.meetings.closing_m_s[2, 0] == pytest.approx(found.falls.impact_m_s[2, 0] + rises)
    # They meet where the sheet has been thrown to: its height, from the law of a throw.
    away = found.meetings.sheet_m_s[1, 0] * (third - first) - G * (third - first) ** 2 / 2
    assert found.meetings.height_m[2, 0] == pytest.approx(found.meetings.height_m[1, 0] + away)
    # As heavy as each other, they go on with the mean of both speeds (conservation of momentum).
    assert found.meetings.sheet_m_s[2, 0] == pytest.approx((rises - found.falls.impact_m_s[2, 0]) / 2)
    when = round(found.meetings.time_s[2, 0] * 1e6) + 1_000
    assert next(iter(shape_probabilities(found, when))) in {"double-umbrella", "pass-through"}


@settings(max_examples=60, deadline=None)
@given(
    flash=st.integers(0, 800_000),
    interval=st.integers(40_000, 200_000),
    height=st.floats(0.03, 1.0),
    glycerine=st.floats(0, 0.6),
)
def test_probabilities_always_sum_to_one(flash, interval, height, glycerine):
    setup = Setup(valves=(Valve(nozzle_height_m=height),), mix=replace(Setup().mix, glycerine_mass_fraction=glycerine))
    what = forecast(
        setup,
        Belief(),
        Sequence.with_one_flash((Pulse(0, 20_000), Pulse(interval, 18_000)), flash),
        sample_rigs(Belief(), 64),
    )
    chances = shape_probabilities(what, flash)
    assert sum(chances.values()) == pytest.approx(1)
    assert set(chances) <= set(BY_KEY)
    shape = outline(what, at_instant(what, flash))
    assert all(np.isfinite(profile).all() for profile in (shape.pool, *shape.sheets))


def test_every_shape_has_its_own_key():
    assert len({s.key for s in SHAPES}) == len(SHAPES) == 24
