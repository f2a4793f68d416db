from dataclasses import replace

import numpy as np
import pytest

from ondine.core.forecast.plan import Plan
from ondine.core.forecast.shapes import shape_probabilities
from ondine.core.forecast.whole import forecast
from ondine.core.log.facts import facts_of, flight_of
from ondine.core.log.regions import (
    MOST_SERIES,
    SETTABLE,
    figures_in_hand,
    regions,
    sequence_at,
    sequences_between,
    with_figure,
)
from ondine.core.setup import Setup
from ondine.core.timing.sequence import FlashPulse, Pulse, Sequence
from tests.calibrated import IN_HAND

ONE = Plan(Sequence((Pulse(0, 22_000),), (FlashPulse(300_000),)), Setup())


def figure(plan: Plan, key: str) -> float:
    return getattr(facts_of(plan, flight_of(plan)), key)


@pytest.mark.parametrize("key", SETTABLE)
def test_a_figure_that_is_set_is_the_figure_that_is_read(key):
    now = figure(IN_HAND, key)
    for by in (-6.0, 4.5):
        made = with_figure(IN_HAND, key, now + by)
        assert made is not None
        assert figure(replace(IN_HAND, sequence=made), key) == pytest.approx(now + by, abs=0.01)


@pytest.mark.parametrize(
    ("x", "y"), [("interval_ms", "flash_ms"), ("flash_ms", "open_ms"), ("gap_ms", "after_meeting_ms")]
)
def test_a_spot_has_both_its_figures(x, y):
    values = figure(IN_HAND, x) + 3.0, figure(IN_HAND, y) - 2.0
    made = sequence_at(IN_HAND, x, values[0], y, values[1])
    moved = replace(IN_HAND, sequence=made)
    assert figure(moved, x) == pytest.approx(values[0], abs=0.02)
    assert figure(moved, y) == pytest.approx(values[1], abs=0.02)


def test_all_later_drops_move_with_the_second():
    three = replace(
        IN_HAND, sequence=replace(IN_HAND.sequence, drops=(*IN_HAND.sequence.drops, Pulse(140_000, 18_000)))
    )
    made = with_figure(three, "interval_ms", figure(three, "interval_ms") + 7)
    assert [b.start_us - a.start_us for a, b in zip(three.sequence.drops, made.drops, strict=True)] == [0, 7000, 7000]


@pytest.mark.parametrize(
    ("plan", "key", "value"),
    [
        (ONE, "interval_ms", 95.0), (ONE, "second_open_ms", 20.0), (ONE, "after_meeting_ms", 5.0),
        (IN_HAND, "open_ms", 0.2), (IN_HAND, "flash_ms", -4.0), (IN_HAND, "flash_ms", 9e5),
        (IN_HAND, "height_mm", 365.0), (IN_HAND, "interval_ms", 9e5), (IN_HAND, "flash_ms", float("nan")), (IN_HAND, "gap_ms", float("inf")),
    ],
)  # fmt: skip
def test_what_a_sequence_cannot_have_is_none(plan, key, value):
    assert with_figure(plan, key, value) is None


@pytest.mark.parametrize(("x", "y"), [("interval_ms", "flash_ms"), ("flash_ms", "gap_ms")])
def test_regions_are_what_the_forecast_makes_likeliest(x, y):
    spans = {"interval_ms": (80.0, 110.0), "flash_ms": (335.0, 375.0), "gap_ms": (60.0, 85.0)}
    found = regions(IN_HAND, x, y, (*spans[x], *spans[y]), steps=6)
    assert found.shape.shape == found.chance.shape == (6, 6)
    named = {found.keys[k] for k in found.shape[found.shape >= 0]}
    assert "full-umbrella" in named or "torn-umbrella" in named
    agreed = 0
    for row, column in np.argwhere(found.chance > 0.6):
        made = sequence_at(IN_HAND, x, float(found.x[column]), y, float(found.y[row]))
        likeliest = next(iter(shape_probabilities(forecast(IN_HAND.setup, IN_HAND.belief, made), made.first_flash_us)))
        agreed += likeliest == found.keys[found.shape[row, column]]
    assert agreed >= 0.9 * (found.chance > 0.6).sum() > 0


def test_figures_that_are_no_timings_have_no_regions():
    assert regions(IN_HAND, "height_mm", "flash_ms", (300, 400, 300, 400)) is None
    assert regions(IN_HAND, "flash_ms", "flash_ms", (300, 400, 300, 400)) is None


def test_a_view_where_nothing_can_be_is_empty():
    found = regions(ONE, "interval_ms", "flash_ms", (80, 110, 300, 400), steps=4)
    assert (found.shape == -1).all()


def test_a_series_goes_from_spot_to_spot_in_steps_of_a_millisecond():
    made = sequences_between(IN_HAND, "interval_ms", "flash_ms", (95.0, 350.0), (95.0, 356.0))
    assert [sequence.first_flash_us for sequence in made] == list(range(350_000, 356_001, 1000))
    assert {sequence.intervals_us for sequence in made} == {(95_000,)}
    # Both change together; a long way is gone in coarser steps.
    far = sequences_between(IN_HAND, "interval_ms", "flash_ms", (90.0, 340.0), (100.0, 400.0))
    assert len(far) == MOST_SERIES and far[0].intervals_us == (90_000,) and far[-1].first_flash_us == 400_000
    assert sequences_between(IN_HAND, "interval_ms", "height_mm", (95.0, 300.0), (96.0, 300.0)) == []
    # Spots where no sequence can stand are left out, and none is there twice.
    assert len(sequences_between(IN_HAND, "interval_ms", "flash_ms", (95.0, -3.0), (95.0, 2.0))) == 3
    assert len(sequences_between(IN_HAND, "interval_ms", "flash_ms", (95.0, 350.0), (95.0, 350.0))) == 1


def test_what_is_in_hand_stands_where_its_figures_are():
    assert figures_in_hand(IN_HAND, "interval_ms", "flash_ms") == (95.0, 356.0)
    one = replace(IN_HAND, sequence=replace(IN_HAND.sequence, drops=IN_HAND.sequence.drops[:1]))
    assert figures_in_hand(one, "interval_ms", "flash_ms") is None
    assert figures_in_hand(IN_HAND, "rating", "flash_ms") is None
