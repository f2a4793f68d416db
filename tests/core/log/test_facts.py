"""A shot in figures: examples reckoned by hand, and the chart's own forecast."""

from dataclasses import replace

import pytest

from ondine.core.forecast.events import EventKind, events
from ondine.core.forecast.plan import Plan
from ondine.core.forecast.whole import forecast
from ondine.core.log.facts import NAMES, Facts, facts_of, flight_of, setup_words
from ondine.core.log.quantities import QUANTITIES
from ondine.core.setup import Mix, Setup, Valve
from ondine.core.timing.sequence import FlashPulse, Pulse, Sequence
from tests.calibrated import IN_HAND

PAIR = Sequence((Pulse(0, 22_000), Pulse(95_000, 20_000)), (FlashPulse(356_000),))


def facts(plan: Plan, head_m: float | None = None) -> Facts:
    return facts_of(plan, flight_of(plan), head_m)


def test_what_was_commanded_is_told_in_milliseconds():
    found = facts(Plan(PAIR, Setup()), 0.118)
    assert (found.drops, found.interval_ms, found.gap_ms) == (2, 95.0, 73.0)
    assert (found.open_ms, found.second_open_ms, found.flash_ms, found.head_mm) == (22.0, 20.0, 356.0, 118.0)


def test_the_flash_is_told_from_the_foreseen_touchdown_and_meeting():
    found, flight = facts(IN_HAND), flight_of(IN_HAND)
    assert found.after_touchdown_ms == pytest.approx(found.flash_ms - flight.touchdown_ms)
    assert found.after_meeting_ms == pytest.approx(found.flash_ms - flight.meeting_ms)
    assert 0 < flight.touchdown_sd_ms < 20


def test_crater_clocks_do_not_depend_on_the_height_of_the_table():
    # The same place in the splash's own time is the same figure, however high the drop fell.
    for height_m in (0.2, 0.365, 0.5):
        setup = replace(IN_HAND.setup, valves=(replace(IN_HAND.setup.valves[0], nozzle_height_m=height_m),))
        flight = flight_of(Plan(PAIR, setup, IN_HAND.belief))
        flash_us = round((flight.touchdown_ms + 2.0 * flight.clock_ms) * 1000)
        plan = Plan(replace(PAIR, flashes=(FlashPulse(flash_us),)), setup, IN_HAND.belief)
        assert facts(plan).crater_clocks == pytest.approx(2.0, abs=1e-3)


def test_the_foreseen_touchdown_is_that_of_the_chart():
    found = events(forecast(IN_HAND.setup, IN_HAND.belief, IN_HAND.sequence))
    times = [event.time_s.mean for event in found if event.kind is EventKind.TOUCHDOWN]
    assert flight_of(IN_HAND).touchdown_ms == pytest.approx(min(times) * 1e3, abs=0.5)


def test_one_drop_has_no_second_and_no_meeting():
    found = facts(Plan(Sequence((Pulse(0, 22_000),), (FlashPulse(300_000),)), Setup()))
    assert (found.drops, found.interval_ms, found.gap_ms, found.second_open_ms) == (1, None, None, None)
    assert found.after_meeting_ms is None and found.size_ratio is None and found.after_touchdown_ms is not None


def test_a_sequence_of_nothing_has_no_figures_but_the_table_s():
    found = facts(Plan(Sequence((), ()), Setup()))
    assert found.drops == 0 and found.flash_ms is None and found.height_mm == pytest.approx(365)


def test_a_liquid_that_no_formula_covers_leaves_its_figures_out():
    setup = replace(Setup(), mix=Mix(temperature_c=99.0))
    found = facts(Plan(PAIR, setup))
    assert found.viscosity_mpa_s is None and found.after_touchdown_ms is None and found.gap_ms == 73.0


def test_a_larger_second_drop_has_a_ratio_over_one():
    larger = replace(PAIR, drops=(PAIR.drops[0], Pulse(95_000, 40_000)))
    assert facts(Plan(larger, Setup())).size_ratio > 1 > facts(Plan(PAIR, Setup())).size_ratio


def test_every_figure_but_the_rating_is_a_fact():
    assert {quantity.key for quantity in QUANTITIES} - {"rating"} <= set(NAMES)


def test_a_set_up_is_found_by_what_falls_and_by_what_its_parts_are_called():
    milky = replace(Setup(), name="Mill", valves=(Valve(), Valve(liquid=Mix(milk_mass_fraction=0.1))))
    words = setup_words(milky).split()
    assert "milk" in words and "water" in words and "Mill" in words and "glycerine" not in words
