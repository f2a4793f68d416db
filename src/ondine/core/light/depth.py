"""Depth of field against diffraction."""

from __future__ import annotations

import math

from ondine.core.setup.camera import Camera

GREEN_M = 550e-9
"""The middle of the visible."""

ARC_MINUTE = math.radians(1 / 60)
"""What a good eye just tells apart."""

SHARP_PX = 2.0
"""A disc this wide still looks sharp on the screen at full size."""


def depth_of_field_m(f_number: float, circle_m: float, magnification: float, pupil_ratio: float = 1.0) -> float:
    """Total depth of field close up, 2·N·c·(1 + m/P)/m².

    circle_m : circle of confusion c on the sensor [m]. Returns [m].
    The close-up limit of the thin-lens formula: 1.923 mm at f/16, 1:1, c 0.03005 mm.
    """
    return 2 * f_number * circle_m * (1 + magnification / pupil_ratio) / magnification**2


def diffraction_disc_m(f_number: float, magnification: float, pupil_ratio: float = 1.0) -> float:
    """Diameter of the Airy disc on the sensor to its first dark ring, 2.44·λ·N·(1 + m/P). Returns [m]."""
    return 2.44 * GREEN_M * f_number * (1 + magnification / pupil_ratio)


def best_f_number(half_depth_m: float, magnification: float, pupil_ratio: float = 1.0) -> float:
    """F-number at which the edge of a splash blurs as much by depth as by diffraction.

    half_depth_m : how far the splash reaches before and behind its axis [m]. N·(1 + m/P) = m·√(z/(2.44·λ)): f/19 for
    12 mm at 1:4.
    """
    return magnification * math.sqrt(half_depth_m / (2.44 * GREEN_M)) / (1 + magnification / pupil_ratio)


def defocus_disc_m(half_depth_m: float, f_number: float, magnification: float, pupil_ratio: float = 1.0) -> float:
    """Disc that a point off the plane of focus makes on the sensor, z·m²/(N·(1 + m/P)); half_depth_m [m]. Returns [m].

    The inverse of `depth_of_field_m`.
    """
    return half_depth_m * magnification**2 / (f_number * (1 + magnification / pupil_ratio))


def circle_of_confusion_m(camera: Camera) -> float:
    """Largest disc on the sensor that the print still shows as a point: one arc minute from where it is seen. [m].

    Never less than two pixels, which no larger print can resolve.
    """
    on_print = camera.viewing_distance_m * ARC_MINUTE
    return max(on_print * camera.sensor_width_m / camera.print_width_m, SHARP_PX * camera.pixel_pitch_m)


def camera_depth_m(camera: Camera) -> float:
    """Depth of field of a camera as it stands, for its print. Returns [m]."""
    return depth_of_field_m(camera.f_number, circle_of_confusion_m(camera), camera.magnification, camera.pupil_ratio)
