"""The liquid's surface from tables, against the closed forms that the tables were made from."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ondine.picture.distance import ALL_PARTS, liquid, normal
from ondine.picture.forms import around, bearing, pool_height
from ondine.picture.layout import RING
from ondine.picture.pack import LIP_SHARE, bearings, pack
from ondine.picture.scene import Blob, Column, Crown, Fingers, Pool, Scene, Sheet, Spot

ANGLES = st.floats(-math.pi, math.pi)


@given(ANGLES, st.floats(0.1, 50.0))
def test_a_direction_is_found_again_in_the_tables_around_the_axis(angle, radius):
    place = bearing(radius * math.cos(angle), radius * math.sin(angle))
    for wave_of, true in ((np.cos, math.cos), (np.sin, math.sin)):
        # Linear between entries that stand at most 8/256 radians apart: the error is at most h²/8.
        found = around(wave_of(bearings()), 0, place)
        assert found == pytest.approx(true(angle), abs=(8 / RING) ** 2 / 8 + 1e-9)


@given(st.floats(0.0, 20.0), ANGLES)
def test_the_crater_is_a_bowl_with_a_soft_lip(radius, angle):
    s = pack(Scene([Spot(30.0, -4.0, Pool(crater_depth=9.0, crater_radius=8.0))]))
    q = radius / 8.0
    bowl = -9.0 * max(1 - q * q, 0.0)
    lip = LIP_SHARE * 9.0 * math.exp(-(((q - 1.15) / 0.22) ** 2)) * min(max((1.8 - q) / 0.3, 0.0), 1.0)
    place = 30.0 + radius * math.cos(angle), -4.0 + radius * math.sin(angle)
    assert pool_height(s, *place, 1) == pytest.approx(bowl + lip, abs=0.03)


def test_craters_that_run_into_each_other_add():
    one, other = Pool(crater_depth=9.0, crater_radius=8.0), Pool(crater_depth=5.0, crater_radius=6.0)
    alone = [pack(Scene([spot])) for spot in (Spot(0.0, 0.0, one), Spot(10.0, 0.0, other))]
    both = pack(Scene([Spot(0.0, 0.0, one), Spot(10.0, 0.0, other)]))
    for x in np.linspace(-12, 20, 33):
        sum_of = sum(pool_height(s, float(x), 1.0, 1) for s in alone)
        assert pool_height(both, float(x), 1.0, 3) == pytest.approx(sum_of, abs=1e-9)


CRATER = Scene([Spot(7.0, -3.0, Pool(9.0, 10.0)), Spot(-14.0, 4.0, Pool(5.0, 6.0))])
CROWN = Scene([Spot(7.0, -3.0, crown=Crown(12.0, 8.0, 3.0, 0.2, 0.4, Fingers(16, 4.0, 0.35, 0.4, 1.3)))])
UMBRELLA = Scene(
    [Spot(7.0, -3.0, column=Column(22.0, 5.0, 1.4))],
    sheets=[Sheet(25.0, 11.0, 4.0, 0.1, 0.4, 0.5, Fingers(19, 2.5, 0.3, 0.3, 2.0), 0.5, 7.0, -3.0)],
)


@pytest.mark.parametrize("scene", [CRATER, CROWN, UMBRELLA], ids=["craters", "crown", "umbrella"])
@given(angle=ANGLES, rise=st.floats(-1.0, 1.0), x=st.floats(-20, 20), y=st.floats(-20, 20), z=st.floats(-8, 32))
def test_a_ray_may_go_as_far_as_the_distance_says(scene, angle, rise, x, y, z):
    """What sphere tracing stands on: within the distance of a place in the air there is no liquid."""
    s = pack(scene)
    free = liquid(s, x, y, z, ALL_PARTS)[0]
    if free <= 0.02:
        return
    flat = math.sqrt(1 - rise * rise)
    for share in (0.3, 0.6, 0.98):
        away = share * free
        place = x + away * flat * math.cos(angle), y + away * flat * math.sin(angle), z + away * rise
        assert liquid(s, *place, ALL_PARTS)[0] > -0.02


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
