"""The simulated world: one firing integrated in time, from the valve to the last ripple.

Its laws are its own (sphere drag with a flattening drop, a collapsing cavity, a damped jet, a sheet as an
overdamped membrane) and its constants are hidden, so that the predictor is tested against a stranger.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from scipy.integrate import solve_ivp

from ondine.bench.simulated.fluid import Fluid, fluid_of
from ondine.bench.simulated.hidden import HiddenRig, Luck
from ondine.core.setup import Setup
from ondine.core.timing.sequence import Sequence

GRAVITY = 9.81
AIR_DENSITY, AIR_VISCOSITY = 1.204, 1.82e-5
COLUMN_SINKS_M_S, COLUMN_STANDS_S = 0.10, 0.05

Track = Callable[[float], np.ndarray]
"""Dense output of an integration: state at an absolute time."""


@dataclass
class FallingDrop:
    """A drop in the air: its track gives depth fallen [m] and speed [m/s] from `released` to `landed`."""

    diameter: float
    released: float
    landed: float
    impact_speed: float
    track: Track
    nozzle: float
    aside: float
    wobble: float

    def height(self, time_s: float) -> float:
        """Height of its centre over the rest level."""
        return self.nozzle - float(self.track(time_s)[0])


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
    """A sheet: its track gives radius [m], spreading speed, centre height and its speed, from `met` to `gone`."""

    met: float
    gone: float
    diameter: float
    peak: float
    track: Track
    on_sheet: bool
    aside: float

    def column(self, time_s: float) -> tuple[float, float]:
        """Height and speed of the column's head, which outlives the sheet it carried."""
        state = self.track(min(time_s, self.gone))
        late = time_s - self.gone
        if late <= 0:
            return float(state[2]), float(state[3])
        return float(state[2]) - COLUMN_SINKS_M_S * late, -COLUMN_SINKS_M_S


@dataclass
class Happening:
    """Everything that one firing made."""

    drops: list[FallingDrop]
    cavities: list[Cavity]
    jet: Jet | None
    umbrellas: list[Umbrella]
    crowned: bool
    merged: bool
    luck: Luck
    caught: list[int] = field(default_factory=list)


def happen(rig: HiddenRig, luck: Luck, setup: Setup, sequence: Sequence, head_m: float) -> Happening:
    """Integrate one firing with the reservoir standing at `head_m`."""
    fluid = fluid_of(setup)
    drops, merged = _release(rig, luck, setup, sequence, head_m, fluid)
    first = drops[0]
    cavity = _open_cavity(rig, first, fluid)
    strength = fluid.density * first.diameter * first.impact_speed**2 / fluid.tension
    jet = _throw_jet(rig, first, cavity, fluid) if strength > 70 else None
    what = Happening(drops, [cavity], jet, [], strength > 150, merged, luck)
    for number in range(1, len(drops)):
        _meet(what, number, rig, fluid)
    return what


def _release(
    rig: HiddenRig, luck: Luck, setup: Setup, sequence: Sequence, head_m: float, fluid: Fluid
) -> tuple[list[FallingDrop], bool]:
    flow = rig.discharge_m3_s_sqrt_m * math.sqrt(max(head_m, 0.0))
    volumes: list[float] = []
    times: list[float] = []
    merged = False
    for i, pulse in enumerate(sequence.drops):
        open_s = pulse.open_us / 1e6
        volume = flow * max(open_s - rig.dead_time_s, 0.2e-3) * luck.volume[i]
        time = pulse.start_us / 1e6 + rig.valve_lag_s + rig.neck_share * open_s + luck.timing_s[i]
        if volumes:
            gap = (pulse.start_us - sequence.drops[i - 1].end_us) / 1e6
            neck = 0.55 * math.sqrt(fluid.density * volumes[-1] / fluid.tension)
            if gap < neck:
                volumes[-1] += volume
                merged = True
                continue
        volumes.append(volume)
        times.append(time)
    nozzle = setup.rig.nozzle_height_m + rig.height_offset_m
    drops = [
        _fall(v, t, nozzle, rig.exit_speed_m_s, fluid, float(luck.aside_m[i]), float(luck.wobble[i]))
        for i, (v, t) in enumerate(zip(volumes, times, strict=True))
    ]
    return drops, merged


def _fall(
    volume: float, released: float, nozzle: float, speed: float, fluid: Fluid, aside: float, wobble: float
) -> FallingDrop:
    diameter = (1.9098593 * volume) ** (1 / 3)
    mass = fluid.density * volume

    def pull(_: float, state: np.ndarray) -> list[float]:
        v = max(state[1], 1e-6)
        reynolds = AIR_DENSITY * v * diameter / AIR_VISCOSITY
        drag = 24 / reynolds * (1 + 0.15 * reynolds**0.687) + 0.42 / (1 + 42500 * reynolds**-1.16)
        flat = 1 + 0.06 * AIR_DENSITY * v * v * diameter / fluid.tension
        force = 0.5 * AIR_DENSITY * v * v * drag * flat**2 * 0.785398 * diameter**2
        return [v, GRAVITY * (1 - AIR_DENSITY / fluid.density) - force / mass]

    def lands(_: float, state: np.ndarray) -> float:
        return float(state[0] - nozzle + diameter / 2)

    solved = _solve(pull, released, released + 3.0, [0.0, speed], lands)
    landed = float(solved.t[-1])
    return FallingDrop(diameter, released, landed, float(solved.y[1, -1]), solved.sol, nozzle, aside, wobble)


