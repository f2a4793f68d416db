"""The table as it stands, and what is believed of it: never edited in place, addressed by its content."""

from __future__ import annotations

import hashlib
import json
from dataclasses import asdict, dataclass, field

from ondine.core.liquid import Liquid, glycerine_water
from ondine.core.sequence import DEFAULT_MAX_OPEN_US


@dataclass(frozen=True)
class Rig:
    """Nozzle and valve: heights and diameters [m], flow while open [m3/s], dead time [s]."""

    nozzle_height_m: float = 0.365
    orifice_diameter_m: float = 1.8e-3
    flow_m3_s: float = 2.6e-6
    dead_time_s: float = 3.0e-3
    max_open_us: int = DEFAULT_MAX_OPEN_US


@dataclass(frozen=True)
class Mix:
    """The liquid that falls: share of glycerine by mass [1] and temperature [°C]."""

    glycerine_mass_fraction: float = 0.0
    temperature_c: float = 20.0

    def liquid(self) -> Liquid:
        """Return its properties. Raises ValueError outside the formulas' range."""
        return glycerine_water(self.glycerine_mass_fraction, self.temperature_c)


@dataclass(frozen=True)
class Camera:
    """Sensor [m, px], lens and exposure; `water_line_share` is where the water stands, from the frame's foot."""

    name: str = "Body A"
    sensor_width_m: float = 23.5e-3
    width_px: int = 6000
    height_px: int = 4000
    magnification: float = 0.25
    focal_length_m: float = 0.090
    f_number: float = 16.0
    iso: int = 200
    exposure_s: float = 0.5
    water_line_share: float = 0.20

    @property
    def frame_width_m(self) -> float:
        """Width of the field of view in the plane of the splash."""
        return self.sensor_width_m / self.magnification

    @property
    def frame_height_m(self) -> float:
        """Height of the field of view in the plane of the splash."""
        return self.frame_width_m * self.height_px / self.width_px

    @property
    def frame_top_m(self) -> float:
        """Height over the water of the frame's upper edge."""
        return self.frame_height_m * (1 - self.water_line_share)

    @property
    def pixel_on_subject_m(self) -> float:
        """Pitch of the pixels in the plane of the splash."""
        return self.frame_width_m / self.width_px


@dataclass(frozen=True)
class Light:
    """The flash: `power` as a fraction of full."""

    name: str = "Unit A"
    power: float = 1 / 64


@dataclass(frozen=True)
class Prior:
    """A belief about one number of the rig: mean and standard deviation, in the number's own unit."""

    mean: float
    sd: float


@dataclass(frozen=True)
class Beliefs:
    """What is believed of the rig's hidden numbers before a shot (docs/physics.md, section 8)."""

    lag_s: Prior = Prior(8e-3, 6e-3)
    release_share: Prior = Prior(0.8, 0.25)
    start_speed_m_s: Prior = Prior(0.4, 0.2)
    flow_factor: Prior = Prior(1.0, 0.05)
    height_error_m: Prior = Prior(0.0, 3e-3)
    energy_share: Prior = Prior(0.5, 0.08)
    jet_delay_factor: Prior = Prior(1.5, 0.2)
    jet_speed_factor: Prior = Prior(2.7, 0.4)
    tip_mass_share: Prior = Prior(1.0, 0.3)


@dataclass(frozen=True)
class Setup:
    """Everything a forecast needs to know of the table."""

    name: str = "Untitled set-up"
    rig: Rig = field(default_factory=Rig)
    mix: Mix = field(default_factory=Mix)
    camera: Camera = field(default_factory=Camera)
    light: Light = field(default_factory=Light)
    beliefs: Beliefs = field(default_factory=Beliefs)

    def to_json(self) -> str:
        """Return the canonical JSON text that its address is computed from."""
        return json.dumps(asdict(self), sort_keys=True, separators=(",", ":"), allow_nan=False)

    @property
    def revision(self) -> str:
        """Address by content: the first 16 hex digits of the SHA-256 of the canonical JSON."""
        return hashlib.sha256(self.to_json().encode()).hexdigest()[:16]
