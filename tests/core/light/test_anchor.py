import math
from dataclasses import replace

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
from ondine.core.light.stops import Step, apertures, nearest, powers, speeds

BASE = Settings(power=1 / 64, iso=200, f_number=16, distance_m=0.45, zoom_mm=105, magnification=0.4)


def shoot(true_offset: float, brightness: float) -> Rating:
    """How a frame comes out: what is over four stops off shows nothing but that."""
    off = brightness - true_offset
    return BLACK if off < -4 else BLOWN if off > 4 else Rating(round(off * 3) / 3, round(off * 3) / 3)


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
