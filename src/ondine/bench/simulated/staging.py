"""From a happening to the scene that stands before the camera at one instant."""

from __future__ import annotations

import math

import numpy as np

from ondine.bench.simulated.falls import Axis, FallingDrop, is_near
from ondine.bench.simulated.splashes import Splash, Umbrella
from ondine.bench.simulated.world import Happening
from ondine.picture.scene import Blob, Column, Crown, Scene, Sheet

MM = 1e3
SPREADS = 0.35
"""Speed at which rings of ripples widen [m/s]."""


def scene_at(what: Happening, time_s: float, axis: Axis = (0.0, 0.0)) -> Scene:
    """Stage what can be seen about an axis at a time of the firing [s], in places from that axis."""
    scene = Scene()
    _stage_drops(scene, what, time_s, axis)
    splash = _latest(what, time_s, axis)
    if splash is not None:
        _stage_pool(scene, splash, time_s, axis)
        _stage_crown(scene, splash, what, time_s)
        _stage_jet(scene, splash, time_s)
        for umbrella in splash.umbrellas:
            _stage_umbrella(scene, umbrella, what, time_s, axis)
        if what.luck.bubbles:
            _stage_bubbles(scene, what)
    return scene


def _from(axis: Axis, drop: FallingDrop) -> tuple[float, float]:
    """Where a drop is beside an axis, to the right and away from the camera [mm]."""
    return (drop.across - axis[0]) * MM, (axis[1] - drop.near) * MM


def _latest(what: Happening, now: float, axis: Axis) -> Splash | None:
    """The splash that stands about an axis: the last that has begun there."""
    begun = [s for s in what.splashes if s.cavity.opened < now and is_near(s.drop, axis)]
    return begun[-1] if begun else None


def _stage_drops(scene: Scene, what: Happening, now: float, axis: Axis) -> None:
    for drop in (*what.drops, *what.joined):
        if drop.flies(now):
            # The lowest mode of a drop of 4 to 5 mm: some thirty swings a second.
            swing = drop.wobble * math.cos(2 * math.pi * 31 * (4.9e-3 / drop.diameter) ** 1.5 * (now - drop.released))
            radius = drop.diameter / 2 * MM
            across, upright = radius * (1 + swing), radius * (1 - 2 * swing)
            scene.blobs.append(Blob(*_from(axis, drop), drop.height(now) * MM, across, upright))


def _stage_pool(scene: Scene, splash: Splash, now: float, axis: Axis) -> None:
    cavity, drop = splash.cavity, splash.drop
    since = now - cavity.opened
    if since < 0.0025 and not splash.in_crater:
        scene.blobs.append(_entering(drop, since, axis))
    if now < cavity.closed:
        radius = float(cavity.track(now)[0]) * MM
        scene.pool.crater_radius = radius
        deep = 1.0 if splash.in_crater else min(1.0, since / 0.004)
        scene.pool.crater_depth = radius * deep * 0.95
        return
    spread = now - cavity.closed
    scene.pool.ripple_height = 0.55 * math.exp(-spread / 0.12)
    scene.pool.ripple_length = 6.5
    scene.pool.ripple_front = 9.0 + SPREADS * spread * MM
    scene.pool.ripple_width = 9.0 + 0.12 * spread * MM


def _entering(drop: FallingDrop, since: float, axis: Axis) -> Blob:
    radius = drop.diameter / 2 * MM
    sunk = drop.impact_speed * since * MM * 0.6
    return Blob(
        drop.across * MM,
        -drop.near * MM,
        radius * 0.7 - sunk,
        radius * (1 + 60 * since),
        radius * max(0.3, 1 - 250 * since),
    )


def _stage_crown(scene: Scene, splash: Splash, what: Happening, now: float) -> None:
    cavity = splash.cavity
    since = now - cavity.opened
    lasts = 0.62 * (cavity.closed - cavity.opened) * 0.8
    if not splash.crowned or not 0 < since < lasts:
        return
    share = since / lasts
    lift = math.sin(math.pi * share**0.62)
    height = 10.5 * lift * (splash.drop.impact_speed / 2.6) ** 1.2
    radius = float(cavity.track(now)[0]) * MM * 1.02
    phase = what.luck.phase
    scene.crown = Crown(radius, max(height, 0.3), 2.6 * share**0.5 * lift + 0.4, 0.42 - 0.14 * share, 17, phase)
    rng = np.random.default_rng(int(phase * 1e6))
    for _ in range(9 if share > 0.25 else 3):
        angle, size = rng.uniform(0, 2 * math.pi), rng.uniform(0.25, 0.6)
        out = radius + rng.uniform(1.5, 4.5) * share + 2.0 * lift
        up = height * rng.uniform(1.0, 1.5) + rng.uniform(0, 3)
        scene.blobs.append(Blob(out * math.cos(angle), out * math.sin(angle), up, size, size, 0.3))


