"""How ready each stage of the work is, 0 to 1: what fills the drops along the edge."""

from __future__ import annotations

import math

from ondine.core.batch import cautions_of
from ondine.core.dials import DialError, dials
from ondine.core.focus import STEPS
from ondine.core.light.ambient import NO_GHOST_STOPS
from ondine.core.light.colour import palette
from ondine.core.reservoir import flowing_s, shots_until_refill
from ondine.core.safety import wet_work
from ondine.ui.table.desk import Scene, Shelf


def readiness(scene: Scene, shelf: Shelf) -> dict[str, float]:
    """Return how ready each stage is, by its key."""
    setup = scene.setup
    items = wet_work(setup.method)
    return {
        "safe": sum(item in scene.looked_after for item in items) / len(items),
        "rig": 0.6 if scene.results.warnings else 1.0,
        "valve": _valve(scene),
        "liquid": 0.6 if any("gum" in says for says in cautions_of(setup.mix)) else 1.0,
        "frame": sum(scene.focus.voided(setup).done) / len(STEPS),
        "flash": _flash(scene),
        "freeze": _freeze(scene),
        "expose": _expose(scene),
        "colour": 0.6 if palette(setup).alike else 1.0,
        "trigger": 0.3 if scene.prediction.latency.problem else 1.0,
        "dials": _dials(scene),
        "keep": 1.0 if any(kept.setup == setup for kept in shelf.setups) else 0.5,
    }


def shots_left(scene: Scene) -> int:
    """How many shots like the one in hand the reservoir is good for."""
    rig = scene.setup.rig
    return shots_until_refill(rig, flowing_s(rig, scene.sequence), scene.ledger.open_s)


def _valve(scene: Scene) -> float:
    weighed = 1.0 if scene.setup.rig.flow_sd_m3_s > 0 else 0.4
    return weighed if shots_left(scene) > 0 else min(weighed, 0.5)


def _flash(scene: Scene) -> float:
    """Whole when the manual's durations of the key unit are known and its mode spoils nothing."""
    key = scene.setup.light.key
    if key.high_speed_sync or key.automatic:
        return 0.2
    return 1.0 if key.durations else 0.5


def _freeze(scene: Scene) -> float:
    worst = max((px for _, px in scene.prediction.blurs), default=0.0)
    return 1.0 if worst <= scene.setup.light.blur_target_px else 0.4


def _expose(scene: Scene) -> float:
    """Half for a right splash, half for a room that is dark enough."""
    room = scene.light.room_stops(scene.setup)
    dark = 0.5 if room is not None and room <= NO_GHOST_STOPS else 0.0
    if not scene.light.subject:
        return dark
    off = abs(math.log2(scene.light.right_iso(scene.setup) / scene.setup.camera.iso))
    return dark + (0.5 if scene.light.anchor is not None and off <= 0.4 else 0.2)


def _dials(scene: Scene) -> float:
    if not scene.setup.box.in_use:
        return 1.0
    try:
        dials(scene.sequence, scene.setup.box)
    except DialError:
        return 0.2
    return 1.0
