"""The whole table."""

from __future__ import annotations

import hashlib
import json
from dataclasses import asdict, dataclass, field

from ondine.core.setup.box import Box
from ondine.core.setup.camera import Camera
from ondine.core.setup.fields import plain
from ondine.core.setup.light import Light
from ondine.core.setup.mix import Mix
from ondine.core.setup.rig import Bowl, Method, Valve
from ondine.core.setup.triggers import Triggers

MOST_PARTS = 64
"""No list of a table is longer: valves, flashes, lines of a manual."""


@dataclass(frozen=True)
class Setup:
    """Everything that Ondine knows of a table; `valves` is never empty.

    `other` keeps, as JSON text, what a newer Ondine wrote besides.
    """

    name: str = plain("Untitled set-up", "Name")
    method: Method = plain(Method.VALVE, "Method")
    valves: tuple[Valve, ...] = (Valve(),)
    bowl: Bowl = field(default_factory=Bowl)
    mix: Mix = field(default_factory=Mix)
    camera: Camera = field(default_factory=Camera)
    light: Light = field(default_factory=Light)
    triggers: Triggers = field(default_factory=Triggers)
    box: Box = field(default_factory=Box)
    other: str = plain("", "Unknown fields")

    @property
    def nozzle_height_m(self) -> float:
        """Height of the highest nozzle over the water."""
        return max(valve.nozzle_height_m for valve in self.valves)

    def valve(self, index: int) -> Valve:
        """Return a valve by its number, from 0; the last one where the table has none of that number."""
        return self.valves[min(max(index, 0), len(self.valves) - 1)]

    def mix_of(self, valve: int) -> Mix:
        """Return what falls from a valve."""
        return self.valve(valve).liquid or self.mix

    def to_json(self) -> str:
        """Return the canonical JSON text that its address is computed from."""
        return json.dumps(asdict(self), sort_keys=True, separators=(",", ":"), allow_nan=False)

    @property
    def revision(self) -> str:
        """Address by content: the first 16 hex digits of the SHA-256 of the canonical JSON."""
        return hashlib.sha256(self.to_json().encode()).hexdigest()[:16]
