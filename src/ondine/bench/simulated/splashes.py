"""What a drop makes of the simulated water: a collapsing cavity, a damped jet, a sheet with a rim that takes it up."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import numpy as np

from ondine.bench.simulated.falls import GRAVITY, FallingDrop, Track, solve
from ondine.bench.simulated.fluid import Fluid
from ondine.bench.simulated.hidden import HiddenRig

BUBBLE_JET, BUBBLE_JET_WIDTH = 1.6, 0.6
"""How much faster and thinner a jet is from a cavity that pinched off a bubble."""

BEAD_SHARE = 0.45
"""Mass of a jet's bead, in shares of what a drop meets of a whole jet."""


@dataclass
class Cavity:
    """The crater: its track gives radius [m] and opening speed from `opened` to `closed`; its crown stands until
    `uncrowned`.
    """

    opened: float
    closed: float
    widest: float
    track: Track
    uncrowned: float


@dataclass
class Jet:
    """The jet's tip: its track gives height [m] and speed from `risen` until it has sunk at `sunk`; `beaded` : when its
    bead lets go; `leans` : how far it leans aside, as a share of its height.
    """

    risen: float
    sunk: float
    radius: float
    track: Track
    beaded: float
    leans: float = 0.0


@dataclass
class Umbrella:
    """A sheet: its track gives radius [m], spreading speed, centre height and its speed, from `met` to `gone`.

    `on` : what the drop met, jet, bead, sheet or column; `ink` : number of the drop's ink; `stands`, `sinks` : how long
    the column outlives it [s], and how fast that sinks [m/s].
    """

    met: float
    gone: float
    diameter: float
    peak: float
    track: Track
    on: str
    across: float
    stands: float
    sinks: float
    ink: int = 0

    def column(self, time_s: float) -> tuple[float, float]:
        """Height and speed of the column's head, which outlives the sheet it carried."""
        speed = -self.sinks if time_s > self.gone else float(self.track(time_s)[3])
        return float(self.heads(np.asarray(time_s))), speed

    def heads(self, time_s: np.ndarray) -> np.ndarray:
        """Height of the column's head at many times, of one shape."""
        late = np.maximum(time_s - self.gone, 0.0)
        return np.asarray(self.track(np.minimum(time_s, self.gone))[2] - self.sinks * late)


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
        return float(state[0] - rig.cavity_shuts * drop.diameter) if state[1] < 0 else 1.0

    # A drop that is flat as it hits drives a wider cavity less deep.
    kick *= 1 - 0.5 * drop.swing(drop.landed)
    solved = solve(wall, opened, opened + 0.3, [start, kick * rig.cavity_kick * drop.impact_speed], shut)
    closed = float(solved.t[-1])
    crowned_s = rig.crown_lasts * (closed - opened)
    return Cavity(opened, closed, float(solved.y[0].max()), solved.sol, opened + crowned_s)


def traps_bubble(drop: FallingDrop, fluid: Fluid) -> bool:
    """Whether the cavity pinches off a bubble: small drops from low nozzles do."""
    strength = fluid.density * drop.diameter * drop.impact_speed**2 / fluid.tension
    fast = drop.impact_speed**2 / (GRAVITY * drop.diameter)
    return bool(42.0 * fast**0.18 < strength < 47.0 * fast**0.25)


