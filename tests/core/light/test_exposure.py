from dataclasses import replace

import pytest

from ondine.core.light.exposure import (
    BACKGROUND_SHARE,
    SUBJECT_SHARE,
    background_under_subject_stops,
    f_number_for,
    guide_number_m,
    light_on_background,
    light_on_subject,
    look_words,
    over_stops,
)
from ondine.core.light.stops import exposure_value, illuminance_lx
from ondine.core.setup import Camera, Flash, Light, Place


@pytest.mark.parametrize(
    ("n", "t", "iso", "ev"),
    [(16, 1 / 100, 100, 14.64385619), (11, 1 / 200, 100, 14.56271943), (8, 1 / 250, 400, 11.96578428)],
)
def test_exposure_values(n, t, iso, ev):
    # colour-hdri 0.2.6, exposure_value_100 (computed there once).
    assert exposure_value(n, t, iso) == pytest.approx(ev, abs=1e-8)


def test_light_for_an_exposure_value():
    # ISO 2720 with C 250; colour-hdri 0.2.6: 2.5 lx at EV 0 and ISO 100.
    assert illuminance_lx(0) == pytest.approx(2.5)
    assert illuminance_lx(exposure_value(16, 1 / 125)) == pytest.approx(250 / 100 * 32_000)


def test_guide_numbers():
    flash = Flash(guide_number_m=34, guide_zoom_mm=35, zoom_mm=35, power=1.0, losses_stops=0.0)
    # ISO 1230: N = GN/d: f/11.3 at 3 m; a quarter of the power halves it, ISO 400 doubles it.
    assert f_number_for(guide_number_m(flash), 3.0) == pytest.approx(34 / 3)
    assert guide_number_m(replace(flash, power=0.25)) == pytest.approx(17)
    assert f_number_for(34, 3.0, 400) == pytest.approx(2 * 34 / 3)
    # Common practice, no published source: 105 instead of 24 mm concentrates the light.
    assert guide_number_m(replace(flash, zoom_mm=105)) > 1.5 * guide_number_m(replace(flash, zoom_mm=24))
    assert guide_number_m(replace(flash, losses_stops=2)) == pytest.approx(17)


def test_each_unit_lights_by_its_share_over_its_distance_squared():
    # ISO 1230: N² = (GN/d)², worked by hand for GN 20 m: 0.5 m to the splash, 1.3 m to a sheet 1.2 m behind it.
    unit = Flash(
        place=Place.SIDE, x_m=0.0, height_m=0.5, aside_m=0.0, power=1.0, losses_stops=0.0,
        guide_number_m=20, guide_zoom_mm=50, zoom_mm=50,
    )  # fmt: skip
    light = Light((unit,), background_m=1.2)
    assert light_on_subject(light) == pytest.approx(SUBJECT_SHARE[Place.SIDE] * (20 / 0.5) ** 2)
    assert light_on_background(light) == pytest.approx(BACKGROUND_SHARE[Place.SIDE] * (20 / 1.3) ** 2)
    both = Light((unit, replace(unit, place=Place.BEHIND)), background_m=1.2)
    assert light_on_background(both) == pytest.approx(
        (BACKGROUND_SHARE[Place.SIDE] + BACKGROUND_SHARE[Place.BEHIND]) * (20 / 1.3) ** 2
    )


def test_a_place_lights_splash_or_background_as_practice_says():
    # Common practice, no published source: light from the side or above falls on the splash whole and hardly behind it;
    # from behind it is the background's, and half of it comes through the splash.
    assert SUBJECT_SHARE[Place.SIDE] == SUBJECT_SHARE[Place.ABOVE] == 1 == BACKGROUND_SHARE[Place.BEHIND]
    for place in Place:
        assert 0 < SUBJECT_SHARE[place] <= 1 and 0 < BACKGROUND_SHARE[place] <= 1
        behind = place in (Place.BEHIND, Place.BOUNCED)
        assert (SUBJECT_SHARE[place] > 0.5) != behind and (BACKGROUND_SHARE[place] > 0.1) == behind


def test_lights_add_up_on_subject_and_background():
    one = Light((Flash(place=Place.BEHIND),))
    two = Light((Flash(place=Place.BEHIND), Flash(place=Place.BEHIND)))
    assert light_on_subject(two) == pytest.approx(2 * light_on_subject(one))
    side = Light((Flash(place=Place.SIDE, x_m=0.1, aside_m=0.4),))
    assert background_under_subject_stops(side) > background_under_subject_stops(one) + 2
    assert "silhouette" in look_words(one) and "dark" in look_words(side)
    assert "underside glow" in look_words(Light((Flash(place=Place.BOWL),)))
    assert light_on_background(one) > light_on_background(replace(one, background_m=1.0)) / 100
    near, far = Camera(), Camera(f_number=32)
    assert over_stops(100.0, near) - over_stops(100.0, far) == pytest.approx(2)
