"""A thin lens: distance, magnification, and what a ruler in the frame says of them."""

from __future__ import annotations


def magnification_at(focal_length_m: float, distance_m: float) -> float:
    """Magnification when a thin lens is focused at a distance, f/(s - f).

    focal_length_m : [m]; distance_m : subject to lens [m]. Returns [1].
    Raises ValueError nearer than the focal length, where no lens makes a picture.
    """
    if distance_m <= focal_length_m:
        raise ValueError(
            f"A {focal_length_m * 1e3:.0f} mm lens cannot focus at {distance_m * 1e3:.0f} mm: "
            f"move it farther than {focal_length_m * 1e3:.0f} mm from the drops."
        )
    return focal_length_m / (distance_m - focal_length_m)


def distance_at_m(focal_length_m: float, magnification: float) -> float:
    """Subject to lens at a magnification, f·(1 + 1/m); focal_length_m [m]. Returns [m]."""
    return focal_length_m * (1 + 1 / magnification)


def subject_to_sensor_m(focal_length_m: float, magnification: float) -> float:
    """Subject to sensor, f·(2 + m + 1/m); focal_length_m [m]. Returns [m]. A real macro lens is a little off it."""
    return focal_length_m * (2 + magnification + 1 / magnification)


def magnification_by_ruler(sensor_side_m: float, ruler_m: float) -> float:
    """Magnification when that much of a ruler fills a side of the frame; both [m]. Returns [1].

    Raises ValueError for a ruler of no length.
    """
    if ruler_m <= 0:
        raise ValueError("Give the width of the ruler that fills the frame from edge to edge.")
    return sensor_side_m / ruler_m


def effective_f_number(f_number: float, magnification: float, pupil_ratio: float = 1.0) -> float:
    """F-number that light and diffraction see close up, N·(1 + m/P)."""
    return f_number * (1 + magnification / pupil_ratio)
