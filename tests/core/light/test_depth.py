"""Depth of field against diffraction for lenses whose pupils differ: the effective f-number of prysm, and identities."""

import math
from dataclasses import replace

import pytest
from scipy.special import jn_zeros

from ondine.core.light.depth import (
    GREEN_M,
    best_f_number,
    camera_depth_m,
    circle_of_confusion_m,
    defocus_disc_m,
    depth_of_field_m,
    diffraction_disc_m,
)
from ondine.core.light.lens import effective_f_number, magnification_at
from ondine.core.setup import Camera

CASES = [(16.0, 0.25, 1.0), (16.0, 0.25, 0.6), (11.0, 1.0, 1.7)]


@pytest.mark.parametrize(("n", "m", "ratio"), CASES)
def test_a_small_exit_pupil_makes_the_lens_slower(n, m, ratio):
    # N(1 + m/P), the working f-number (thin lens with pupil ratio P): a ratio below one makes it slower.
    effective = n * (1 + m / ratio)
    assert diffraction_disc_m(n, m, ratio) == pytest.approx(2.44 * GREEN_M * effective)
    assert depth_of_field_m(n, 30e-6, m, ratio) == pytest.approx(2 * effective * 30e-6 / m**2)
    assert defocus_disc_m(depth_of_field_m(n, 30e-6, m, ratio) / 2, n, m, ratio) == pytest.approx(30e-6)


def test_the_airy_disc_ends_at_the_first_zero_of_the_bessel_function():
    # Outside: first zero of J1 by scipy, 2·3.8317/π = 2.4393.
    assert diffraction_disc_m(10.0, 0.0) / (GREEN_M * 10.0) == pytest.approx(2 * jn_zeros(1, 1)[0] / math.pi, rel=1e-3)


@pytest.mark.parametrize(("n", "m", "ratio"), CASES)
def test_at_the_best_aperture_both_discs_are_alike(n, m, ratio):
    best = best_f_number(12e-3, m, ratio)
    assert defocus_disc_m(12e-3, best, m, ratio) == pytest.approx(diffraction_disc_m(best, m, ratio))
    assert best_f_number(12e-3, 0.25) == pytest.approx(19, abs=0.6)


def test_the_camera_is_asked_for_its_own_pupil_and_print():
    camera = Camera(f_number=16.0, magnification=0.25, pupil_ratio=0.5)
    circle = circle_of_confusion_m(camera)
    assert circle == pytest.approx(0.8 * math.radians(1 / 60) * 23.5e-3 / 0.6)
    assert camera_depth_m(camera) == pytest.approx(2 * 16 * circle * 1.5 / 0.0625)
    assert circle_of_confusion_m(replace(camera, print_width_m=9.0)) == pytest.approx(2 * 23.5e-3 / 6000)


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


def test_the_circle_follows_the_print_but_never_below_two_pixels():
    camera = Camera()
    # One arc minute from 0.8 m is 0.233 mm on a print of 0.6 m, 9.1 µm on the sensor.
    assert circle_of_confusion_m(camera) == pytest.approx(9.1e-6, rel=0.01)
    assert circle_of_confusion_m(replace(camera, print_width_m=6.0)) == pytest.approx(2 * camera.pixel_pitch_m)
