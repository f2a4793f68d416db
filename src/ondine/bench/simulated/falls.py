"""From the valves of the simulated world to its water: drops that form, fall, run together in the air."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from scipy.integrate import solve_ivp

from ondine.bench.simulated.fluid import Fluid, fluid_of
from ondine.bench.simulated.hidden import HiddenRig, Luck
from ondine.core.setup import Setup
from ondine.core.timing.sequence import Sequence as Firing

GRAVITY = 9.81
AIR_DENSITY, AIR_VISCOSITY = 1.204, 1.82e-5

STEP_S, LONGEST_HANG_S, NECK_SWINGS = 0.1e-3, 0.4, 1.2
"""Steps in which a hanging drop is followed, how long at most, and how soon its neck thins."""

DRIPS_BEFORE_S, DRIP_M3 = 0.11, 12e-9
BOUNCES_S, SECOND_M3 = 0.025, 6e-9
"""A leaking valve lets a drip fall so long before it opens; one that bounces lets a little drop follow."""

NEAR_M = 4e-3
"""Drops that come down so near to each other come down on the same spot."""

Track = Callable[[float | np.ndarray], np.ndarray]
"""Dense output of an integration: state at an absolute time."""


@dataclass
class FallingDrop:
    """A drop in the air: its track gives depth fallen [m] and speed [m/s] from `released` to `landed`.

    `number` of its first pulse, from 0; it comes down `across` to the right and `near` towards the camera of the
    table's landing spot; `until` it is a drop: landed, met, or run into another one; `passed` : when it went through an
    old sheet.
    """

    number: int
    diameter: float
    released: float
    landed: float
    impact_speed: float
    track: Track
    nozzle: float
    across: float
    near: float
    wobble: float
    until: float
    fluid: Fluid
    passed: float | None = None

    def height(self, time_s: float) -> float:
        """Height of its centre over the rest level."""
        return float(self.heights(np.asarray(time_s)))

    def heights(self, time_s: np.ndarray) -> np.ndarray:
        """The same at many times, of one shape."""
        return np.asarray(self.nozzle - self.track(time_s)[0])

    def swing(self, time_s: float) -> float:
        """How flat it is, as a share of its radius: it swings some thirty times a second, hardly damped."""
        rate = 31 * (4.9e-3 / self.diameter) ** 1.5
        since = time_s - self.released
        return self.wobble * math.exp(-1.5 * since) * math.cos(2 * math.pi * rate * since)

    def flies(self, time_s: float) -> bool:
        """Whether it is in the air."""
        return self.released <= time_s < self.until


def release(
    rigs: Sequence[HiddenRig], luck: Luck, setup: Setup, firing: Firing, heads_m: Sequence[float]
) -> tuple[list[FallingDrop], list[FallingDrop], bool]:
    """Return the drops that reach the water, those that run into others on the way, and whether any ran together.

    rigs, heads_m : the hidden numbers and the level of each valve.
    """
    drops: list[FallingDrop] = []
    merged = False
    for valve, rig in enumerate(rigs):
        fluid, last_end_us = fluid_of(setup, valve), -math.inf
        flow = rig.discharge_m3_s_sqrt_m * math.sqrt(max(heads_m[valve], 0.0))
        formed: list[_Formed] = []
        own = [(n, pulse) for n, pulse in enumerate(firing.drops) if pulse.valve == valve]
        for n, pulse in sorted(own, key=lambda pair: pair[1].start_us):
            begins = pulse.start_us / 1e6 + rig.valve_lag_s + luck.timing_s[n]
            one = _Formed(n, begins, max(pulse.open_us / 1e6 - rig.dead_time_s, 0.2e-3), flow * luck.volume[n])
            gap, last_end_us = (pulse.start_us - last_end_us) / 1e6, pulse.end_us
            if formed and gap < rig.merge_gap * swing_s(fluid, formed[-1].volume):
                formed[-1] = replace(formed[-1], more=formed[-1].more + one.volume)
                merged = True
                continue
            if n in luck.drips:
                formed.append(_Formed(n, begins - DRIPS_BEFORE_S, DRIP_M3 / flow, flow))
            formed.append(one)
            if n in luck.doubles:
                formed.append(_Formed(n, begins + one.flows_s + BOUNCES_S, SECOND_M3 / flow, flow))
        place = setup.valve(valve)
        nozzle = place.nozzle_height_m + rig.height_offset_m
        for one in formed:
            across = place.aside_m + float(luck.aside_m[one.number])
            hung = hang(rig, fluid, one.flow_m3_s, one.flows_s)
            swings = float(luck.wobble[one.number]) + rig.swing
            begins, height = one.begins + hung.lasts_s, nozzle - hung.below_m
            whole = one.volume + one.more
            drops.append(_fall(one.number, whole, begins, height, hung.speed_m_s, fluid, across, place.x_m, swings))
    lost: list[FallingDrop] = []
    together = _run_together(drops, lost)
    return together, lost, merged or bool(lost)


@dataclass(frozen=True)
class _Formed:
    """Liquid that leaves a valve as one drop: when and how long it flows, and what joins it from later pulses."""

    number: int
    begins: float
    flows_s: float
    flow_m3_s: float
    more: float = 0.0

    @property
    def volume(self) -> float:
        """Volume of its own pulse [m3]."""
        return self.flows_s * self.flow_m3_s


@dataclass(frozen=True)
class Hung:
    """A drop as its neck breaks: how long after its flow began, how far under the outlet its centre is, how fast."""

    lasts_s: float
    below_m: float
    speed_m_s: float


def hang(rig: HiddenRig, fluid: Fluid, flow_m3_s: float, flows_s: float) -> Hung:
    """Follow the liquid that leaves an outlet step by step, until its neck breaks: what flows in pushes it, its weight
    pulls it down, its skin at the rim holds it; after the closing the neck thins, and holds less and less.
    """
    rim = rig.cling * math.pi * rig.outlet_m * fluid.tension
    inflow = rig.push * flow_m3_s / (0.785398 * rig.outlet_m**2)
    thins_s = NECK_SWINGS * math.sqrt(fluid.density * rig.outlet_m**3 / fluid.tension)
    mass, momentum, moment, time, neck = 0.0, 0.0, 0.0, 0.0, 1.0
    while neck > 0 and time < LONGEST_HANG_S:
        gains = fluid.density * flow_m3_s * STEP_S if time < flows_s else 0.0
        mass += gains
        momentum += gains * inflow + (mass * GRAVITY - neck * rim) * STEP_S
        # A drop that is held hangs at the rim; it cannot be pulled back up.
        momentum = max(momentum, 0.0)
        moment += momentum * STEP_S
        time += STEP_S
        # The neck gives way once nothing flows, sooner under a drop that moves on or weighs much.
        if time >= flows_s and (momentum > 0 or mass * GRAVITY > 0.6 * rim):
            neck -= STEP_S / thins_s
    return Hung(time, moment / mass, momentum / mass)


def swing_s(fluid: Fluid, volume_m3: float) -> float:
    """Time of a swing of a drop, about."""
    return math.sqrt(1.9 * fluid.density * volume_m3 / fluid.tension)


def same_spot(one: FallingDrop, other: FallingDrop) -> bool:
    """Whether two drops come down on the same spot."""
    return math.hypot(one.across - other.across, one.near - other.near) < NEAR_M


def _run_together(drops: list[FallingDrop], lost: list[FallingDrop]) -> list[FallingDrop]:
    """Let drops on the same spot that touch in the air go on as one, and put them by; in the order of landing."""
    for i, one in enumerate(drops):
        for other in drops[i + 1 :]:
            touch = _touch(one, other) if same_spot(one, other) else None
            if touch is not None:
                one.until = other.until = touch
                lost += [one, other]
                rest = [drop for drop in drops if drop is not one and drop is not other]
                return _run_together([*rest, _joined(one, other, touch)], lost)
    return sorted(drops, key=lambda drop: drop.landed)


def _touch(one: FallingDrop, other: FallingDrop) -> float | None:
    """When two drops touch in the air."""
    start, end = max(one.released, other.released), min(one.landed, other.landed)
    if end <= start:
        return None
    times = np.linspace(start, end, 200)
    apart = np.abs(one.heights(times) - other.heights(times)) - (one.diameter + other.diameter) / 2
    touching = np.flatnonzero(apart <= 0)
    return float(times[touching[0]]) if len(touching) else None


def _joined(one: FallingDrop, other: FallingDrop, when: float) -> FallingDrop:
    """Go on from a touch with the mass and the momentum of both."""
    masses = [drop.fluid.density * drop.diameter**3 for drop in (one, other)]
    share = masses[0] / sum(masses)
    speed = share * float(one.track(when)[1]) + (1 - share) * float(other.track(when)[1])
    height = share * one.height(when) + (1 - share) * other.height(when)
    volume = 0.5235988 * (one.diameter**3 + other.diameter**3)
    across, near = share * one.across + (1 - share) * other.across, share * one.near + (1 - share) * other.near
    number = min(one.number, other.number)
    return _fall(number, volume, when, height, speed, one.fluid, across, near, 0.12)


def _fall(
    number: int,
    volume: float,
    released: float,
    nozzle: float,
    speed: float,
    fluid: Fluid,
    across: float,
    near: float,
    wobble: float,
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

    solved = solve(pull, released, released + 3.0, [0.0, speed], lands)
    landed = float(solved.t[-1])
    return FallingDrop(
        number,
        diameter,
        released,
        landed,
        float(solved.y[1, -1]),
        solved.sol,
        nozzle,
        across,
        near,
        wobble,
        landed,
        fluid,
    )


def solve(law: Any, start: float, end: float, state: list[float], until: Any) -> Any:
    """Integrate a law until something happens."""
    until.terminal = True
    return solve_ivp(law, (start, end), state, events=until, dense_output=True, rtol=1e-7, atol=1e-9)
