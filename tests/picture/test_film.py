"""Rays that are saved must not be missed: what a bundle passes is air for each ray in it."""

import math

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from ondine.core.setup import Camera
from ondine.picture.distance import ALL_PARTS, liquid, parts_near
from ondine.picture.exposure import picture_size, sharpening, trace
from ondine.picture.film import COARSE, TILE, agree, approach_all, camera_ray
from ondine.picture.look import Look
from ondine.picture.pack import pack
from ondine.picture.scene import Blob, Column, Crown, Fingers, Pool, Scene, Sheet, Spot
from ondine.picture.tracer import approach, span

SCENES = {
    "crown": Scene(
        [Spot(pool=Pool(9.0, 11.0), crown=Crown(12.0, 9.0, 4.0, 0.25, 0.4, Fingers(16, 4.0, 0.4, 0.5)))],
        blobs=[Blob(14, 3, 17, 0.6, 0.6), Blob(-13, -6, 15, 0.5, 0.5)],
    ),
    "umbrella": Scene(
        [Spot(column=Column(22.0, 6.0, 1.6, 0.2))],
        sheets=[Sheet(25.0, 11.0, 4.0, 0.15, 0.5, 0.4, Fingers(19, 2.0, 0.3), 0.4)],
        blobs=[Blob(0, 0, 26, 1.9, 1.2)],
    ),
    "young jet": Scene([Spot(column=Column(7.0, 3.6, 1.5))]),
    "two valves": Scene(
        [Spot(-13.0, 2.0, Pool(8.0, 9.0), crown=Crown(9.0, 7.0, 3.0, 0.25, 0.4, Fingers(16, 3.0, 0.4))),
         Spot(12.0, 6.0, column=Column(20.0, 5.0, 1.4))],
        sheets=[Sheet(22.0, 8.0, 3.0, 0.1, 0.4, 0.3, Fingers(19, 2.0, 0.3), 0.0, 12.0, 6.0)],
    ),
}  # fmt: skip
GEOMETRY = (350.0, math.sin(0.1), math.cos(0.1), 15.0, 3.0)
SHARES = st.floats(-1.0, 1.0)


@pytest.mark.parametrize("name", SCENES)
@given(u=st.floats(-25, 25), v=st.floats(-30, 20), across=SHARES, up=SHARES, wide=st.floats(0.05, 1.0))
# Between two spikes of the crown these leapt over a third.
@example(u=6.0, v=-5.0, across=0.0, up=0.0, wide=0.25)
@example(u=6.0, v=-8.0, across=0.0, up=0.0, wide=0.1)
@example(u=-15.0, v=-4.0, across=0.0, up=0.0, wide=0.25)
@example(u=-11.0, v=-7.0, across=0.0, up=0.0, wide=0.1)
def test_no_ray_of_a_bundle_meets_liquid_before_the_bundle_is_stopped(name, u, v, across, up, wide):
    s = pack(SCENES[name])
    clear, among = approach(s, *camera_ray(GEOMETRY, u, v, 0.0, 0.0), wide)
    # A ray of the bundle: within its radius everywhere around the splash, 10 % nearer to the camera included.
    off = 0.88 * wide / math.sqrt(2)
    ray = camera_ray(GEOMETRY, u + off * across, v + off * up, 0.0, 0.0)
    near, far = span(s, *ray, 0.0)
    if far <= near:
        return
    assert parts_near(s, *ray, among, 0.0) == parts_near(s, *ray, ALL_PARTS, 0.0)
    assert wet(s, ray, near, min(clear, far)) == []


def wet(s, ray, near, until):
    """Where a ray is inside liquid on a part of its way."""
    x, y, z, dx, dy, dz = ray
    steps = np.arange(near, until, 0.1)
    return [t for t in steps if liquid(s, x + t * dx, y + t * dy, z + t * dz, ALL_PARTS)[0] < 0]


@pytest.mark.parametrize("name", SCENES)
@given(x=st.floats(-26, 26), y=st.floats(-26, 26), z=st.floats(0, 2.5))
def test_near_the_water_a_ray_asks_every_part_that_raises_it(name, x, y, z):
    """A fillet that one ray sees and its neighbour does not would show as a line in the picture."""
    s = pack(SCENES[name])
    eye = np.array(camera_ray(GEOMETRY, 0.0, 0.0, 0.0, 0.0)[:3])
    way = (np.array([x, y, z]) - eye) / np.linalg.norm(np.array([x, y, z]) - eye)
    mask = parts_near(s, *eye, *way, ALL_PARTS, 0.0)
    asked, all_of_it = (liquid(s, x, y, z, parts)[0] for parts in (mask, ALL_PARTS))
    # Where there is liquid by all of them there is by those; over a crater heights count for less as distances.
    if all_of_it < -0.005:
        assert asked < 0


