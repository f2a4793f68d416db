"""The liquid's surface from tables, against the closed forms that the tables were made from."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ondine.picture.distance import ALL_PARTS, around, bearing, crater_height, liquid, normal, wave
from ondine.picture.scene import RING, Blob, Pool, Scene, bearings, pack

ANGLES = st.floats(-math.pi, math.pi)


@given(ANGLES, st.floats(0.1, 50.0))
def test_a_direction_is_found_again_in_the_tables_around_the_axis(angle, radius):
    place = bearing(radius * math.cos(angle), radius * math.sin(angle))
    for wave_of, true in ((np.cos, math.cos), (np.sin, math.sin)):
        # Linear between entries that stand at most 4/512·2 radians apart: the error is at most h²/8.
        found = around(wave_of(bearings()), 0, place)
        assert found == pytest.approx(true(angle), abs=(8 / RING) ** 2 / 8 + 1e-9)


@given(st.floats(0.0, 20.0))
def test_the_crater_is_a_bowl_with_a_lip(radius):
    pool = Pool(crater_depth=9.0, crater_radius=8.0)
    q = radius / 8.0
    bowl = -9.0 * max(1 - q * q, 0.0) ** 0.8
    lip = 0.13 * 9.0 * math.exp(-((q - 1.12) ** 2) / 0.02)
    # The bowl's wall is upright where it meets the lip: there the table cuts a corner.
    corner = 0.35 if abs(q - 1) < 0.01 else 0.02
    assert crater_height(pack(Scene(pool)), radius) == pytest.approx((bowl + lip) if q < 1.6 else 0.0, abs=corner)


@given(st.floats(-100.0, 100.0))
def test_the_ripple_is_nearly_a_cosine(x):
    assert wave(x) == pytest.approx(math.cos(x), abs=0.06)


@given(ANGLES, st.floats(-1.0, 1.0), st.floats(0.0, 30.0))
def test_a_drop_in_the_air_is_a_sphere(angle, rise, away):
    s = pack(Scene(blobs=[Blob(1.0, -2.0, 40.0, 3.0, 3.0)]))
    flat = math.sqrt(1 - rise * rise)
    way = flat * math.cos(angle), flat * math.sin(angle), rise
    place = tuple(c + (3.0 + away) * w for c, w in zip((1.0, -2.0, 40.0), way, strict=True))
    distance = liquid(s, *place, ALL_PARTS)[0]
    pool = max(place[2], 0.0)
    assert distance == pytest.approx(min(away, pool), abs=1.0 if abs(away - pool) < 4 else 1e-6)
    if away < 1.0 and rise > -0.9:
        assert normal(s, *place, ALL_PARTS) == pytest.approx(way, abs=5e-3)
