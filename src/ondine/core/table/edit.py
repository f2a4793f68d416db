"""One change of the table by hand: what else moves with it, and whether the table can stand so."""

from __future__ import annotations

import math
from dataclasses import replace

from ondine.core.light.flash import check_points
from ondine.core.light.lens import distance_at_m, magnification_at, magnification_by_ruler, subject_to_sensor_m
from ondine.core.setup import Bowl, Camera, Setup, Valve
from ondine.core.setup.fields import out_of_limits, put
from ondine.core.setup.whole import MOST_PARTS
from ondine.core.units import Units, quantity_of

LENS_RADIUS_M = 0.03
"""Half of a usual lens hood: what the front glass needs over the table."""

DROP_PATH_M = 0.02
"""Nothing may stand nearer to the falling drops."""


class EditError(ValueError):
    """A table that cannot stand; the text says what, where, and what to do."""


def edited(setup: Setup, path: str, value: object, units: Units | None = None) -> Setup:
    """Return the set-up with one value changed and what hangs on it moved along.

    Raises EditError, in the units given, if the value is out of its limits or the table could not stand so.
    """
    units = units or Units()
    try:
        made = _linked(setup, path, value)
        check(made, units)
    except EditError:
        raise
    except ValueError as error:
        raise EditError(str(error)) from error
    return made


def _linked(setup: Setup, path: str, value: object) -> Setup:
    """A camera is one thing: what moves its lens changes the magnification, and the other way round."""
    made = put(setup, path, value)
    before, after = setup.camera, made.camera
    if path == "camera.front_glass_m":
        return replace(made, camera=with_front_glass(before, after.front_glass_m))
    if path == "camera.magnification" and after.magnification > 0:
        return replace(made, camera=with_magnification(before, after.magnification))
    if path == "camera.focal_length_m" and after.focal_length_m > 0:
        # The camera stays where it stands and is focused anew.
        standing = distance_at_m(before.focal_length_m, before.magnification)
        return replace(made, camera=replace(after, magnification=magnification_at(after.focal_length_m, standing)))
    return made


def with_front_glass(camera: Camera, front_glass_m: float) -> Camera:
    """Return a camera carried to where its front glass is that far from the drops [m], and focused there.

    Raises ValueError nearer than the lens can focus.
    """
    inside = distance_at_m(camera.focal_length_m, camera.magnification) - camera.front_glass_m
    found = magnification_at(camera.focal_length_m, front_glass_m + inside)
    return replace(camera, front_glass_m=front_glass_m, magnification=found)


def with_magnification(camera: Camera, magnification: float) -> Camera:
    """Return a camera carried to where it has this magnification."""
    inside = distance_at_m(camera.focal_length_m, camera.magnification) - camera.front_glass_m
    front = distance_at_m(camera.focal_length_m, magnification) - inside
    return replace(camera, magnification=magnification, front_glass_m=front)


def with_ruler(camera: Camera, ruler_m: float) -> Camera:
    """Return a camera whose frame is as wide as that much of a ruler [m]. Raises ValueError for no length."""
    side = camera.frame_px[0] * camera.pixel_pitch_m
    return with_magnification(camera, magnification_by_ruler(side, ruler_m))


def check(setup: Setup, units: Units) -> None:
    """Raise EditError for the first thing that cannot be, in the words and units of the window."""
    for path, value, known in out_of_limits(setup):
        how = quantity_of(path, units)
        assert known.low is not None and known.high is not None
        shown = how.words(float(value)) if isinstance(value, int | float) else str(value)
        raise EditError(f"{known.says}: {shown} cannot be. Give {how.words(known.low)} to {how.words(known.high)}.")
    lists = (("valves", setup.valves), ("flashes", setup.light.units))
    for name, parts in (*lists, *((f"durations of {flash.name}", flash.durations) for flash in setup.light.units)):
        if len(parts) > MOST_PARTS:
            raise EditError(f"There are {len(parts)} {name}, and a table has {MOST_PARTS} at most.")
    for number in range(len(setup.valves)):
        setup.mix_of(number).liquid()
    setup.mix.liquid()
    for flash in setup.light.units:
        check_points(flash.durations, flash.kind, flash.least_power)
        if flash.power < flash.least_power * 0.99:
            raise EditError(
                f"{flash.name} goes down to 1/{1 / flash.least_power:.0f}, not to 1/{1 / flash.power:.0f}: "
                "take more power, or correct its least power."
            )
    _check_places(setup, units)


def _check_valve(valve: Valve, bowl: Bowl, units: Units) -> None:
    if valve.dead_time_s * 1e6 >= valve.max_open_us:
        raise EditError(
            f"Nothing would flow: the dead time of {valve.name}, {valve.dead_time_s * 1e3:.1f} ms, is as long as its "
            f"longest opening. Weigh again, or allow longer openings."
        )
    radius = bowl.diameter_m / 2
    if math.hypot(bowl.landing_m + valve.x_m, valve.aside_m) >= radius:
        raise EditError(
            f"The drops of {valve.name} would fall beside the bowl: keep them within {units.length_words(radius)} "
            "of its middle."
        )


def _check_places(setup: Setup, units: Units) -> None:
    bowl, camera = setup.bowl, setup.camera
    radius = bowl.diameter_m / 2
    if abs(bowl.landing_m) >= radius:
        raise EditError(
            f"The drops would fall beside the bowl: keep the landing spot within {units.length_words(radius)} "
            "of its middle."
        )
    for valve in setup.valves:
        _check_valve(valve, bowl, units)
    near_rim = radius - bowl.landing_m
    if camera.front_glass_m < near_rim and camera.height_m < LENS_RADIUS_M:
        raise EditError(
            f"The lens would stand in the bowl: take it {units.length_words(near_rim)} or more from the drops, "
            f"or {units.length_words(LENS_RADIUS_M)} or more over the water."
        )
    if camera.front_glass_m >= subject_to_sensor_m(camera.focal_length_m, camera.magnification):
        raise EditError(
            "The front glass would be behind the sensor: at this magnification the camera stands nearer. "
            "Give a shorter distance, or less magnification."
        )
    for flash in setup.light.units:
        if math.hypot(flash.x_m, flash.aside_m) < DROP_PATH_M and flash.height_m < setup.nozzle_height_m:
            raise EditError(
                f"{flash.name} would stand in the way of the drops: put it {units.length_words(DROP_PATH_M)} or more "
                "to one side."
            )