@pytest.mark.parametrize("name", SCENES)
def test_no_pixel_of_a_tile_misses_what_it_would_meet_alone(name):
    s, (wide, tall), pitch = pack(SCENES[name]), (240, 160), 0.2
    clear, among = approach_all(s[None], GEOMETRY, wide, tall, pitch)
    met = 0
    for row in range(0, tall, 3):
        for col in range(0, wide, 3):
            u, v = (col + 0.5 - wide / 2) * pitch, (tall / 2 - row - 0.5) * pitch
            lens = (0.7, -0.7) if (row + col) % 2 else (0.0, 0.0)
            ray = camera_ray(GEOMETRY, u, v, *lens)
            near, far = span(s, *ray, 0.0)
            tile = row // TILE, col // TILE, 0
            mask = parts_near(s, *ray, ALL_PARTS, 0.0) if far > near else 0
            assert mask & among[tile] == mask
            if mask:
                assert wet(s, ray, near, clear[tile]) == []
                met += clear[tile] > near + 1
    assert met > 200


def test_a_pixel_among_equals_is_their_mean_and_an_edge_is_not():
    image = np.full((3, 3, 3), 0.5, dtype=np.float32)
    image[0, 0], image[2, 2] = 0.51, 0.49
    out = np.zeros(3)
    assert agree(image, 0, 2, 0, 2, out) and out == pytest.approx(0.5)
    image[0, 2, 1] = 0.6
    assert not agree(image, 0, 2, 0, 2, out)


@pytest.mark.parametrize("pixels", [(6000, 4000), (6016, 4016), (8256, 5504), (5184, 3888), (5007, 3333)])
@pytest.mark.parametrize("portrait", [False, True])
def test_pictures_of_any_camera_have_even_sides(pixels, portrait):
    camera = Camera(width_px=pixels[0], height_px=pixels[1], portrait=portrait)
    wide, tall = picture_size(camera)
    assert wide % 2 == tall % 2 == 0
    assert wide / tall == pytest.approx(camera.frame_px[0] / camera.frame_px[1], rel=2e-3)


def test_a_picture_is_the_same_for_the_same_seed_and_reaches_its_edges():
    size = (120, 80)
    one, again = (trace([SCENES["umbrella"]], Look(), Camera(), 5, size) for _ in range(2))
    assert np.array_equal(one, again)
    assert one.shape == (80, 120, 3) and np.all(one > 0)


@pytest.mark.parametrize("name", SCENES)
def test_a_picture_sharpens_and_each_look_is_of_the_same_splash(name):
    size = (240, 160)
    looks = [seen.copy() for seen in sharpening([SCENES[name]], Look(), Camera(), 5, size) if seen is not None]
    assert [seen.shape[:2] for seen in looks] == [(40, 60), (80, 120), (160, 240), (160, 240)]
    finished = looks[-1]
    # What was traced first stays; only edges, which get more rays, change.
    assert np.mean(np.abs(looks[0] - finished[::COARSE, ::COARSE]).max(axis=2) < 1e-6) > 0.8
    assert np.mean(np.abs(looks[2] - finished).max(axis=2) < 1e-6) > 0.8
    assert not np.array_equal(looks[2], finished)


def test_what_is_smooth_is_as_if_every_pixel_had_its_ray():
    """The pixels that are the mean of those around them, against rays of their own."""
    size, scene = (160, 120), SCENES["umbrella"]
    *_, saved, _ = (seen.copy() for seen in sharpening([scene], Look(), Camera(), 5, size) if seen is not None)
    full = (640, 480)
    # Every fourth pixel of a picture four times as wide is traced: those lie in the pixels' upper left.
    first = next(seen.copy() for seen in sharpening([scene], Look(), Camera(), 5, full) if seen is not None)
    off = np.abs(saved - first).max(axis=2) / (0.05 + first.max(axis=2))
    assert np.median(off) < 0.02 and np.mean(off < 0.1) > 0.9
