"""The simulated world answers to what is set on the table: liquids, lamps, room, viewpoint, proportions."""

from dataclasses import replace
from datetime import UTC, datetime

import numpy as np
import pytest

from ondine.bench.simulated.fluid import fluid_of
from ondine.bench.simulated.frame import Frame, photograph
from ondine.bench.simulated.hidden import HiddenRig
from ondine.bench.simulated.lights import as_planned
from ondine.core.light.tones import tones
from ondine.core.setup import Camera, Flash, Light, Mix, Place, Setup
from ondine.core.setup.camera import SENSORS
from ondine.core.setup.fields import put
from ondine.demo.scenario import SEED, START, TIDAL_MILL
from ondine.picture.exposure import expose, picture_size
from ondine.picture.lamps import lamps_of
from ondine.picture.look import Lamps, Look

RIG = HiddenRig.from_seed(SEED)
NOW = datetime(2026, 5, 9, 19, 0, tzinfo=UTC)


def picture(setup: Setup, lit: bool = True) -> np.ndarray:
    return photograph(Frame(RIG, SEED, Look(), START, setup, 9, (0.12,), as_planned(setup, START) if lit else (), NOW))


def test_liquids_of_the_world_behave_as_liquids_do():
    water = fluid_of(Setup())
    # IAPWS at 20 °C: 998.2 kg/m3, 1.00 mPa·s, 72.7 mN/m; the world may be a few percent off.
    assert (water.density, water.viscosity, water.tension) == (
        pytest.approx(998, rel=0.01), pytest.approx(1.0e-3, rel=0.05), pytest.approx(72.7e-3, rel=0.02),
    )  # fmt: skip
    for mix in (Mix(glycerine_mass_fraction=0.5), Mix(cream_mass_fraction=0.3), Mix(gum_mass_fraction=0.001)):
        assert fluid_of(Setup(mix=mix)).viscosity > 1.2 * water.viscosity
    assert fluid_of(Setup(mix=Mix(milk_mass_fraction=0.2))).tension < 0.9 * water.tension
    warm = fluid_of(Setup(mix=Mix(temperature_c=35.0)))
    assert warm.viscosity < water.viscosity and warm.tension < water.tension
    fresh, stood = (fluid_of(Setup(mix=Mix(gum_mass_fraction=0.001, gum_stood_h=h))) for h in (0.2, 20.0))
    assert fresh.viscosity < stood.viscosity


def test_the_world_is_not_the_predictors():
    """Close, as a good guess is, and yet never the same: a wrong formula cannot agree with itself."""
    for share in (0.1, 0.3, 0.5):
        mix = Mix(glycerine_mass_fraction=share)
        world, predicted = fluid_of(Setup(mix=mix)), mix.liquid()
        assert world.viscosity == pytest.approx(predicted.viscosity_pa_s, rel=0.35)
        assert world.viscosity != predicted.viscosity_pa_s


@pytest.mark.parametrize("name", list(SENSORS))
def test_pictures_have_the_cameras_proportions(name):
    camera = Camera().with_format(name)
    wide, tall = picture_size(camera)
    assert max(wide, tall) == 1200 and wide / tall == pytest.approx(camera.width_px / camera.height_px, rel=2e-3)
    upright = picture_size(replace(camera, portrait=True))
    assert upright == (tall, wide)


def test_an_upright_camera_takes_upright_pictures():
    made = picture(put(TIDAL_MILL, "camera.portrait", True))
    assert made.shape == (1200, 800, 3)


def test_each_place_lights_its_own_part():
    def lamps(place: Place) -> Lamps:
        return lamps_of(Setup(light=Light((Flash(place=place, x_m=0.1, aside_m=0.3),))))

    assert lamps(Place.BEHIND).behind > 0 == lamps(Place.BEHIND).side
    assert lamps(Place.SIDE).side > 0 == lamps(Place.SIDE).behind
    assert lamps(Place.ABOVE).side > 0 and lamps(Place.BOUNCED).behind > 0
    assert lamps(Place.BOWL).bowl > 0 == lamps(Place.BOWL).behind


