"""Where the camera looks from: similar triangles by hand, and what is said of the rims."""

import math
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ondine.core.light.lens import distance_at_m
from ondine.core.setup import Bowl, Camera, Setup
from ondine.core.table.viewpoint import HIGH_DEG, LOW_DEG, viewpoint
from ondine.demo.scenario import TIDAL_MILL

CAMERA = Camera(magnification=0.25, focal_length_m=0.09, height_m=0.05, water_line_share=0.2)
AWAY = distance_at_m(0.09, 0.25)


def seen(height_m: float, landing_m: float = 0.0, share: float = 0.2):
    camera = replace(CAMERA, height_m=height_m, water_line_share=share)
    return viewpoint(Setup(camera=camera, bowl=Bowl(diameter_m=0.26, landing_m=landing_m)))


@pytest.mark.parametrize("landing_m", [-0.05, 0.0, 0.08])
def test_rims_stand_where_the_line_of_sight_meets_the_plane_of_the_splash(landing_m):
    found = seen(0.05, landing_m)
    near, far = 0.13 - landing_m, 0.13 + landing_m
    # A line from the lens over the near rim goes on under the water's level; over the far rim it comes above it.
    assert found.near_rim_m == pytest.approx(-0.05 * near / (AWAY - near))
    assert found.far_rim_m == pytest.approx(0.05 * far / (AWAY + far))


def test_a_lens_inside_the_bowl_sees_no_near_rim():
    close = replace(CAMERA, magnification=2.0)
    assert distance_at_m(0.09, 2.0) < 0.5
    assert viewpoint(Setup(camera=close, bowl=Bowl(diameter_m=0.9))).near_rim_m is None


def test_the_near_rim_is_said_only_while_it_is_in_the_picture():
    # The frame of 94 by 62.7 mm reaches 12.5 mm below the water at a fifth, and none at nought.
    in_sight, below = seen(0.02, share=0.2), seen(0.02, share=0.0)
    assert in_sight.near_rim_m == pytest.approx(-0.02 * 0.13 / (AWAY - 0.13))
    assert -CAMERA.frame_height_m * 0.2 < in_sight.near_rim_m < 0
    assert "near rim" in in_sight.words and "near rim" not in below.words


def test_the_angle_decides_between_jets_and_rings():
    for degrees, word in ((LOW_DEG - 1, "Low"), ((LOW_DEG + HIGH_DEG) / 2, "Between"), (HIGH_DEG + 1, "High")):
        found = seen(AWAY * math.tan(math.radians(degrees)))
        assert found.words.startswith(word) and found.angle_deg == pytest.approx(degrees)
        assert found.jet_share == pytest.approx(math.cos(math.radians(degrees)))
        assert found.ring_share == pytest.approx(math.sin(math.radians(degrees)))


@given(st.floats(0.0, 0.4), st.floats(-0.1, 0.1))
def test_rims_are_seen_where_similar_triangles_put_them(height, landing):
    setup = replace(
        TIDAL_MILL,
        camera=replace(TIDAL_MILL.camera, height_m=height),
        bowl=replace(TIDAL_MILL.bowl, landing_m=landing),
    )
    seen = viewpoint(setup)
    away = distance_at_m(setup.camera.focal_length_m, setup.camera.magnification)
    near, far = 0.13 - landing, 0.13 + landing
    # A ray from the lens through the rim, at the plane of the splash.
    assert seen.far_rim_m == pytest.approx(height * far / (away + far))
    if near < away:
        assert seen.near_rim_m == pytest.approx(-height * near / (away - near))
    assert seen.jet_share**2 + seen.ring_share**2 == pytest.approx(1)


def test_low_and_high_viewpoints():
    low = viewpoint(Setup(camera=Camera(height_m=0.01)))
    high = viewpoint(Setup(camera=Camera(height_m=0.25)))
    assert low.angle_deg < 3 and low.jet_share > 0.99 and "Low" in low.words
    assert high.angle_deg > 20 and high.ring_share > 0.35 and "High" in high.words
    assert low.far_rim_m < high.far_rim_m


def test_a_splash_at_the_rear_rim_shows_the_near_rim_higher_than_one_at_the_front():
    from ondine.core.setup import Bowl

    rear = viewpoint(Setup(camera=Camera(height_m=0.05), bowl=Bowl(landing_m=-0.05)))
    front = viewpoint(Setup(camera=Camera(height_m=0.05), bowl=Bowl(landing_m=0.10)))
    assert front.near_rim_m > rear.near_rim_m
