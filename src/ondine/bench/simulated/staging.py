"""From a happening to the scene that stands before the camera at one instant."""

from __future__ import annotations

import math

import numpy as np

from ondine.bench.simulated.falls import FallingDrop, same_spot
from ondine.bench.simulated.splashes import Splash, Umbrella
from ondine.bench.simulated.world import Happening
from ondine.picture.scene import Blob, Column, Crown, Fingers, Scene, Sheet, Spot

MM = 1e3
BUBBLES = 4
SPREADS = 0.35
"""Speed at which rings of ripples widen [m/s]."""


def scene_at(what: Happening, time_s: float) -> Scene:
    """Stage what can be seen at a time of the firing [s]."""
    scene = Scene()
    _stage_drops(scene, what, time_s)
    for splash in _standing(what, time_s):
        spot = scene.spot(splash.drop.across * MM, -splash.drop.near * MM)
        spot.ink = splash.drop.fluid.ink
        _stage_pool(scene, spot, splash, time_s)
        _stage_crown(scene, spot, splash, what, time_s)
        _stage_jet(scene, spot, splash, time_s)
        for umbrella in splash.umbrellas:
            _stage_umbrella(scene, spot, umbrella, what, time_s)
        if what.luck.bubbles:
            _stage_bubbles(scene, spot, what)
    return scene


def _standing(what: Happening, now: float) -> list[Splash]:
    """The splashes that stand: on each spot the last that has begun there."""
    found: list[Splash] = []
    for splash in reversed(what.splashes):
        if splash.cavity.opened < now and not any(same_spot(splash.drop, later.drop) for later in found):
            found.append(splash)
    return found


def _stage_drops(scene: Scene, what: Happening, now: float) -> None:
    for drop in (*what.drops, *what.joined):
        if drop.flies(now):
            swing, radius = drop.swing(now), drop.diameter / 2 * MM
            across, upright = radius * (1 + swing), radius * (1 - 2 * swing)
            place = drop.across * MM, -drop.near * MM, drop.height(now) * MM
            scene.blobs.append(Blob(*place, across, upright, ink=drop.fluid.ink))


def _stage_pool(scene: Scene, spot: Spot, splash: Splash, now: float) -> None:
    cavity, drop = splash.cavity, splash.drop
    since = now - cavity.opened
    if since < 0.0025 and not splash.in_crater:
        scene.blobs.append(_entering(drop, since))
    if now < cavity.closed:
        radius = float(cavity.track(now)[0]) * MM
        spot.pool.crater_radius = radius
        deep = 1.0 if splash.in_crater else min(1.0, since / 0.004)
        spot.pool.crater_depth = radius * deep * 0.95
        return
    spread = now - cavity.closed
    spot.pool.ripple_height = 0.13 * math.exp(-spread / 0.12)
    spot.pool.ripple_length = 9.0
    spot.pool.ripple_front = 9.0 + SPREADS * spread * MM
    spot.pool.ripple_width = 9.0 + 0.12 * spread * MM


def _entering(drop: FallingDrop, since: float) -> Blob:
    radius = drop.diameter / 2 * MM
    sunk = drop.impact_speed * since * MM * 0.6
    return Blob(
        drop.across * MM,
        -drop.near * MM,
        radius * 0.7 - sunk,
        radius * (1 + 60 * since),
        radius * max(0.3, 1 - 250 * since),
        ink=drop.fluid.ink,
    )


def _stage_crown(scene: Scene, spot: Spot, splash: Splash, what: Happening, now: float) -> None:
    cavity = splash.cavity
    since = now - cavity.opened
    lasts = 0.62 * (cavity.closed - cavity.opened) * 0.8
    if not splash.crowned or not 0 < since < lasts:
        return
    share = since / lasts
    lift = math.sin(math.pi * share**0.62)
    height = max(8.5 * lift * (splash.drop.impact_speed / 2.6) ** 1.2, 0.3)
    radius = float(cavity.track(now)[0]) * MM * 1.02
    fingers = Fingers(16, 0.62 * height * share**0.4, 0.46 - 0.12 * share, 0.1 + 0.7 * share, what.luck.phase)
    spot.crown = Crown(radius, height, 3.4 * share**0.5 * lift + 0.4, 0.34 - 0.14 * share, 0.5 - 0.1 * share, fingers)
    rng = np.random.default_rng(int(what.luck.phase * 1e6))
    for _ in range(7 if share > 0.25 else 2):
        angle, size = rng.uniform(0, 2 * math.pi), rng.uniform(0.25, 0.6)
        out = radius + rng.uniform(1.5, 4.5) * share + 2.0 * lift
        up = height * rng.uniform(1.3, 2.0) + rng.uniform(0, 3)
        place = spot.x + out * math.cos(angle), spot.y + out * math.sin(angle), up
        scene.blobs.append(Blob(*place, size, size, 0.3, spot.ink))


