"""The whole table, and what is believed of it."""

from __future__ import annotations

import hashlib
import json
from dataclasses import asdict, dataclass, field

from ondine.core.setup.box import Box
from ondine.core.setup.camera import Camera
from ondine.core.setup.fields import About, plain
from ondine.core.setup.light import Light
from ondine.core.setup.mix import Mix
from ondine.core.setup.rig import Bowl, Method, Rig
from ondine.core.setup.triggers import Triggers


@dataclass(frozen=True)
class Prior:
    """A belief about one number of the rig: mean and standard deviation, in the number's own unit."""

    mean: float = field(metadata={"about": About("Mean", -1e6, 1e6)})
    sd: float = field(metadata={"about": About("Spread", 0.0, 1e6)})


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
    """Everything that Ondine knows of a table. `other` keeps, as JSON text, what a newer Ondine wrote besides."""

    name: str = plain("Untitled set-up", "Name")
    method: Method = plain(Method.VALVE, "Method")
    rig: Rig = field(default_factory=Rig)
    bowl: Bowl = field(default_factory=Bowl)
    mix: Mix = field(default_factory=Mix)
    camera: Camera = field(default_factory=Camera)
    light: Light = field(default_factory=Light)
    triggers: Triggers = field(default_factory=Triggers)
    box: Box = field(default_factory=Box)
    beliefs: Beliefs = field(default_factory=Beliefs)
    other: str = plain("", "Unknown fields")

    def to_json(self) -> str:
        """Return the canonical JSON text that its address is computed from."""
        return json.dumps(asdict(self), sort_keys=True, separators=(",", ":"), allow_nan=False)

    @property
    def revision(self) -> str:
        """Address by content: the first 16 hex digits of the SHA-256 of the canonical JSON."""
        return hashlib.sha256(self.to_json().encode()).hexdigest()[:16]
