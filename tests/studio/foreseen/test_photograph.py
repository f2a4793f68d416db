"""The foreseen picture on its way from coarse to finished."""

from dataclasses import replace

import numpy as np
import pytest

from ondine.core.forecast.lit import Lit
from ondine.core.forecast.plan import Plan
from ondine.core.setup.fields import put
from ondine.core.timing.sequence import FlashPulse, Sequence
from ondine.demo.scenario import ONE, TIDAL_MILL
from ondine.studio.foreseen.orders import Wanted, size_within
from ondine.studio.foreseen.photograph import foresee, shines_us
from tests.calibrated import IN_HAND, RACE_IN_HAND, TAUGHT

SMALL = 168, 112


def looks(plan, **how):
    return [look for look in foresee(Wanted(plan, SMALL, **how)) if look is not None]


def finished(plan, **how):
    return looks(plan, noisy=False, **how)[-1].pixels.astype(float)


def test_it_sharpens_in_steps_to_its_full_size():
    found = looks(IN_HAND)
    assert [look.finished for look in found] == [False] * (len(found) - 1) + [True]
    assert [look.pixels.shape[:2] for look in found[:3]] == [(28, 42), (56, 84), (112, 168)]
    assert found[-1].pixels.shape == (112, 168, 3) and found[-1].pixels.dtype == np.uint8
    coarse, whole = found[0].pixels.astype(float), found[-1].pixels[::4, ::4].astype(float)
    assert np.abs(coarse - whole).mean() < 6


def test_flashes_add_on_a_dark_frame():
    setup, (first, second) = RACE_IN_HAND.setup, RACE_IN_HAND.sequence.flashes

    def lit_by(*flashes):
        plan = replace(RACE_IN_HAND, sequence=replace(RACE_IN_HAND.sequence, flashes=flashes))
        # Below the tone curve's shoulder and without its bend, light adds.
        return linear(finished(replace(plan, setup=put(setup, "camera.iso", 50.0))))

    both, one, other = lit_by(first, second), lit_by(first), lit_by(second)
    assert np.median(np.abs(both - one - other)) < 0.004
    # From behind the whole frame is lit, from the side what catches the light.
    assert one.mean() > 0.05 and other.max() > 0.1 > 20 * np.median(other)


def linear(codes):
    """IEC 61966-2-1."""
    share = codes / 255
    return np.where(share <= 0.04045, share / 12.92, ((share + 0.055) / 1.055) ** 2.4)


def test_a_unit_that_is_not_ready_adds_nothing_and_none_at_all_is_black():
    again = replace(IN_HAND.sequence, flashes=(FlashPulse(356_000), FlashPulse(360_000)))
    assert np.array_equal(finished(replace(IN_HAND, sequence=again)), finished(IN_HAND))
    none = replace(IN_HAND, sequence=replace(IN_HAND.sequence, flashes=(FlashPulse(356_000, 3),)))
    assert finished(none).max() == 0


def test_a_longer_flash_blurs_what_moves():
    """A falling drop in a short flash, and in one that is 30 times as long and no brighter."""
    falling = Plan(Sequence.with_one_flash(ONE, 252_000), TIDAL_MILL, TAUGHT)
    long = put(put(TIDAL_MILL, "light.units.0.power", 1 / 2), "light.units.0.losses_stops", 7.0)
    long = put(put(long, "light.units.1.power", 1 / 2), "light.units.1.losses_stops", 6.0)

    def steepest(plan):
        return np.abs(np.diff(finished(plan)[:76, 80:88].mean(axis=(1, 2)))).max()

    assert steepest(falling) > 1.5 * steepest(replace(falling, setup=long))


def test_equal_shares_of_the_light_fall_at_each_instant():
    flash, light = FlashPulse(100_000), Lit((0,), (), (), 1e-3, 1.0)
    assert shines_us(flash, light, 1) == [100_500]
    assert shines_us(flash, light, 4) == [100_125, 100_375, 100_625, 100_875]


def test_brighter_settings_give_a_brighter_picture():
    darker = replace(IN_HAND, setup=put(TIDAL_MILL, "camera.f_number", 32.0))
    assert finished(darker).mean() < 0.75 * finished(IN_HAND).mean()
    assert finished(IN_HAND, gain_stops=-2.0).mean() < finished(darker).mean() * 1.05


def test_noise_is_that_of_the_iso_and_only_in_the_finished_picture():
    high = replace(IN_HAND, setup=put(put(TIDAL_MILL, "camera.iso", 6400.0), "camera.f_number", 90.0))
    *_, plain, noisy = looks(high)
    assert np.abs(np.diff(noisy.pixels[5:20].astype(float), axis=1)).mean() > 3
    assert np.abs(np.diff(plain.pixels[5:20].astype(float), axis=1)).mean() < 1


@pytest.mark.parametrize(("room", "portrait", "size"), [
    ((600, 600), False, (600, 400)), ((600, 300), False, (450, 300)), ((600, 600), True, (400, 600)),
    ((1, 1), False, (16, 16)),
])  # fmt: skip
def test_a_picture_fits_into_its_room_in_the_frames_proportions(room, portrait, size):
    assert size_within(replace(TIDAL_MILL.camera, portrait=portrait), room) == size


def test_nothing_foreseen_is_said():
    full = put(put(TIDAL_MILL, "mix.glycerine_mass_fraction", 0.999), "mix.milk_mass_fraction", 0.999)
    with pytest.raises(ValueError, match="less than 100 %"):
        looks(replace(IN_HAND, setup=full))