def test_a_silhouette_and_a_splash_on_black():
    key, side = TIDAL_MILL.light.units
    behind = picture(replace(TIDAL_MILL, light=Light((key,))))
    black = picture(replace(TIDAL_MILL, light=Light((side,))))
    sky = np.s_[40:160, 300:900]
    assert behind[sky].mean() > 100 > 25 > black[sky].mean()
    # What the side light catches stands out against black.
    assert black[300:640, 480:720].max() > 120


def test_light_into_the_bowl_wells_up():
    key = replace(TIDAL_MILL.light.key, place=Place.BOWL, x_m=0.2, losses_stops=0.0)
    glowing = picture(replace(TIDAL_MILL, light=Light((key,))))
    water, sky = glowing[700:780, 100:400].mean(), glowing[40:160, 300:900].mean()
    assert water > 3 * sky


@pytest.mark.parametrize(("path", "value", "stops"), [("camera.iso", 100, -1), ("camera.f_number", 22.627, -1)])
def test_a_stop_at_the_camera_is_a_stop_in_the_picture(path, value, stops):
    before, after = (tones(picture(s)[40:300]) for s in (TIDAL_MILL, put(TIDAL_MILL, path, value)))
    # Middle tones; the camera's shoulder and the room's own light take their share.
    assert np.log2(after.median / before.median) == pytest.approx(stops, abs=0.25)


def test_half_the_power_of_all_units_is_a_stop_in_the_picture():
    half = TIDAL_MILL
    for index in (0, 1):
        half = put(half, f"light.units.{index}.power", 1 / 128)
    before, after = (tones(picture(s)[40:300]) for s in (TIDAL_MILL, half))
    assert np.log2(after.median / before.median) == pytest.approx(-1, abs=0.25)


def test_a_warm_gel_makes_a_warm_picture_and_tungsten_balance_a_blue_one():
    plain = picture(TIDAL_MILL)[40:160, 300:900].reshape(-1, 3).mean(axis=0)
    warm = picture(put(TIDAL_MILL, "light.units.0.gel_mired", 120.0))[40:160, 300:900].reshape(-1, 3).mean(axis=0)
    blue = picture(put(TIDAL_MILL, "light.white_balance_k", 3500.0))[40:160, 300:900].reshape(-1, 3).mean(axis=0)
    assert warm[0] / warm[2] > 1.1 * plain[0] / plain[2]
    assert blue[0] / blue[2] < plain[0] / plain[2] / 1.1


def test_the_room_shows_in_a_long_exposure_only():
    rig = HiddenRig.from_seed(SEED)
    dark = np.zeros((20, 30, 3), dtype=np.float32)
    short, long = (
        expose(dark, Camera(exposure_s=t, f_number=8.0, iso=1600), rig.room_lux, 1).mean() for t in (0.1, 30.0)
    )
    assert long > 3 * short + 3
    assert tones(picture(TIDAL_MILL, lit=False)).black > 0.9


def test_a_higher_camera_sees_more_of_the_water():
    height_m = TIDAL_MILL.camera.height_m
    low, high = picture(TIDAL_MILL), picture(put(TIDAL_MILL, "camera.height_m", height_m + 0.02))
    # The rim behind climbs in the picture as one looks down on it: by its distance times the sine of the angle gained.
    steps = [np.abs(np.diff(p[:, 60:240].mean(axis=(1, 2)))) for p in (low, high)]
    assert min(step.max() for step in steps) > 3
    camera = TIDAL_MILL.camera
    away_mm = camera.focal_length_m * 1e3 * (1 + 1 / camera.magnification)
    climbs = 118.0 * 20 / away_mm * away_mm / (away_mm + 118.0) * low.shape[1] / (camera.frame_width_m * 1e3)
    assert steps[0].argmax() - steps[1].argmax() == pytest.approx(climbs, rel=0.2)
