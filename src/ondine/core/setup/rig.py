"""What drops fall from: valves, each with its own reservoir; and what they fall into."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from ondine.core.setup.fields import colour, number, plain
from ondine.core.setup.mix import Mix

DEFAULT_MAX_OPEN_US = 200_000
"""A solenoid held open overheats and floods the table."""


class Method(StrEnum):
    """How a drop or an object comes to fall."""

    VALVE = "valve"
    DRIP = "drip"
    OBJECT = "object"
    SOUND = "sound"


@dataclass(frozen=True)
class Valve:
    """One valve with its nozzle and reservoir. `*_sd_*` are standard errors of a weighing; 0 while nothing was weighed.

    Its drops land `x_m` towards the camera and `aside_m` to the right of the landing spot, seen from the camera.
    `liquid` falls from it; None: the table's mix. `outlet_diameter_m` None: nobody has measured where the liquid comes
    out.
    """

    name: str = plain("Valve A", "Valve")
    nozzle_height_m: float = number(0.365, 0.02, 3.0, "Nozzle over the water")
    orifice_diameter_m: float = number(1.8e-3, 0.2e-3, 10e-3, "Orifice of the valve")
    outlet_diameter_m: float | None = number(None, 0.2e-3, 10e-3, "Outlet of the nozzle, inside")
    flow_m3_s: float = number(2.6e-6, 0.02e-6, 100e-6, "Flow while open")
    flow_sd_m3_s: float = number(0.0, 0.0, 50e-6, "Error of the flow")
    dead_time_s: float = number(3.0e-3, 0.0, 0.1, "Dead time of the valve")
    dead_time_sd_s: float = number(0.0, 0.0, 0.1, "Error of the dead time")
    max_open_us: int = number(DEFAULT_MAX_OPEN_US, 1_000, 5_000_000, "Longest opening")
    max_duty: float = number(0.3, 0.01, 1.0, "Share of time the valve may be open")
    head_m: float = number(0.12, 0.005, 2.0, "Liquid over the orifice")
    reservoir_diameter_m: float = number(0.09, 0.005, 1.0, "Reservoir across")
    x_m: float = number(0.0, -1.0, 1.0, "From the landing spot towards the camera")
    aside_m: float = number(0.0, -1.0, 1.0, "To the right of the landing spot")
    liquid: Mix | None = plain(None, "Liquid of its own")


@dataclass(frozen=True)
class Bowl:
    """What the drops fall into, filled to the brim. `landing_m` counts from its middle towards the camera."""

    diameter_m: float = number(0.26, 0.04, 2.0, "Bowl across")
    depth_m: float = number(0.045, 0.002, 1.0, "Depth of the bowl")
    landing_m: float = number(0.0, -1.0, 1.0, "Landing spot towards the camera")
    tint: str = colour("#e8eef0", "Colour of the bowl's liquid")
