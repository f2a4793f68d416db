"""The simulated world: one firing integrated in time, from the valves to the last ripple.

Its laws are its own (a drop that hangs at its outlet until its neck breaks, sphere drag, a collapsing cavity, a damped
jet, a sheet whose rim takes it up) and its constants are hidden, so that the predictor is tested against a stranger.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np

from ondine.bench.simulated.falls import FallingDrop, release, same_spot
from ondine.bench.simulated.fluid import Fluid, fluid_of
from ondine.bench.simulated.hidden import HiddenRig, Luck
from ondine.bench.simulated.splashes import Splash, Umbrella, open_cavity, spread, throw_jet
from ondine.core.setup import Setup
from ondine.core.timing.sequence import Sequence as Firing

THIN_AFTER = 0.72
"""A drop goes through a sheet that is older than this share of its life."""

JET_LEAST, CROWN_LEAST = 70.0, 150.0
"""Least strength of an impact, ρDU²/σ, that throws a jet, and a crown."""


@dataclass
class Happening:
    """Everything that one firing made: drops and splashes in the order in which they reach the water.

    `joined` are the drops that ran into another one in the air and went on as one.
    """

    drops: list[FallingDrop]
    joined: list[FallingDrop]
    merged: bool
    luck: Luck
    splashes: list[Splash] = field(default_factory=list)

    @property
    def umbrellas(self) -> list[Umbrella]:
        """All sheets, in the order in which they opened."""
        return sorted((u for splash in self.splashes for u in splash.umbrellas), key=lambda u: u.met)


def happen(rigs: Sequence[HiddenRig], luck: Luck, setup: Setup, firing: Firing, heads_m: Sequence[float]) -> Happening:
    """Integrate one firing with each valve's reservoir standing at its level."""
    what = Happening(*release(rigs, luck, setup, firing, heads_m), luck)
    pool = fluid_of(setup)
    for drop in what.drops:
        splash = _spot_of(what, drop)
        if splash is None or not _meets(splash, drop, rigs[0]):
            _hit_pool(what, drop, splash, rigs[0], pool)
    return what


def _spot_of(what: Happening, drop: FallingDrop) -> Splash | None:
    """What stands where a drop comes down: the latest splash there."""
    there = [splash for splash in what.splashes if same_spot(splash.drop, drop)]
    return there[-1] if there else None


def _meets(splash: Splash, drop: FallingDrop, rig: HiddenRig) -> bool:
    """Let a drop open a sheet on what stands of a splash, if it meets that in the air; tell whether it did."""
    target = _target(splash)
    if target is None:
        return False
    (first, last), heads, speed = target
    start, end = max(drop.released, first), min(drop.landed, last)
    times = np.linspace(start, end, 400) if end > start else np.empty(0)
    gap = drop.heights(times) - drop.diameter / 2 - heads(times) if len(times) else times
    touching = np.flatnonzero(gap <= 0)
    if not len(touching) or touching[0] == 0:
        return False
    met = float(times[touching[0]])
    height = float(heads(np.asarray(met)))
    # As a real drop does, it must come down near enough to the axis, which may lean.
    axis = splash.drop.across + (splash.jet.leans * height if splash.jet else 0.0)
    if math.hypot(drop.across - axis, drop.near - splash.drop.near) > 0.85 * drop.diameter:
        return False
    on = "jet"
    if splash.umbrellas:
        last_one = splash.umbrellas[-1]
        on = "sheet" if met < last_one.gone else "column"
        if on == "sheet" and met > last_one.met + THIN_AFTER * (last_one.gone - last_one.met):
            # A film so old and thin holds nothing up: the drop goes on to the water.
            drop.passed = met
            return False
    elif splash.jet is not None and met > splash.jet.beaded:
        on = "bead"
    drop.until = met
    splash.umbrellas.append(spread(rig, drop, met, height, speed(met), on))
    return True


Heights = Callable[[np.ndarray], np.ndarray]
Speed = Callable[[float], float]


def _target(splash: Splash) -> tuple[tuple[float, float], Heights, Speed] | None:
    """What a drop could meet over a splash: from when to when, and its heights and its speed at given times."""
    if splash.umbrellas:
        last = splash.umbrellas[-1]
        return (last.met + 1e-4, last.gone + last.stands), last.heads, lambda t: last.column(t)[1]
    jet = splash.jet
    if jet is None:
        return None
    return (jet.risen, jet.sunk), lambda t: np.asarray(jet.track(t)[0]), lambda t: float(jet.track(t)[1])


def _hit_pool(what: Happening, drop: FallingDrop, before: Splash | None, rig: HiddenRig, pool: Fluid) -> None:
    """Let a drop open a cavity of its own, or knock on the floor of one that is open."""
    strength = pool.density * drop.diameter * drop.impact_speed**2 / pool.tension
    start, opened, kick, wild = drop.diameter / 2, drop.landed, 1.0, 1.0
    in_crater = before is not None and before.cavity.opened <= drop.landed < before.cavity.closed
    if before is not None and in_crater:
        depth, widening = (float(v) for v in before.cavity.track(drop.landed))
        opened = min(drop.landed + depth / drop.impact_speed, before.cavity.closed)
        # The floor gives way to a blow as its mass allows; the jet that was to come is spent in the new cavity.
        kick = (drop.diameter / 2 / max(depth, drop.diameter / 2)) ** 1.5 + max(widening, 0.0) / drop.impact_speed
        start = max(depth, start)
        before.jet, before.cavity.closed = None, opened
        wild = what.luck.wildness(drop.number)
        drop.until = opened
    cavity = open_cavity(rig, drop, pool, opened, start, kick)
    leans = what.luck.leaning(drop.number)
    jet = throw_jet(rig, drop, cavity, pool, wild, leans) if strength > JET_LEAST else None
    what.splashes.append(Splash(drop, cavity, jet, strength > CROWN_LEAST and not in_crater, in_crater))
