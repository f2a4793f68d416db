"""The light of the room: how far under the flash it lies, and how long the shutter may stay open."""

from __future__ import annotations

import math

from ondine.core.light.stops import exposure_value, illuminance_lx
from ondine.core.setup import Camera

NO_GHOST_STOPS = -6.0
"""Ambient light so far under the flash leaves no ghost. Common practice: the frame without flash must be black."""


def ambient_stops(
    dark_linear: float, dark_exposure_s: float, lit_linear: float, exposure_s: float, gain_stops: float = 0.0
) -> float:
    """How many stops the room lies under the flash at a shutter [stops].

    dark_linear : of the frame without flash, share of full scale [1], taken with dark_exposure_s [s]; lit_linear : of
    the frame with flash; exposure_s : the shutter in question [s]; gain_stops : how much more light aperture and ISO
    gather now than in the dark frame.
    """
    floor = 1e-6
    share = max(dark_linear, floor) / max(lit_linear, floor)
    return math.log2(share * exposure_s / dark_exposure_s) + gain_stops


def longest_exposure_s(stops_now: float, exposure_s: float) -> float:
    """Longest shutter that the room allows, if at exposure_s [s] it lies so many stops under the flash. Returns [s]."""
    return float(exposure_s * 2 ** (NO_GHOST_STOPS - stops_now))


def allowed_lux(camera: Camera, exposure_s: float | None = None) -> float:
    """How light the room may be for a shutter [s]: six stops under a right exposure, C·N²/(t·S)/64. Returns [lx].

    ISO 2720, incident light, C = 250.
    """
    shutter = camera.exposure_s if exposure_s is None else exposure_s
    return continuous_lux(camera.f_number, shutter, camera.iso) * 2**NO_GHOST_STOPS


def continuous_lux(f_number: float, exposure_s: float, iso: float) -> float:
    """Light that a splash needs without any flash, C·N²/(t·S). exposure_s : [s]. Returns [lx]. ISO 2720."""
    return illuminance_lx(exposure_value(f_number, exposure_s, iso))


def verdict(stops: float, exposure_s: float) -> str:
    """Say whether the room is dark enough, and what else would do."""
    if stops <= NO_GHOST_STOPS:
        return f"Dark enough: the room lies {-stops:.1f} stops under the flash."
    longest = longest_exposure_s(stops, exposure_s)
    return (
        f"Too light: the room lies only {-stops:.1f} stops under the flash and will ghost. "
        f"Darken it by {stops - NO_GHOST_STOPS:.1f} stops, or open the shutter for {_seconds(longest)} at most."
    )


def _seconds(value: float) -> str:
    return f"{value:.1f} s" if value >= 0.3 else f"1/{1 / value:.0f} s"