def _open_cavity(rig: HiddenRig, drop: FallingDrop, fluid: Fluid) -> Cavity:
    def wall(_: float, state: np.ndarray) -> list[float]:
        radius, speed = max(state[0], 1e-5), state[1]
        drive = -1.5 * speed**2 - GRAVITY * radius - 2 * fluid.tension / (fluid.density * radius)
        return [speed, drive / radius - 4 * fluid.viscosity * speed / (fluid.density * radius**2)]

    start = drop.diameter * 0.5

    def shut(_: float, state: np.ndarray) -> float:
        return float(state[0] - 0.9 * start) if state[1] < 0 else 1.0

    solved = _solve(wall, drop.landed, drop.landed + 0.3, [start, rig.cavity_kick * drop.impact_speed], shut)
    return Cavity(drop.landed, float(solved.t[-1]), float(solved.y[0].max()), solved.sol)


def _throw_jet(rig: HiddenRig, drop: FallingDrop, cavity: Cavity, fluid: Fluid) -> Jet:
    focus = (GRAVITY * cavity.widest) ** rig.jet_exponent
    thick = fluid.viscosity / (fluid.density * math.sqrt(GRAVITY * cavity.widest**3))
    speed = rig.jet_factor * focus * math.exp(-45 * thick)
    radius = 0.075 * cavity.widest + 0.11 * drop.diameter

    def tip(_: float, state: np.ndarray) -> list[float]:
        return [state[1], -1.06 * GRAVITY - 0.9 * state[1]]

    def sinks(_: float, state: np.ndarray) -> float:
        return float(state[0]) if state[1] < 0 else 1.0

    solved = _solve(tip, cavity.closed, cavity.closed + 2.0, [0.0, speed], sinks)
    return Jet(cavity.closed, float(solved.t[-1]), radius, solved.sol)


def _meet(what: Happening, number: int, rig: HiddenRig, fluid: Fluid) -> None:
    """Find what drop `number` hits first: a sheet, the jet's tip, or the pool."""
    drop = what.drops[number]
    target = _target(what, number)
    if target is None:
        return
    # As a real drop does, it must come down near enough to the axis.
    if abs(drop.aside - what.drops[0].aside) > 0.9 * drop.diameter:
        return
    reach, tip, on_sheet = target
    start, end = max(drop.released, reach[0]), min(drop.landed, reach[1])
    times = np.linspace(start, end, 400) if end > start else np.empty(0)
    gap = np.array([drop.height(t) - drop.diameter / 2 - tip(t)[0] for t in times])
    touching = np.flatnonzero(gap <= 0)
    if not len(touching) or touching[0] == 0:
        return
    met = float(times[touching[0]])
    height, rise = tip(met)
    what.caught.append(number)
    what.umbrellas.append(_spread(rig, drop, met, height, rise, fluid, on_sheet))


def _target(
    what: Happening, number: int
) -> tuple[tuple[float, float], Callable[[float], tuple[float, float]], bool] | None:
    if what.umbrellas:
        last = what.umbrellas[-1]

        def column(t: float) -> tuple[float, float]:
            return last.column(t)

        return (last.met + 1e-4, last.gone + COLUMN_STANDS_S), column, True
    jet = what.jet
    if jet is None or number == 0:
        return None

    def tip(t: float) -> tuple[float, float]:
        state = jet.track(t)
        return float(state[0]), float(state[1])

    return (jet.risen, jet.sunk), tip, False


def _spread(
    rig: HiddenRig, drop: FallingDrop, met: float, height: float, rise: float, fluid: Fluid, on_sheet: bool
) -> Umbrella:
    """A drop that is stopped spreads like a membrane: thrown outwards, pulled back by its own tension."""
    fall = float(drop.track(met)[1])
    mass = fluid.density * 0.5235988 * drop.diameter**3
    stiffness = math.sqrt(65 * fluid.tension / mass)
    rest = drop.diameter / 2
    thrown = rig.sheet_stretch * (fall + rise)
    # The column below gives way, but brakes: what sinks is neither the drop nor the jet.
    settling = rig.mixing * rise - 0.30 * fall

    def membrane(_: float, state: np.ndarray) -> list[float]:
        radius, speed, _, sink = state
        slack = max(radius / rest - 1, 0.0)
        pull = stiffness**2 * rest * slack / (1 + 0.25 * slack) + 40 * speed
        return [speed, -pull, sink, -GRAVITY - 55.0 * sink]

    def gone(_: float, state: np.ndarray) -> float:
        return float(state[0] - rest * 0.9) if state[1] < 0 else 1.0

    solved = _solve(membrane, met, met + 0.1, [rest, thrown, height, settling], gone)
    return Umbrella(met, float(solved.t[-1]), drop.diameter, float(solved.y[0].max()), solved.sol, on_sheet, drop.aside)


def _solve(law: Any, start: float, end: float, state: list[float], until: Any) -> Any:
    until.terminal = True
    return solve_ivp(law, (start, end), state, events=until, dense_output=True, rtol=1e-7, atol=1e-9)
