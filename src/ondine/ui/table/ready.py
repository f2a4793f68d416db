"""How ready each stage of the work is, 0 to 1: what fills the drops along the edge."""

from __future__ import annotations

import math

from ondine.core.light.ambient import NO_GHOST_STOPS
from ondine.core.light.colour import palette
from ondine.core.table.focus import STEPS
from ondine.core.table.mixing import cautions_of
from ondine.core.table.reservoir import flowing_s, shots_until_refill
from ondine.core.table.safety import wet_work
from ondine.core.timing.dials import DialError, dials
from ondine.ui.table.library import Library
from ondine.ui.table.state import TableState


def readiness(table: TableState, library: Library) -> dict[str, float]:
    """Return how ready each stage is, by its key."""
    setup = table.setup
    items = wet_work(setup.method)
    return {
        "safe": sum(item in table.checked for item in items) / len(items),
        "rig": 0.6 if table.results.warnings else 1.0,
        "valve": _valve(table),
        "liquid": 0.6 if any("gum" in says for says in cautions_of(setup.mix)) else 1.0,
        "frame": sum(table.focus.voided(setup).done) / len(STEPS),
        "flash": _flash(table),
        "freeze": _freeze(table),
        "expose": _expose(table),
        "colour": 0.6 if palette(setup, table.times).alike else 1.0,
        "trigger": 0.3 if table.prediction.latency.problem else 1.0,
        "dials": _dials(table),
        "keep": 1.0 if any(kept.setup == setup for kept in library.setups) else 0.5,
    }


def shots_left(table: TableState, number: int) -> int:
    """How many shots like the one in hand the reservoir of a valve is good for."""
    setup = table.setup
    open_s = flowing_s(setup, number, table.sequence)
    return shots_until_refill(setup.valve(number), open_s, table.ledger.open_s(number))


def _valve(table: TableState) -> float:
    weighed = min(1.0 if valve.flow_sd_m3_s > 0 else 0.4 for valve in table.setup.valves)
    left = min(shots_left(table, number) for number in range(len(table.setup.valves)))
    return weighed if left > 0 else min(weighed, 0.5)


def _flash(table: TableState) -> float:
    """Whole when the manual's durations of the key unit are known and its mode spoils nothing."""
    key = table.setup.light.key
    if key.high_speed_sync or key.automatic:
        return 0.2
    return 1.0 if key.durations else 0.5


def _freeze(table: TableState) -> float:
    worst = max((px for at in table.prediction.flashes for _, px in at.blurs), default=0.0)
    return 1.0 if worst <= table.setup.light.blur_target_px else 0.4


def _expose(table: TableState) -> float:
    """Half for a right splash, half for a room that is dark enough."""
    room = table.light.room_stops(table.setup)
    dark = 0.5 if room is not None and room <= NO_GHOST_STOPS else 0.0
    if not table.light.subject:
        return dark
    off = abs(math.log2(table.right_iso / table.setup.camera.iso))
    return dark + (0.5 if table.light.anchor is not None and off <= 0.4 else 0.2)


def _dials(table: TableState) -> float:
    if not table.setup.box.in_use:
        return 1.0
    try:
        dials(table.sequence, table.setup.box)
    except DialError:
        return 0.2
    return 1.0
