"""How likely what was seen is on each rig: two ways that must agree, and what no shot can say."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ondine.core.belief.priors import Belief
from ondine.core.coach import evidence
from ondine.core.coach.evidence import Seen, log_likelihood
from ondine.core.coach.tags import FLOOR, TAGGED_AS
from ondine.core.coach.unknowns import Unknowns, evenly_drawn
from ondine.core.forecast.instant import at_instant
from ondine.core.forecast.phases import INDEX
from ondine.core.forecast.shapes import SHAPES
from ondine.core.forecast.whole import forecast
from ondine.core.setup import Setup, Valve
from ondine.core.timing.sequence import FlashPulse, Pulse, Sequence

UNKNOWNS = Unknowns(Belief(), Setup())
RIGS = UNKNOWNS.rigs(evenly_drawn(200, len(UNKNOWNS.names), np.random.default_rng(3)))
keys = st.sampled_from([shape.key for shape in SHAPES])


def shot(
    shape: str,
    flash_ms: int = 320,
    *opens_ms: tuple[int, int],
    height_m: float | None = None,
    width_m: float | None = None,
) -> Seen:
    drops = tuple(Pulse(start * 1000, open_ms * 1000) for start, open_ms in opens_ms or ((0, 20), (95, 20)))
    return Seen(Sequence.with_one_flash(drops, flash_ms * 1000), shape, height_m, width_m=width_m)


@settings(max_examples=60, deadline=None)
@given(
    keys,
    st.integers(10, 40),
    st.none() | st.tuples(st.integers(3, 160), st.integers(10, 40)),
    st.integers(150, 520),
    st.none() | st.floats(0.003, 0.12),
    st.none() | st.floats(0.003, 0.12),
)
def test_the_quick_way_for_pairs_agrees_with_the_way_for_all(shape, open_ms, second, flash_ms, height_m, width_m):
    drops = [(0, open_ms)]
    if second is not None:
        drops.append((open_ms + second[0], second[1]))
    seen = [shot(shape, flash_ms, *drops, height_m=height_m, width_m=width_m)]
    if not seen[0].tells:
        return
    quick = log_likelihood(seen, UNKNOWNS, RIGS)
    slow = evidence._of_like_shots(seen, UNKNOWNS, RIGS)
    what = forecast(UNKNOWNS.setup, UNKNOWNS.belief, seen[0].sequence, RIGS)
    # Drops that ran together fall a little faster, which the quick way leaves out; where two touch but just, either
    # way may count them to either side.
    whole = ~what.falls.merged.any(axis=0)
    apart = np.abs(quick - slow)[0]
    assert np.mean(apart[whole] > 1e-3) <= 0.02 if whole.any() else True
    assert np.median(apart) < 0.1


def test_a_tag_is_likeliest_on_rigs_that_show_it():
    seen = [shot("full-umbrella"), shot("crown")]
    likelihood = np.exp(log_likelihood(seen, UNKNOWNS, RIGS))
    for row, one in zip(likelihood, seen, strict=True):
        assert row.min() >= FLOOR * 0.999
        assert row.max() <= TAGGED_AS[INDEX[one.shape]].max() + 1e-6
        assert row.max() > 20 * FLOOR


def test_all_tags_of_one_picture_are_probabilities():
    total = sum(np.exp(log_likelihood([shot(s.key)], UNKNOWNS, RIGS)[0]) for s in SHAPES if shot(s.key).tells)
    silent = sum(not shot(s.key).tells for s in SHAPES)
    # What tells nothing is asked of no rig; its share is left over.
    assert silent == 3
    np.testing.assert_allclose(total + silent * FLOOR, 1, atol=2e-3)


@pytest.mark.parametrize("seen", [shot("blurred"), shot("ghosted"), shot("not-foreseen"), shot("of another program")])
def test_what_tells_nothing_changes_nothing(seen):
    assert not seen.tells
    assert not log_likelihood([seen], UNKNOWNS, RIGS).any()


def test_a_sequence_without_drops_or_flash_says_nothing():
    for empty in (Sequence((), (FlashPulse(1000),)), Sequence((Pulse(0, 20_000),), ())):
        assert not Seen(empty, "crown").tells


def test_a_height_favours_jets_that_stand_so_high():
    low, high = (
        log_likelihood([shot("rising-jet", 330, (0, 20), height_m=h)], UNKNOWNS, RIGS)[0] for h in (0.01, 0.05)
    )
    gain = high - low
    assert gain.max() > 1 and gain.min() < -0.5


def test_a_width_favours_sheets_that_are_so_wide_and_says_nothing_where_there_is_none():
    rigs = UNKNOWNS.rigs(evenly_drawn(2000, len(UNKNOWNS.names), np.random.default_rng(3)))
    now = at_instant(forecast(UNKNOWNS.setup, UNKNOWNS.belief, shot("crown").sequence, rigs), 320_000)
    width_m = 2 * np.nan_to_num(now.sheet_radius_m[1])
    sheets = width_m > 0
    assert 100 < sheets.sum() < 1000
    without = log_likelihood([shot("full-umbrella")], UNKNOWNS, rigs)[0]
    low, high = np.quantile(width_m[sheets], [0.1, 0.9])
    gain = [log_likelihood([shot("full-umbrella", width_m=w)], UNKNOWNS, rigs)[0] - without for w in (low, high)]
    near_high = sheets & (width_m > (low + high) / 2)
    assert (gain[1] - gain[0])[near_high].mean() > 0.5 > -0.5 > (gain[1] - gain[0])[sheets & ~near_high].mean()
    # Where no sheet is open all widths are alike.
    np.testing.assert_allclose(gain[0][~sheets], gain[1][~sheets], atol=1e-9)


def test_widths_and_heights_are_judged_apart():
    both = log_likelihood([shot("full-umbrella", height_m=0.02, width_m=0.03)], UNKNOWNS, RIGS)
    none, high, wide = (
        log_likelihood([shot("full-umbrella", height_m=h, width_m=w)], UNKNOWNS, RIGS)
        for h, w in ((None, None), (0.02, None), (None, 0.03))
    )
    np.testing.assert_allclose(both - none, (high - none) + (wide - none), atol=1e-9)


@pytest.mark.parametrize("length_m", [math.nan, math.inf, -math.inf])
def test_a_height_or_a_width_that_is_no_number_is_none(length_m):
    without = log_likelihood([shot("rising-jet")], UNKNOWNS, RIGS)
    for one in (shot("rising-jet", height_m=length_m), shot("rising-jet", width_m=length_m)):
        np.testing.assert_array_equal(log_likelihood([one], UNKNOWNS, RIGS), without)


def test_two_landing_spots_and_three_drops_are_judged_too():
    two = Unknowns(Belief(), Setup(valves=(Valve(), Valve(aside_m=0.05))))
    rigs = two.rigs(evenly_drawn(60, len(two.names), np.random.default_rng(1)))
    drops = (Pulse(0, 20_000, 0), Pulse(50_000, 20_000, 1), Pulse(95_000, 20_000, 0))
    some = [Seen(Sequence.with_one_flash(drops, at), key) for at in (290_000, 330_000) for key in ("crown", "contact")]
    likelihood = np.exp(log_likelihood(some, two, rigs))
    assert np.isfinite(likelihood).all() and (likelihood <= 1).all()
    assert (likelihood.max(axis=1) > 5 * FLOOR).all()
