"""The flashes and where they stand."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum

from ondine.core.setup.fields import number, plain


class Place(StrEnum):
    """Where a flash stands, seen from the splash."""

    BEHIND = "behind"
    BOUNCED = "bounced"
    SIDE = "side"
    ABOVE = "above"
    BOWL = "bowl"


@dataclass(frozen=True)
class Flash:
    """One unit: `power` as a fraction of full; `x_m` from the drops towards the camera, `height_m` over the water,
    `aside_m` out of the plane of drops and camera.
    """

    name: str = plain("Unit A", "Flash")
    power: float = number(1 / 64, 1 / 1024, 1.0, "Power")
    place: Place = plain(Place.BEHIND, "Place")
    x_m: float = number(-0.45, -5.0, 5.0, "From the drops towards the camera")
    height_m: float = number(0.20, 0.0, 5.0, "Over the water")
    aside_m: float = number(0.0, -5.0, 5.0, "Out of the drawing")
    guard: bool = plain(False, "Splash guard before the flash")

    @property
    def distance_m(self) -> float:
        """Distance from where the splash stands."""
        return math.hypot(self.x_m, self.height_m, self.aside_m)


@dataclass(frozen=True)
class Light:
    """One or more units; the first is the key unit, which the others follow."""

    units: tuple[Flash, ...] = (Flash(),)

    @property
    def key(self) -> Flash:
        """The unit that decides."""
        return self.units[0]

    @property
    def power(self) -> float:
        """Power of the key unit, as a fraction of full."""
        return self.key.power