def _stage_jet(scene: Scene, spot: Spot, splash: Splash, now: float) -> None:
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
        spot.column = Column(max(tip, 0.4), base, radius, waist, radius * (1.0 + 0.35 * waist / 0.34), tip)
        if now > jet.beaded:
            # The bead has let go and flies on a little faster than the thread below it.
            lead = min((now - jet.beaded) * 0.10 * MM, 5.0)
            spot.column.bead_height = tip + lead
            if lead > 2.2:
                scene.blobs.append(Blob(spot.x, spot.y, tip + lead, radius * 1.3, radius * 1.25, 0.35, spot.ink))
                spot.column.bead_radius, spot.column.bead_height = radius * 1.1, tip
    elif met < math.inf:
        _stage_stump(spot, splash, now, radius, wide)
    elif now < jet.sunk + 0.06:
        swell = math.exp(-(now - jet.sunk) / 0.02)
        spot.column = Column(2.5 * swell, 0.6 * wide, 0.45 * wide, 0.0, 0.0, 0.0)


def _stage_stump(spot: Spot, splash: Splash, now: float, radius: float, wide: float) -> None:
    """The column that a drop has stopped sinks back under its own weight and the drop's push."""
    umbrella = [u for u in splash.umbrellas if u.met <= now][-1]
    since = now - splash.umbrellas[0].met
    height = umbrella.column(now)[0] * MM
    if height > 0.5:
        base = min(0.34 * wide + 0.08 * height, 0.66 * wide)
        spot.column = Column(height - 1.25 * radius, base, radius * min(1.0 + 6 * since, 1.15))


def _stage_umbrella(scene: Scene, spot: Spot, umbrella: Umbrella, what: Happening, now: float) -> None:
    if now < umbrella.met:
        return
    x = umbrella.across * MM
    if now >= umbrella.gone:
        _stage_debris(scene, spot, umbrella, what, now)
        return
    radius, spreading, height, _ = (float(v) for v in umbrella.track(now))
    drop = umbrella.diameter * MM
    wide = radius * MM
    open_share = wide / (umbrella.peak * MM)
    age = (now - umbrella.met) / (umbrella.gone - umbrella.met)
    closing = spreading < 0
    # Volume is kept: what the drop holds is spread over the disc, save what has gathered in the rim.
    thickness = min(max(0.09, drop**3 / (12 * wide**2) * 0.45), 0.3 * drop)
    rim = min(0.75, 0.22 + 0.08 * drop * (1 - 0.6 * open_share))
    droop = wide * (0.16 + 0.75 * age)
    length = 0.22 * wide * max(0.0, open_share - 0.55) + (0.25 * wide * age if closing else 0.0)
    fingers = Fingers(19, length, 0.55 * rim, age * age if closing else 0.0, what.luck.phase)
    holes = min(max(0.0, age - 0.5) * 2.0, 0.9) if closing else 0.0
    cap = max(0.0, 0.4 * drop * (1 - 1.3 * open_share))
    scene.sheets.append(Sheet(height * MM, wide, droop, thickness, rim, cap, fingers, holes, x, spot.y, umbrella.ink))
    if closing and age > 0.45:
        _scatter(scene, spot, umbrella, what, wide * 1.25, height * MM - droop * 0.7, 6 + int(14 * age))


def _stage_debris(scene: Scene, spot: Spot, umbrella: Umbrella, what: Happening, now: float) -> None:
    since = now - umbrella.gone
    height = float(umbrella.track(umbrella.gone)[2]) * MM
    fallen = (0.9 * since + 4.9 * since**2) * MM
    _scatter(scene, spot, umbrella, what, umbrella.peak * MM * (1.05 + 8 * since), height - fallen, 18)


def _scatter(
    scene: Scene, spot: Spot, umbrella: Umbrella, what: Happening, radius: float, height: float, count: int
) -> None:
    rng = np.random.default_rng(int(what.luck.phase * 1e6) + int(umbrella.met * 1e5))
    for _ in range(count):
        angle, size = rng.uniform(0, 2 * math.pi), rng.uniform(0.28, 0.75)
        out, up = radius * rng.uniform(0.85, 1.2), height + rng.normal(0, 2.0)
        if up > size:
            place = umbrella.across * MM + out * math.cos(angle), spot.y + out * math.sin(angle), up
            scene.blobs.append(Blob(*place, size, size, 0.8, umbrella.ink))


def _stage_bubbles(scene: Scene, spot: Spot, what: Happening) -> None:
    """Thin domes that float near the rim of the splash."""
    rng = np.random.default_rng(int(what.luck.phase * 1e7))
    for _ in range(BUBBLES):
        angle, size = rng.uniform(0, 2 * math.pi), rng.uniform(0.8, 2.0)
        out = rng.uniform(13, 20)
        place = spot.x + out * math.cos(angle), spot.y + out * math.sin(angle)
        scene.sheets.append(Sheet(0.8 * size, size, 0.75 * size, 0.04, 0.12, x=place[0], y=place[1], ink=spot.ink))
