"""Which unit lights when, and how much of the picture's light it gives."""

from dataclasses import replace

import pytest

from ondine.core.forecast.lit import lit, times_lit, unit_lights
from ondine.core.light.exposure import light_on_subject
from ondine.core.light.recycle import recycle_s
from ondine.core.setup import Flash, FlashFiredBy, Light, Setup, Triggers
from ondine.core.timing.sequence import FlashPulse, Pulse, Sequence

A, B, SLAVE = Flash("A", output=0), Flash("B", output=1, power=1 / 16), Flash("S", slave=True)


def table(*units: Flash, by_camera: bool = False) -> Setup:
    school = FlashFiredBy.CAMERA if by_camera else FlashFiredBy.CONTROLLER
    return Setup(light=Light(units), triggers=Triggers(flash_fired_by=school))


def fired(*pairs: tuple[int, int]) -> Sequence:
    return Sequence((Pulse(0, 20_000),), tuple(FlashPulse(at, output) for at, output in pairs))


def test_an_output_lights_the_units_that_hang_on_it():
    first, second = lit(table(A, B), fired((300_000, 0), (305_000, 1)))
    assert (first.units, second.units) == ((0,), (1,))
    (both,) = lit(table(A, B, by_camera=True), fired((300_000, 0)))
    assert both.units == (0, 1)
    (none,) = lit(table(A), fired((300_000, 3)))
    assert none.units == none.not_ready == () and none.duration_s == 0


def test_shares_are_those_of_the_exposures_and_make_one_picture():
    setup = table(A, B)
    found = lit(setup, fired((300_000, 0), (305_000, 1)))
    # Units alike but for four times the power: four parts of five, two stops more (by the law of exposure).
    assert [flash.share for flash in found] == pytest.approx([1 / 5, 4 / 5])
    alone = light_on_subject(replace(setup.light, units=(B,)))
    assert found[1].share == pytest.approx(alone / light_on_subject(setup.light))


def test_a_slave_lights_with_the_first_flash_and_again_only_once_it_has_recycled():
    ready_us = round(recycle_s(SLAVE) * 1e6)
    setup = table(A, B, SLAVE)
    first, soon = lit(setup, fired((300_000, 0), (301_000, 1)))
    assert first.units == (0, 2) and first.slaves == (2,)
    assert soon.units == (1,) and soon.not_ready == (2,)
    _, late = lit(setup, fired((300_000, 0), (300_000 + ready_us, 1)))
    assert late.units == (1, 2)
    # Nothing to see, nothing lights.
    (dark,) = lit(table(SLAVE), fired((300_000, 0)))
    assert dark.units == ()


@pytest.mark.parametrize(("gap_share", "lights"), [(0.99, False), (1.0, True)])
def test_a_unit_is_dark_until_it_has_recycled_whatever_the_order_of_the_numbers(gap_share, lights):
    gap_us = round(recycle_s(A) * 1e6 * gap_share)
    later, earlier = lit(table(A), fired((300_000 + gap_us, 0), (300_000, 0)))
    assert earlier.units == (0,)
    assert (later.units, later.not_ready) == (((0,), ()) if lights else ((), (0,)))


def test_a_slave_lengthens_the_flash_by_its_lag():
    alone, together = (lit(table(*units), fired((300_000, 0)))[0].duration_s for units in ((A,), (A, SLAVE)))
    assert together == pytest.approx(alone + Triggers().slave_lag_s)


def test_each_unit_counts_by_itself_as_often_as_it_lights():
    ready_us = round(recycle_s(A) * 1e6)
    setup = table(A, B, Flash("C", output=2))
    sequence = fired((300_000, 0), (301_000, 1), (300_000 + ready_us, 0), (300_001, 0))
    first, second, idle = unit_lights(setup, lit(setup, sequence))
    # Unit A lights twice and misses a third call; B once, with four times the power; nothing fires C.
    assert (first.flashes, first.missed, idle.flashes, idle.share) == ((0, 2), (3,), (), 0.0)
    assert (first.share, second.share) == pytest.approx((2 / 6, 4 / 6))
    assert times_lit(setup, sequence) == (2, 1, 0)
    # The picture's light is that of all flashes together (ISO 1230, from memory: squares of f-numbers add up).
    alone = light_on_subject(Light((A,)))
    assert light_on_subject(setup.light, times_lit(setup, sequence)) == pytest.approx(6 * alone)
