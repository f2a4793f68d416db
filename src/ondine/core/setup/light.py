"""The flashes, what is known of each, and where they stand."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum

from ondine.core.setup.fields import colour, number, parts, plain


class Place(StrEnum):
    """Where a flash stands, seen from the splash."""

    BEHIND = "behind"
    BOUNCED = "bounced"
    SIDE = "side"
    ABOVE = "above"
    BOWL = "bowl"


class FlashKind(StrEnum):
    """How a unit gives less light."""

    CUT_OFF = "cuts off"
    VOLTAGE = "lowers its voltage"

    @property
    def says(self) -> str:
        """How the choice is called on the screen; the value is what files hold."""
        return "cutting off" if self is FlashKind.CUT_OFF else "voltage"


class Measure(StrEnum):
    """Between which shares of its peak a flash is timed, ISO 2827 (number from memory)."""

    HALF = "t0.5"
    TENTH = "t0.1"


class DialKind(StrEnum):
    """What the unit's own dial shows."""

    POWER = "power"
    SPEED = "speed"


class Step(StrEnum):
    """How finely a dial goes."""

    FULL = "full stops"
    HALF = "half stops"
    THIRD = "third stops"

    @property
    def per_stop(self) -> int:
        """Clicks in a stop."""
        return {Step.FULL: 1, Step.HALF: 2, Step.THIRD: 3}[self]


class Tone(StrEnum):
    """What the background shall come out as."""

    WHITE = "white"
    GREY = "grey"
    BLACK = "black"


@dataclass(frozen=True)
class DurationPoint:
    """A line of the manual: at this power the unit shines so long."""

    power: float = number(1.0, 1 / 2048, 1.0, "Power")
    duration_s: float = number(1e-3, 1e-6, 0.1, "Duration")
    measure: Measure = plain(Measure.HALF, "Timed as")


@dataclass(frozen=True)
class Flash:
    """One unit: `power` as a fraction of full; `x_m` from the drops towards the camera, `height_m` over the water,
    `aside_m` out of the plane of drops and camera.

    `guide_number_m` holds at ISO 100 and `guide_zoom_mm`; `recycle_full_s` after a full flash with fresh batteries,
    which `battery` tells the state of [1]. The controller's `output`, from 0, fires it, unless it is an optical
    `slave`.
    """

    name: str = plain("Unit A", "Flash")
    power: float = number(1 / 64, 1 / 2048, 1.0, "Power")
    place: Place = plain(Place.BEHIND, "Place")
    x_m: float = number(-0.45, -5.0, 5.0, "From the drops towards the camera")
    height_m: float = number(0.20, 0.0, 5.0, "Over the water")
    aside_m: float = number(0.0, -5.0, 5.0, "Out of the drawing")
    guard: bool = plain(False, "Splash guard before the flash")
    kind: FlashKind = plain(FlashKind.CUT_OFF, "Dims by")
    dial: DialKind = plain(DialKind.POWER, "Dial shows")
    guide_number_m: float = number(34.0, 1.0, 200.0, "Guide number")
    guide_zoom_mm: float = number(35.0, 10.0, 300.0, "Guide number at zoom")
    zoom_mm: float = number(105.0, 10.0, 300.0, "Zoom")
    least_power: float = number(1 / 128, 1 / 2048, 1.0, "Least power")
    durations: tuple[DurationPoint, ...] = parts("Durations of the manual")
    recycle_full_s: float = number(2.8, 0.05, 60.0, "Recycles after full")
    battery: float = number(1.0, 0.1, 1.0, "Battery")
    losses_stops: float = number(1.5, 0.0, 12.0, "Lost in diffuser or bounce")
    gel_stops: float = number(0.0, 0.0, 6.0, "Lost in gel")
    gel_mired: float = number(0.0, -300.0, 300.0, "Gel shifts by")
    colour_k: float = number(5500.0, 2000.0, 12000.0, "Colour of the light")
    automatic: bool = plain(False, "Automatic metering")
    high_speed_sync: bool = plain(False, "High-speed sync")
    output: int = number(0, 0, 3, "Fired by output")
    slave: bool = plain(False, "Fires when it sees another flash")

    @property
    def distance_m(self) -> float:
        """Distance from where the splash stands."""
        return math.hypot(self.x_m, self.height_m, self.aside_m)


@dataclass(frozen=True)
class Light:
    """One or more units; the first is the key unit. The background stands `background_m`
    behind the drops.
    """

    units: tuple[Flash, ...] = (Flash(),)
    background_m: float = number(0.35, 0.02, 5.0, "Background behind the drops")
    background_tint: str = colour("#d8cfc0", "Colour of the background")
    background_tone: Tone = plain(Tone.GREY, "Background")
    white_balance_k: float = number(5500.0, 2000.0, 12000.0, "White balance")
    dial_step: Step = plain(Step.THIRD, "Dials step by")
    max_iso: int = number(800, 25, 102_400, "Highest ISO")
    blur_target_px: float = number(2.0, 0.1, 100.0, "Blur allowed")

    @property
    def key(self) -> Flash:
        """The unit that decides."""
        return self.units[0]

    @property
    def power(self) -> float:
        """Power of the key unit, as a fraction of full."""
        return self.key.power