def _stage_jet(scene: Scene, splash: Splash, now: float) -> None:
    jet = splash.jet
    if jet is None or now < jet.risen:
        return
    radius = jet.radius * MM
    wide = splash.cavity.widest * MM
    met = splash.umbrellas[0].met if splash.umbrellas else math.inf
    if now < min(met, jet.sunk):
        tip = float(jet.track(now)[0]) * MM
        age = now - jet.risen
        base = min(0.30 * wide + 0.06 * tip, 0.62 * wide) * min(1.0, 0.35 + age / 0.03)
        waist = min(0.34, max(0.0, (age - 0.012) / 0.09))
        scene.column = Column(max(tip, 0.4), base, radius, waist, radius * 1.28 * min(1.0, age / 0.01), tip)
        if age > 0.045:
            # The bead has let go and flies on a little faster than the thread below it.
            lead = min((age - 0.045) * 0.10 * MM, 5.0)
            scene.column.bead_height = tip + lead
            if lead > 2.2:
                scene.blobs.append(Blob(0.0, 0.0, tip + lead, radius * 1.3, radius * 1.25, 0.35))
                scene.column.bead_radius, scene.column.bead_height = radius * 1.1, tip
    elif met < math.inf:
        _stage_stump(scene, splash, now, radius, wide)
    elif now < jet.sunk + 0.06:
        swell = math.exp(-(now - jet.sunk) / 0.02)
        scene.column = Column(2.5 * swell, 0.6 * wide, 0.45 * wide, 0.0, 0.0, 0.0)


def _stage_stump(scene: Scene, splash: Splash, now: float, radius: float, wide: float) -> None:
    """The column that a drop has stopped sinks back under its own weight and the drop's push."""
    umbrella = [u for u in splash.umbrellas if u.met <= now][-1]
    since = now - splash.umbrellas[0].met
    height = umbrella.column(now)[0] * MM
    if height > 0.5:
        base = min(0.34 * wide + 0.08 * height, 0.66 * wide)
        scene.column = Column(height, base, radius * min(1.05 + 12 * since, 1.6), min(0.2, since * 12), 0.0, 0.0)


def _stage_umbrella(scene: Scene, umbrella: Umbrella, what: Happening, now: float, axis: Axis) -> None:
    if now < umbrella.met:
        return
    x = (umbrella.across - axis[0]) * MM
    if now >= umbrella.gone:
        _stage_debris(scene, umbrella, what, now)
        return
    radius, spreading, height, _ = (float(v) for v in umbrella.track(now))
    drop = umbrella.diameter * MM
    wide = radius * MM
    open_share = wide / (umbrella.peak * MM)
    age = (now - umbrella.met) / (umbrella.gone - umbrella.met)
    closing = spreading < 0
    # Volume is kept: what the drop holds is spread over the disc, save what has gathered in the rim.
    thickness = max(0.10, drop**3 / (12 * wide**2) * 0.45)
    rim = min(0.9, 0.34 + 0.09 * drop * (1 - 0.6 * open_share))
    droop = wide * (0.16 + 0.75 * age)
    fingers = 0.24 * wide * max(0.0, open_share - 0.55) + (0.25 * wide * age if closing else 0.0)
    holes = max(0.0, age - 0.5) * 2.0 if closing else 0.0
    scene.sheets.append(
        Sheet(height * MM, wide, droop, thickness, rim, 19, fingers, min(holes, 0.9), what.luck.phase, x)
    )
    cap = max(0.25, drop / 2 * (1 - 1.6 * open_share))
    scene.blobs.append(Blob(x, 0.0, height * MM + 0.3 * cap, drop * 0.42, cap))
    if closing and age > 0.45:
        _scatter(scene, umbrella, what, wide * 1.25, height * MM - droop * 0.7, 6 + int(14 * age))


def _stage_debris(scene: Scene, umbrella: Umbrella, what: Happening, now: float) -> None:
    since = now - umbrella.gone
    height = float(umbrella.track(umbrella.gone)[2]) * MM
    fallen = (0.9 * since + 4.9 * since**2) * MM
    _scatter(scene, umbrella, what, umbrella.peak * MM * (1.05 + 8 * since), height - fallen, 18)


def _scatter(scene: Scene, umbrella: Umbrella, what: Happening, radius: float, height: float, count: int) -> None:
    rng = np.random.default_rng(int(what.luck.phase * 1e6) + int(umbrella.met * 1e5))
    for _ in range(count):
        angle, size = rng.uniform(0, 2 * math.pi), rng.uniform(0.28, 0.75)
        out, up = radius * rng.uniform(0.85, 1.2), height + rng.normal(0, 2.0)
        if up > size:
            scene.blobs.append(Blob(out * math.cos(angle), out * math.sin(angle), up, size, size, 0.8))


def _stage_bubbles(scene: Scene, what: Happening) -> None:
    """Half-spheres of foam that float near the rim of the splash."""
    rng = np.random.default_rng(int(what.luck.phase * 1e7))
    for _ in range(5):
        angle, size = rng.uniform(0, 2 * math.pi), rng.uniform(0.6, 1.6)
        out = rng.uniform(13, 20)
        scene.blobs.append(Blob(out * math.cos(angle), out * math.sin(angle), 0.0, size, size, 0.0))