def throw_jet(
    rig: HiddenRig, drop: FallingDrop, cavity: Cavity, fluid: Fluid, wild: float = 1.0, leans: float = 0.0
) -> Jet:
    """Throw a jet from a cavity as it closes; `wild` makes it faster or slower."""
    focus = (GRAVITY * cavity.widest) ** rig.jet_exponent
    thick = fluid.viscosity / (fluid.density * math.sqrt(GRAVITY * cavity.widest**3))
    speed = rig.jet_factor * focus * math.exp(-45 * thick) * wild
    radius = 0.075 * cavity.widest + 0.11 * drop.diameter
    if traps_bubble(drop, fluid):
        speed, radius = BUBBLE_JET * speed, BUBBLE_JET_WIDTH * radius

    def tip(_: float, state: np.ndarray) -> list[float]:
        return [state[1], -1.06 * GRAVITY - rig.jet_damping * state[1]]

    def sinks(_: float, state: np.ndarray) -> float:
        return float(state[0]) if state[1] < 0 else 1.0

    solved = solve(tip, cavity.closed, cavity.closed + 2.0, [0.0, speed], sinks)
    # Thick threads and slimy ones hold their beads longer.
    holds = rig.bead_s * (radius / 1.3e-3) ** 1.5 * (1 + 40 * thick) * (1 + fluid.slime)
    return Jet(cavity.closed, float(solved.t[-1]), radius, solved.sol, cavity.closed + holds, leans)


def spread(rig: HiddenRig, drop: FallingDrop, met: float, height: float, rise: float, on: str) -> Umbrella:
    """A drop that is stopped spreads into a sheet. Its rim takes up what arrives, keeps the momentum of it, and is
    pulled back by both faces of the sheet; its middle drives down the column, braked by what it takes along.
    """
    fluid, fall = drop.fluid, float(drop.track(met)[1])
    whole, rest, met_with = fluid.density * 0.5235988 * drop.diameter**3, drop.diameter / 2, fall + rise
    tip = rig.mixing * 1.6 * (BEAD_SHARE if on == "bead" else 1.0)
    thrown = rig.sheet_spread * met_with * math.sqrt(min(2 * tip / (1 + tip), 1.15))
    # The skin of a sheet is fresh: milk and soap have not come to it.
    tension = fluid.fresh_tension
    starts, below = (tip * rise - fall) / (1 + tip), rig.column_width * 0.4 * drop.diameter
    along = fluid.density * 3.1415927 * below**2 * (1 + 2 * drop.diameter / max(height, 1e-3))
    body = whole * (0.35 if on == "bead" else 0.55)

    def moves(time: float, state: np.ndarray) -> list[float]:
        radius, rim, momentum, way, _ = state
        age, out = time - met + rest / thrown, momentum / max(rim, 1e-12)
        thick = rig.sheet_thins * drop.diameter**3 / (12 * age * thrown * max(radius, rest))
        arrives = radius / age
        takes = max(2 * 3.1415927 * radius * fluid.density * thick * (arrives - out), 0.0) if rim < whole else 0.0
        sinks = starts * body / (body + along * abs(way))
        pull = 4 * 3.1415927 * radius * tension
        return [out, takes, takes * arrives - pull, sinks, sinks]

    def gone(_: float, state: np.ndarray) -> float:
        return float(state[0] - rig.tears_at * widest[0]) if state[2] < 0 else 1.0

    widest = [rest]

    def still(_: float, state: np.ndarray) -> float:
        return float(state[2])

    light = 0.05 * whole
    begin = [rest, light, light * thrown, 0.0, height]
    opens = solve(moves, met, met + 0.1, begin, still)
    widest[0] = float(opens.y[0].max())
    closes = solve(moves, float(opens.t[-1]), float(opens.t[-1]) + 0.1, [float(v) for v in opens.y[:, -1]], gone)
    ends, turns = float(closes.t[-1]), float(opens.t[-1])

    def track(time_s: float | np.ndarray) -> np.ndarray:
        time = np.clip(np.asarray(time_s, dtype=float), met, ends)
        first = opens.sol(np.minimum(time, turns))
        state = np.where(time <= turns, first, closes.sol(np.maximum(time, turns)))
        out = state[2] / np.maximum(state[1], 1e-12)
        sinks = starts * body / (body + along * np.abs(state[3]))
        return np.stack([state[0], out, state[4], sinks])

    stands, sinks = rig.column_stands_s, rig.column_sinks_m_s
    return Umbrella(met, ends, drop.diameter, widest[0], track, on, drop.across, stands, sinks, fluid.ink)
