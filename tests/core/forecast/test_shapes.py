from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ondine.core.belief.priors import Belief, Prior, Variation
from ondine.core.belief.rigs import sample_rigs
from ondine.core.forecast.instant import at_instant
from ondine.core.forecast.outline import outline
from ondine.core.forecast.shapes import BLURRED_CIRCLES, BY_KEY, GHOST_STOPS, SHAPES, Eye, shape_probabilities
from ondine.core.forecast.train import On
from ondine.core.forecast.whole import forecast
from ondine.core.light.ambient import NO_GHOST_STOPS
from ondine.core.light.depth import circle_of_confusion_m
from ondine.core.physics.meeting import sheet_sinking_m
from ondine.core.setup import Setup, Triggers, Valve
from ondine.core.timing.sequence import Pulse, Sequence

CERTAIN = Belief(**{name: Prior(prior.mean, 0.0) for name, prior in Belief().priors.items()}, variation=Variation(0.0))


PAIR = Sequence.with_one_flash((Pulse(0, 20_000), Pulse(95_000, 20_000)), 0)


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
    keys = [next(iter(shape_probabilities(what, met + d))) for d in (-2_000, 500, 2_500, 5_000, 9_200, 14_000, 90_000)]
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
    what = forecast(Setup(), CERTAIN, Sequence.with_one_flash((Pulse(0, 20_000), Pulse(40_000, 14_000)), 0))
    after = round(what.falls.touchdown_s[1, 0] * 1e6) + 1_000
    assert next(iter(shape_probabilities(what, after))) == "crater-hit"


def test_a_third_drop_soon_after_opens_a_second_umbrella():
    # A second valve over the same spot: one lets no two drops go so soon after each other.
    setup = Setup(valves=(Valve(), Valve(nozzle_height_m=0.6)), triggers=Triggers(valve_jitter_s=0.0))
    pair = forecast(setup, CERTAIN, PAIR)
    met, life = pair.meetings.time_s[1, 0], pair.meetings.sheet_life_s[1, 0]
    alone = forecast(setup, CERTAIN, Sequence((Pulse(0, 20_000, 1),), ())).falls
    reaches = met + 0.4 * life + pair.meetings.height_m[1, 0] / alone.impact_m_s[0, 0]
    third = Pulse(round(1e6 * (reaches - alone.touchdown_s[0, 0])), 20_000, 1)
    found = forecast(setup, CERTAIN, replace(PAIR, drops=(*PAIR.drops, third)))
    assert found.meetings.on[2, 0] == On.SHEET
    # They close with the drop's speed and the sheet's own upward one, braked since the first meeting.
    first, third = (found.meetings.time_s[k, 0] for k in (1, 2))
    away, rises = sheet_sinking_m(third - first, found.meetings.sheet_m_s[1, 0], found.meetings.brake_m[1, 0])
    assert found.meetings.closing_m_s[2, 0] == pytest.approx(found.falls.impact_m_s[2, 0] + rises)
    # They meet where the sheet has sunk to.
    assert found.meetings.height_m[2, 0] == pytest.approx(found.meetings.height_m[1, 0] + away)
    # As heavy as each other, they go on with the mean of both speeds (conservation of momentum).
    assert found.meetings.sheet_m_s[2, 0] == pytest.approx((rises - found.falls.impact_m_s[2, 0]) / 2)
    when = round(found.meetings.time_s[2, 0] * 1e6) + 1_000
    assert next(iter(shape_probabilities(found, when))) == "double-umbrella"


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
    assert all(
        np.isfinite(profile).all()
        for profile in (shape.pool, *(form.profile for form in (*shape.sheets, *shape.columns, *shape.crowns)))
    )


def test_every_shape_has_its_own_key():
    assert len({s.key for s in SHAPES}) == len(SHAPES) == 24


def opening_us() -> int:
    """A time at which the sheet of the certain pair is opening fast."""
    what = forecast(Setup(), CERTAIN, PAIR)
    return round(1e6 * (what.meetings.time_s[1, 0] + 0.2 * what.meetings.sheet_life_s[1, 0]))


def test_the_room_ghosts_from_where_a_strict_eye_sees_it():
    what, at = forecast(Setup(), CERTAIN, PAIR), opening_us()
    for over, share in ((-0.1, 0.0), (GHOST_STOPS / 2, 0.5), (GHOST_STOPS + 0.1, 1.0)):
        chances = shape_probabilities(what, at, eye=Eye(room_stops=NO_GHOST_STOPS + over))
        assert chances.get("ghosted", 0.0) == pytest.approx(share, abs=0.02)
    # Nobody has measured the room; nothing stands in the frame to be seen twice.
    assert "ghosted" not in shape_probabilities(what, at)
    assert "ghosted" not in shape_probabilities(what, 0, eye=Eye(room_stops=0.0))


def test_what_smears_over_some_circles_of_confusion_is_blurred():
    what, at = forecast(Setup(), CERTAIN, PAIR), opening_us()
    camera = what.setup.camera
    speed = abs(float(at_instant(what, at).sheet_edge_m_s[1, 0]))
    # Speed times duration on the subject, against circles of confusion on the sensor.
    for circles, share in ((BLURRED_CIRCLES / 2.2, 0.0), (BLURRED_CIRCLES, 0.5), (BLURRED_CIRCLES * 2.2, 1.0)):
        smear_m = circles * circle_of_confusion_m(camera) / camera.magnification
        chances = shape_probabilities(what, at, eye=Eye(duration_s=smear_m / speed))
        # Valve jitter moves the instant a little on each rig, and with it the speed of the rim.
        assert chances.get("blurred", 0.0) == pytest.approx(share, abs=0.12)


def test_drops_that_land_aside_make_lopsided_sheets_and_luck_brings_satellites():
    at = opening_us()
    for aside_m, least, most in ((0.0, 0.0, 0.0), (0.5e-3, 0.005, 0.2), (1.5e-3, 0.3, 0.7)):
        belief = replace(CERTAIN, variation=Variation(0.0, aside_m, 0.0, 0.0))
        share = shape_probabilities(forecast(Setup(), belief, PAIR), at).get("off-axis", 0.0)
        assert least <= share <= most
    belief = replace(CERTAIN, variation=Variation(0.0, 0.0, 0.0, 0.25))
    found = shape_probabilities(forecast(Setup(), belief, PAIR), at)
    assert found["satellites-or-bubbles"] == pytest.approx(0.25, abs=0.01)
    assert "satellites-or-bubbles" not in shape_probabilities(forecast(Setup(), belief, PAIR), 100_000)
