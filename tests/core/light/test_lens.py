"""Close-up optics against published worked values and prysm."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ondine.core.forecast.framing import crop
from ondine.core.light.depth import (
    best_f_number,
    camera_depth_m,
    circle_of_confusion_m,
    defocus_disc_m,
    depth_of_field_m,
    diffraction_disc_m,
)
from ondine.core.light.lens import (
    distance_at_m,
    effective_f_number,
    magnification_at,
    magnification_by_ruler,
    subject_to_sensor_m,
)
from ondine.core.setup import Camera, Setup
from ondine.core.setup.camera import SENSORS
from ondine.core.table.viewpoint import viewpoint


def test_depth_at_life_size():
    # ExifTool 12.57, DOF of f 100 mm, f/16, focused at 200 mm, c 0.03004626 mm: 1.923 mm (computed there once).
    assert depth_of_field_m(16, 0.03004626e-3, 1.0) == pytest.approx(0.2009661249 - 0.1990431198, rel=1e-3)


def test_depth_at_300_mm():
    # ExifTool 12.57: f 100 mm, f/16, 300 mm: 297.143 to 302.912 mm; there m = 1/2, the close-up formula is its limit.
    m = magnification_at(0.100, 0.300)
    assert m == pytest.approx(0.5)
    assert depth_of_field_m(16, 0.03004626e-3, m) == pytest.approx(0.3029124436 - 0.2971430282, rel=2e-3)


def test_blur_disc_off_the_plane_of_focus():
    # circle-of-confusion 0.3.0: f 100 mm, f/8, focused at 0.2 m, object at 0.21 m, 36 mm = 6000 px: radius 49.6031723 px.
    # The exact disc is f²/(N(s-f))·|z-s|/z; the close-up formula takes z for s below the fraction bar.
    disc_px = defocus_disc_m(0.01, 8, 1.0) / (0.036 / 6000)
    assert disc_px * 0.2 / 0.21 == pytest.approx(2 * 49.6031723, rel=1e-5)


@pytest.mark.parametrize(("m", "n", "ratio", "effective"), [(0.5, 8, 1, 12), (1, 16, 1, 32), (1, 11, 1.4, 18.85714286)])
def test_effective_f_number(m, n, ratio, effective):
    # prysm 0.21.1, thinlens.mag_to_fno (computed there once).
    assert effective_f_number(n, m, ratio) == pytest.approx(effective, rel=1e-9)


def test_diffraction_disc():
    # First zero of the Airy pattern, 1.219669891·λN (scipy.special.jn_zeros): 21.47 µm across at N_eff 16, 550 nm.
    assert diffraction_disc_m(8, 1.0) == pytest.approx(21.47e-6, rel=1e-3)


def test_the_best_aperture_balances_depth_and_diffraction():
    # Worked by hand: a splash of 12 mm half depth at 1:4 wants f/19.
    best = best_f_number(12e-3, 0.25)
    assert best == pytest.approx(18.9, abs=0.3)
    assert defocus_disc_m(12e-3, best, 0.25) == pytest.approx(diffraction_disc_m(best, 0.25), rel=1e-9)


@given(st.floats(0.02, 0.3), st.floats(0.05, 3))
def test_distance_and_magnification_are_inverse(focal, m):
    assert magnification_at(focal, distance_at_m(focal, m)) == pytest.approx(m, rel=1e-9)
    assert subject_to_sensor_m(focal, 1.0) == pytest.approx(4 * focal)


def test_a_lens_cannot_focus_nearer_than_its_focal_length():
    with pytest.raises(ValueError, match="cannot focus at 80 mm"):
        magnification_at(0.090, 0.080)


def test_field_of_view_of_an_aps_c_body_at_one_to_four():
    # Sensor side over magnification: 23.5 mm · 4 = 94 mm.
    camera = Camera(magnification=0.25)
    assert camera.frame_width_m == pytest.approx(0.094)
    upright = replace(camera, portrait=True)
    assert upright.frame_height_m == pytest.approx(0.094) and upright.frame_width_m == pytest.approx(0.094 * 2 / 3)
    assert magnification_by_ruler(23.5e-3, 0.094) == pytest.approx(0.25)


def test_formats_keep_their_shape():
    for name, (long, short) in SENSORS.items():
        camera = Camera().with_format(name)
        assert camera.format == name
        assert camera.width_px / camera.height_px == pytest.approx(long / short, rel=1e-3)
        assert camera.width_px * camera.height_px == pytest.approx(24e6, rel=1e-3)


def test_the_circle_follows_the_print_but_never_below_two_pixels():
    camera = Camera()
    # One arc minute from 0.8 m is 0.233 mm on a print of 0.6 m, 9.1 µm on the sensor.
    assert circle_of_confusion_m(camera) == pytest.approx(9.1e-6, rel=0.01)
    assert circle_of_confusion_m(replace(camera, print_width_m=6.0)) == pytest.approx(2 * camera.pixel_pitch_m)


def test_shooting_wider_buys_depth_and_costs_pixels():
    filled, wide = crop(Camera(), 1.0), crop(Camera(), 2.0)
    assert filled.depth_m == pytest.approx(camera_depth_m(Camera()))
    assert wide.across_px == 3000 and wide.print_ppi == pytest.approx(filled.print_ppi / 2)
    assert wide.depth_m > 1.5 * filled.depth_m
    assert wide.room_m == pytest.approx(Camera().frame_top_m)


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
