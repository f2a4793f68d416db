"""What a change of the table makes of what was learned: some of it is gone, some holds less well, the rest stays."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ondine.core.belief.priors import Belief
from ondine.core.coach.posterior import Posterior, start_from
from ondine.core.coach.unknowns import Unknowns, evenly_drawn
from ondine.core.setup import Setup
from ondine.core.setup.fields import put, read

SPLASH = (
    "energy_share",
    "crown_time_factor",
    "jet_delay_factor",
    "jet_speed_factor",
    "jet_slowing_factor",
    "bead_time_factor",
)
SHEET = (
    "tip_mass_share", "sheet_time_factor", "sheet_peak_share", "sheet_width_factor", "column_stands_s",
    "column_sinks_m_s",
)  # fmt: skip
BY_PHASE = ("energy_share", "jet_speed_factor", "jet_delay_factor")
"""What hangs on how round the drop is as it hits: it swings on its way, and 10 mm of nozzle are a tenth of a swing."""


HOLDS = 0.9
"""What holds less well after a change keeps so much of its correlation with what was known. An estimate."""


@dataclass(frozen=True)
class Correction:
    """A field of the set-up that was entered wrongly and is put right: nothing on the table has moved."""

    path: str
    before: float
    after: float


@dataclass(frozen=True)
class Effect:
    """What one kind of change does: numbers of which everything is to be learned anew, and such that hold less well.

    `says` : the same in words, none where nothing is lost.
    """

    says: str
    anew: tuple[str, ...]
    looser: tuple[str, ...] = ()


def effects(before: Setup, after: Setup) -> list[Effect]:
    """Return what a change of the table makes of what was learned of it; nothing where no drop feels it."""
    one, other = before.valves[0], after.valves[0]
    found = []
    if one.nozzle_height_m != other.nozzle_height_m:
        found.append(
            Effect("new nozzle height: the fall is learned anew, the flow is kept", ("height_error_m",), BY_PHASE)
        )
    if (one.orifice_diameter_m, one.outlet_diameter_m) != (other.orifice_diameter_m, other.outlet_diameter_m):
        anew = ("lag_s", "outlet_factor", "momentum_factor", "flow_factor", "merge_ratio", "jitter_s")
        found.append(Effect("another nozzle: valve and flow are learned anew, the splash is kept", anew))
    elif (one.flow_m3_s, one.flow_sd_m3_s, one.dead_time_s) != (other.flow_m3_s, other.flow_sd_m3_s, other.dead_time_s):
        found.append(Effect("new flow: sizes are learned anew, the fall is kept", ("flow_factor",)))
    elif one.head_m != other.head_m:
        found.append(Effect("another head: flow and start hold less well", (), ("flow_factor", "momentum_factor")))
    if (before.mix, one.liquid) != (after.mix, other.liquid):
        looser = ("flow_factor", "momentum_factor", "merge_ratio", *SPLASH, *SHEET)
        found.append(Effect("another liquid: flow and splash hold less well, the valve is kept", (), looser))
    if before.triggers != after.triggers:
        found.append(Effect("other triggers: the lag of the light is learned anew", ("flash_lag_s",), ("jitter_s",)))
    if len(before.valves) != len(after.valves):
        # What the first valve taught holds; but its shots cannot be judged by a table that has not all their valves.
        found.append(Effect("", ()))
    return found


def carried(belief: Posterior, after: Setup, priors: Belief, seed: int) -> Posterior:
    """Return what is still believed after a change of the table, as the beginning of what comes next."""
    unknowns = Unknowns(priors, after)
    found = effects(belief.unknowns.setup, after)
    rng = np.random.default_rng([seed, 31, len(belief.seen)])
    rigs = belief.even(len(belief.points)).copy()
    fresh = evenly_drawn(len(rigs), rigs.shape[1], rng)
    for effect in found:
        for name in effect.looser:
            k = unknowns.names.index(name)
            rigs[:, k] = HOLDS * rigs[:, k] + np.sqrt(1 - HOLDS**2) * fresh[:, k]
        for name in effect.anew:
            rigs[:, unknowns.names.index(name)] = fresh[:, unknowns.names.index(name)]
    return start_from(unknowns, rigs, belief.trust)


def put_right(belief: Posterior, after: Setup, priors: Belief) -> Posterior:
    """Return the same belief of the same rig, told by a set-up of which some numbers were put right."""
    before, unknowns = belief.unknowns.setup, Unknowns(priors, after)
    values = belief.unknowns.values(belief.even(len(belief.points)))
    one, other = before.valves[0], after.valves[0]
    values["height_error_m"] = values["height_error_m"] + one.nozzle_height_m - other.nozzle_height_m
    values["flow_factor"] = values["flow_factor"] * one.flow_m3_s / other.flow_m3_s
    lag_s = after.triggers.shutter_lag_s - before.triggers.shutter_lag_s
    values["flash_lag_s"] = values["flash_lag_s"] - lag_s
    return start_from(unknowns, unknowns.coordinates(values), belief.trust)


def is_put_right(before: Setup, after: Setup, corrections: frozenset[Correction]) -> bool:
    """Whether all that drops or light feel of a change was a number put right."""
    if not corrections or not effects(before, after):
        return False
    for path in {one.path for one in corrections}:
        now = read(after, path)
        if now in _led_to(read(before, path), [one for one in corrections if one.path == path]):
            before = put(before, path, now)
    return not effects(before, after)


def _led_to(value: object, steps: list[Correction]) -> set[object]:
    """Return the values that a number was put right to, in one step or in several."""
    found = {value}
    while more := {one.after for one in steps if one.before in found} - found:
        found |= more
    return found
