"""Series, EV and equivalence against ISO 2720 / APEX, worked values and practice."""

import math
from dataclasses import replace
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ondine.core.light.anchor import (
    BLACK,
    BLOWN,
    AnchorError,
    RatedFrame,
    Rating,
    Settings,
    equivalents,
    next_frame,
    parse_rating,
)
from ondine.core.light.exposure import (
    background_under_subject_stops,
    f_number_for,
    guide_number_m,
    light_on_background,
    light_on_subject,
    look_words,
    over_stops,
)
from ondine.core.light.stops import (
    Step,
    apertures,
    exposure_value,
    illuminance_lx,
    nearest,
    power_label,
    powers,
    speeds,
    stops_words,
)
from ondine.core.setup import Camera, Flash, Light, Place

BASE = Settings(power=1 / 64, iso=200, f_number=16, distance_m=0.45, zoom_mm=105, magnification=0.4)


def nominal(label: str) -> float:
    top, _, foot = label.partition("/")
    return float(top) / float(foot or 1)


def test_nominal_stops_lie_near_the_exact_ones():
    # Worst, by arithmetic on the lists: full stop 0.0811 EV, thirds from f/1.4 to f/45 0.0811 EV, ISO 0.0228.
    full = [abs(2 * math.log2(nominal(m.label) / m.value)) for m in apertures(Step.FULL)]
    assert len(full) == 13 and max(full) == pytest.approx(0.0811368, abs=1e-6)
    thirds = [abs(2 * math.log2(nominal(m.label) / m.value)) for m in apertures() if 1.35 < m.value < 46]
    assert max(thirds) <= 0.085
    assert max(abs(math.log2(float(m.label) / m.value)) for m in speeds() if m.value >= 99) <= 0.025


@pytest.mark.parametrize(("series", "factor"), [(apertures(), 2 ** (1 / 6)), (apertures(Step.HALF), 2 ** 0.25),
                                                (speeds(), 2 ** (1 / 3))])  # fmt: skip
def test_every_click_is_the_same_step(series, factor):
    for one, other in pairwise(series):
        assert other.value / one.value == pytest.approx(factor, rel=1e-9)


def test_powers_and_their_labels():
    assert [m.label for m in powers(1 / 4)] == [
        "1", "1/2 + 2/3", "1/2 + 1/3", "1/2", "1/4 + 2/3", "1/4 + 1/3", "1/4"
    ]  # fmt: skip
    assert power_label(1 / 64) == "1/64" and power_label(1 / 64 * 2 ** (1 / 3)) == "1/64 + 1/3"
    assert len(powers(1 / 128)) == 22 and powers(1 / 128, Step.FULL)[-1].value == pytest.approx(1 / 128)


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


@pytest.mark.parametrize(
    ("text", "low", "high"),
    [("+1/3", 1 / 3, 1 / 3), ("−2", -2, -2), ("-1 2/3", -5 / 3, -5 / 3), ("right", 0, 0), ("0", 0, 0), ("+0.7 stops", 0.7, 0.7),
     ("black", -math.inf, -4), ("Blown", 4, math.inf)],
)  # fmt: skip
def test_ratings_as_people_write_them(text, low, high):
    assert parse_rating(text) == Rating(pytest.approx(low), pytest.approx(high))


@pytest.mark.parametrize("text", ["", "nice", "1/0", "+40"])
def test_words_that_rate_nothing(text):
    with pytest.raises(AnchorError):
        parse_rating(text)


@given(st.floats(-2, 2), st.sampled_from([1 / 128, 1 / 64, 1 / 16]), st.floats(0.2, 2), st.floats(0.1, 1.0))
def test_every_equivalent_is_as_bright_as_the_anchor_should_be(off, power, distance, m):
    anchor = RatedFrame(replace(BASE, power=power), Rating(off, off))
    now = replace(BASE, distance_m=distance, magnification=m)
    wanted = anchor.settings.brightness_stops - off
    for way in equivalents(anchor, now, powers(1 / 128, Step.FULL), speeds(Step.FULL), apertures()):
        made = replace(now, power=way.power.value, iso=way.iso.value, f_number=way.aperture.value)
        assert made.brightness_stops - wanted == pytest.approx(way.off_stops, abs=1e-9)
        assert abs(way.off_stops) <= 1 / 6 + 1e-6


def test_a_stop_is_a_stop():
    # APEX: one stop of ISO, of power, or 1.41 in the f-number, or 1.41 in the distance.
    for change in ({"iso": 400}, {"power": 1 / 32}, {"f_number": 16 / 2**0.5}, {"distance_m": 0.45 / 2**0.5}):
        assert replace(BASE, **change).brightness_stops - BASE.brightness_stops == pytest.approx(1)
    assert replace(BASE, clouding_stops=3).brightness_stops - BASE.brightness_stops == pytest.approx(3)
    # Effective aperture, by prysm: 1.170 stops lost at 1:2 against infinity.
    far, near = replace(BASE, magnification=1e-9), replace(BASE, magnification=0.5)
    assert far.brightness_stops - near.brightness_stops == pytest.approx(1.170, abs=1e-3)


def shoot(true_offset: float, brightness: float) -> Rating:
    """How a frame comes out: what is over four stops off shows nothing but that."""
    off = brightness - true_offset
    return BLACK if off < -4 else BLOWN if off > 4 else Rating(round(off * 3) / 3, round(off * 3) / 3)


@given(st.floats(-11, 11))
def test_from_a_black_frame_to_a_right_one_in_four_frames(away):
    right = BASE.brightness_stops + away
    frames, settings, advice = [], BASE, None
    for _ in range(4):
        frames.append(RatedFrame(settings, shoot(right, settings.brightness_stops)))
        advice = next_frame(frames)
        if advice.done:
            break
        settings = replace(settings, power=settings.power * 2**advice.change_stops)
    assert abs(settings.brightness_stops - right) <= 1 / 3 + 1e-9


def test_the_background_by_bisection_as_practice_does_it():
    # Common practice, no published source: white by trial, f/11 grey, f/5.6 too much, f/8 nearly, f/7.1 right.
    def frame(f_number, low, high):
        return RatedFrame(replace(BASE, f_number=f_number), Rating(low, high))

    frames = [frame(11.3, -2.0, -0.6), frame(5.66, 0.4, 2.0)]
    advice = next_frame(frames)
    wanted = replace(BASE, f_number=5.66).brightness_stops + advice.change_stops
    at = nearest(apertures(), 5.66 * 2 ** ((replace(BASE, f_number=5.66).brightness_stops - wanted) / 2))
    assert 6.3 <= float(at.label) <= 10
    frames.append(frame(8.0, -0.5, -0.2))
    assert not next_frame(frames).done


def test_frames_that_tell_nothing():
    with pytest.raises(AnchorError, match="clipped"):
        equivalents(RatedFrame(BASE, BLACK), BASE, powers(1 / 128), speeds(), apertures())
    with pytest.raises(AnchorError, match="Take a test frame first"):
        next_frame([])
    with pytest.raises(AnchorError, match="contradict"):
        next_frame([RatedFrame(BASE, Rating(2, 2)), RatedFrame(BASE, Rating(-2, -2))])


def test_stops_in_words():
    assert [stops_words(x) for x in (0, 1 / 3, -2 / 3, 4 / 3, -2)] == ["0", "+1/3", "−2/3", "+1 1/3", "−2"]
