"""How bright flashes make subject and background, in stops and in f-numbers."""

from __future__ import annotations

import math

from ondine.core.light.lens import effective_f_number
from ondine.core.setup import Camera, Light
from ondine.core.setup.light import Flash

Times = tuple[int, ...] | None

NEAREST_M = 0.05
"""A unit nearer than this is a lamp inside the splash: the law of distance no longer holds."""

BACKGROUND_SHARE = {"behind": 1.0, "bounced": 1.0, "side": 0.06, "above": 0.04, "bowl": 0.02}
"""How much of a unit's light falls on the background, by its place. An estimate: measure it with a test frame."""

SUBJECT_SHARE = {"behind": 0.5, "bounced": 0.35, "side": 1.0, "above": 1.0, "bowl": 0.8}
"""How much of it the splash sends to the camera. An estimate: the anchor frame takes it up."""


def guide_number_m(flash: Flash, power: float | None = None, zoom_mm: float | None = None) -> float:
    """Guide number at ISO 100 and a power, GN·√p·√(zoom/zoom0), less what modifiers take. Returns [m].

    ISO 1230 (number from memory): N = GN/distance; ∝ √power. The root of the zoom is common practice.
    """
    full = flash.guide_number_m * math.sqrt((zoom_mm or flash.zoom_mm) / flash.guide_zoom_mm)
    losses = flash.losses_stops + flash.gel_stops
    return full * math.sqrt(flash.power if power is None else power) * 2 ** (-losses / 2)


def f_number_for(guide_m: float, distance_m: float, iso: float = 100.0) -> float:
    """F-number that a guide number is right for, GN/d·√(ISO/100). guide_m, distance_m : [m]."""
    return guide_m / max(distance_m, NEAREST_M) * math.sqrt(iso / 100)


def light_on_subject(light: Light, times: Times = None) -> float:
    """Light of all units on the splash as the camera sees it, the sum of squares of f-numbers at ISO 100 [1].

    times : how often each unit lights in the picture; None: once.
    """
    return sum(unit_on_subject(unit) * often for unit, often in _often(light, times))


def _often(light: Light, times: Times) -> list[tuple[Flash, int]]:
    return list(zip(light.units, (1,) * len(light.units) if times is None else times, strict=True))


def unit_on_subject(flash: Flash) -> float:
    """Light of one unit on the splash as the camera sees it, the square of its f-number at ISO 100 [1]."""
    return SUBJECT_SHARE[flash.place] * f_number_for(guide_number_m(flash), flash.distance_m) ** 2


def light_on_background(light: Light, times: Times = None) -> float:
    """Light of all units on the background, the sum of squares of f-numbers at ISO 100 [1]; `times` as above."""
    return sum(unit_on_background(unit, light.background_m) * often for unit, often in _often(light, times))


def unit_on_background(flash: Flash, background_m: float) -> float:
    """Light of one unit on a background so far behind the drops [m], the square of its f-number at ISO 100 [1]."""
    away = math.hypot(flash.x_m + background_m, flash.height_m, flash.aside_m)
    return BACKGROUND_SHARE[flash.place] * f_number_for(guide_number_m(flash), away) ** 2


def over_stops(light: float, camera: Camera) -> float:
    """How many stops a light (sum of squared f-numbers at ISO 100) is over what the camera is set for [stops]."""
    stopped = effective_f_number(camera.f_number, camera.magnification, camera.pupil_ratio)
    return math.log2(light * camera.iso / 100 / stopped**2)


def background_under_subject_stops(light: Light, times: Times = None) -> float:
    """How many stops the background lies under the splash [stops]; the arrangement decides it, not the exposure.

    times : how often each unit lights in the picture; None: once.
    """
    subject, behind = light_on_subject(light, times), light_on_background(light, times)
    return math.log2(max(subject, 1e-12) / max(behind, 1e-12))


def look_words(light: Light) -> str:
    """Say what the arrangement does to the look."""
    places = {flash.place.value for flash in light.units}
    found = []
    under = background_under_subject_stops(light)
    if places & {"behind", "bounced"}:
        if under < -1:
            found.append("The background outshines the splash: a silhouette, and drops turn it upside down.")
        else:
            found.append("Light from behind draws the edges and shines through the sheet.")
    if "side" in places:
        found.append("Light from the side gives rims and sparkle.")
    if "above" in places:
        found.append("Light from above models the umbrella's top and leaves its underside dark.")
    if "bowl" in places:
        found.append("Light into the bowl makes the umbrella's underside glow.")
    if not places & {"behind", "bounced"}:
        found.append("The background stays dark.")
    return " ".join(found)
