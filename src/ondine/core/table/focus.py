"""Focus on a pin that stands where the drops land; void as soon as something has moved."""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass, replace

from ondine.core import plain
from ondine.core.setup import Setup
from ondine.core.setup.fields import about, read

STEPS = (
    "Let drops fall and watch where they land",
    "Stand a pin in the landing spot",
    "Focus on it by hand, with the live picture enlarged",
    "Lock the focus, and tape the ring",
    "Take the pin out, and let the water come to rest",
)

HOLDS_ON = (
    "valves.0.nozzle_height_m",
    "bowl.landing_m",
    "camera.name",
    "camera.magnification",
    "camera.focal_length_m",
    "camera.front_glass_m",
    "camera.height_m",
    "camera.portrait",
)
"""When one of these changes, the splash no longer stands where the focus is."""


@dataclass(frozen=True)
class Focus:
    """Which steps are ticked, and the values that they hold for."""

    done: tuple[bool, ...] = (False,) * len(STEPS)
    held: tuple[tuple[str, object], ...] = ()

    def ticked(self, step: int, setup: Setup) -> Focus:
        """Return a copy with one step ticked or unticked, holding for the set-up as it stands."""
        done = tuple(not d if i == step else d for i, d in enumerate(self.done))
        return Focus(done, tuple((path, read(setup, path)) for path in HOLDS_ON))

    def moved(self, setup: Setup) -> tuple[str, ...]:
        """Return what has moved since, in the window's words; empty while the focus holds."""
        if not any(self.done):
            return ()
        return tuple(about(setup, path).says for path, value in self.held if read(setup, path) != value)

    def voided(self, setup: Setup) -> Focus:
        """Return the focus as it holds on this set-up: none of its steps, if something has moved."""
        return replace(self, done=(False,) * len(STEPS)) if self.moved(setup) else self

    def to_json(self) -> str:
        """Return it as JSON."""
        return json.dumps(asdict(self))

    @staticmethod
    def from_json(text: str) -> Focus:
        """Read what `to_json` wrote. Raises ValueError for what it cannot have been."""
        made = plain.parse(Focus, text)
        if len(made.done) != len(STEPS) or not {path for path, _ in made.held} <= set(HOLDS_ON):
            raise ValueError("these are no steps of the focus")
        return made
