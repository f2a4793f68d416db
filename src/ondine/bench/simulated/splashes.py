"""What a drop makes of the simulated water: a collapsing cavity, a damped jet, a sheet as an overdamped membrane."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import numpy as np

from ondine.bench.simulated.falls import GRAVITY, FallingDrop, Track, solve
from ondine.bench.simulated.fluid import Fluid
from ondine.bench.simulated.hidden import HiddenRig

COLUMN_SINKS_M_S, COLUMN_STANDS_S = 0.10, 0.05


@dataclass
class Cavity:
    """The crater: its track gives radius [m] and opening speed from `opened` to `closed`."""

    opened: float
    closed: float
    widest: float
    track: Track


@dataclass
class Jet:
    """The jet's tip: its track gives height [m] and speed from `risen` until it has sunk at `sunk`."""

    risen: float
    sunk: float
    radius: float
    track: Track


@dataclass
class Umbrella:
    """A sheet: its track gives radius [m], spreading speed, centre height and its speed, from `met` to `gone`.

    `on` : what the drop met, jet, sheet or column; `ink` : number of the drop's ink.
    """

    met: float
    gone: float
    diameter: float
    peak: float
    track: Track
    on: str
    across: float
    ink: int = 0

    def column(self, time_s: float) -> tuple[float, float]:
        """Height and speed of the column's head, which outlives the sheet it carried."""
        speed = -COLUMN_SINKS_M_S if time_s > self.gone else float(self.track(time_s)[3])
        return float(self.heads(np.asarray(time_s))), speed

    def heads(self, time_s: np.ndarray) -> np.ndarray:
        """Height of the column's head at many times, of one shape."""
        late = np.maximum(time_s - self.gone, 0.0)
        return np.asarray(self.track(np.minimum(time_s, self.gone))[2] - COLUMN_SINKS_M_S * late)


@dataclass
class Splash:
    """What one drop made of the pool, and the sheets that later drops opened on its jet."""

    drop: FallingDrop
    cavity: Cavity
    jet: Jet | None
    crowned: bool
    in_crater: bool
    umbrellas: list[Umbrella] = field(default_factory=list)


def open_cavity(rig: HiddenRig, drop: FallingDrop, fluid: Fluid, opened: float, start: float, kick: float) -> Cavity:
    """Open a cavity from a radius [m] with a share of the impact speed."""

    def wall(_: float, state: np.ndarray) -> list[float]:
        radius, speed = max(state[0], 1e-5), state[1]
        drive = -(1.5 + rig.cavity_loss) * speed**2 - GRAVITY * radius - 2 * fluid.tension / (fluid.density * radius)
        return [speed, drive / radius - 4 * fluid.viscosity * speed / (fluid.density * radius**2)]

    def shut(_: float, state: np.ndarray) -> float:
        return float(state[0] - 0.45 * drop.diameter) if state[1] < 0 else 1.0

    solved = solve(wall, opened, opened + 0.3, [start, kick * rig.cavity_kick * drop.impact_speed], shut)
    return Cavity(opened, float(solved.t[-1]), float(solved.y[0].max()), solved.sol)


def throw_jet(rig: HiddenRig, drop: FallingDrop, cavity: Cavity, fluid: Fluid, wild: float = 1.0) -> Jet:
    """Throw a jet from a cavity as it closes; `wild` makes it faster or slower."""
    focus = (GRAVITY * cavity.widest) ** rig.jet_exponent
    thick = fluid.viscosity / (fluid.density * math.sqrt(GRAVITY * cavity.widest**3))
    speed = rig.jet_factor * focus * math.exp(-45 * thick) * wild
    radius = 0.075 * cavity.widest + 0.11 * drop.diameter

    def tip(_: float, state: np.ndarray) -> list[float]:
        return [state[1], -1.06 * GRAVITY - rig.jet_damping * state[1]]

    def sinks(_: float, state: np.ndarray) -> float:
        return float(state[0]) if state[1] < 0 else 1.0

    solved = solve(tip, cavity.closed, cavity.closed + 2.0, [0.0, speed], sinks)
    return Jet(cavity.closed, float(solved.t[-1]), radius, solved.sol)


def spread(rig: HiddenRig, drop: FallingDrop, met: float, height: float, rise: float, on: str) -> Umbrella:
    """A drop that is stopped spreads like a membrane: thrown outwards, pulled back by its own tension."""
    fluid, fall = drop.fluid, float(drop.track(met)[1])
    mass = fluid.density * 0.5235988 * drop.diameter**3
    stiffness = math.sqrt(rig.sheet_stiffness * fluid.tension / mass)
    rest = drop.diameter / 2
    thrown = rig.sheet_stretch * (fall + rise)
    # The column below gives way, but brakes: what sinks is neither the drop nor the jet.
    settling = rig.mixing * rise - 0.30 * fall

    def membrane(_: float, state: np.ndarray) -> list[float]:
        radius, speed, _, sink = state
        slack = max(radius / rest - 1, 0.0)
        pull = stiffness**2 * rest * slack / (1 + 0.25 * slack) + rig.sheet_damping * speed
        return [speed, -pull, sink, -GRAVITY - 55.0 * sink]

    def gone(_: float, state: np.ndarray) -> float:
        return float(state[0] - rest * 0.9) if state[1] < 0 else 1.0

    solved = solve(membrane, met, met + 0.1, [rest, thrown, height, settling], gone)
    return Umbrella(
        met, float(solved.t[-1]), drop.diameter, float(solved.y[0].max()), solved.sol, on, drop.across, drop.fluid.ink
    )
