"""Early or late: where a picture lay on the foreseen course, which delay is at fault, and by how much to move it."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from ondine.core.coach.chances import courses
from ondine.core.coach.evidence import Seen, log_likelihood
from ondine.core.coach.goal import LEAST_GAP_US, Goal
from ondine.core.coach.posterior import Posterior
from ondine.core.constants import US_PER_S
from ondine.core.forecast.phases import INDEX
from ondine.core.forecast.shapes import BY_KEY
from ondine.core.numbers import plus_minus_ms
from ondine.core.timing.sequence import Pulse

Floats = NDArray[np.float64]

LEAST_STANDS = 0.35
"""Where the goal stands on fewer of the rigs than this, no flash will show it: the drops are at fault."""

WELL_STANDS = 0.6
NEARLY_S = 1e-3
"""Nearer than a millisecond is there."""

OTHER_INTERVALS_US = tuple(range(-60_000, 61_000, 5_000))


class Fault(StrEnum):
    """What a picture that missed the goal was missed by."""

    NOTHING = "nothing"
    FLASH = "flash"
    INTERVAL = "interval"
    UNKNOWN = "unknown"


@dataclass(frozen=True)
class Diagnosis:
    """Where a picture lay. `late_s` : how much later than the middle of the goal it was taken, negative if earlier,
    with its standard deviation `spread_s` [s]; `fault` : the delay to move, by `move_us` (positive: longer); `says` :
    the same in words.
    """

    fault: Fault
    late_s: float
    spread_s: float
    move_us: int
    says: str


def diagnose(belief: Posterior, seen: Seen, goal: Goal, step_us: int = 1_000) -> Diagnosis:
    """Judge one picture by what is believed of the rig, its own tag taken into account.

    seen : any shot, of Ondine's or of a box that a hand dialled; it need not be among those that taught the belief.
    """
    wanted = goal.shape or "full-umbrella"
    name = BY_KEY[wanted].name
    if not seen.tells or len(seen.sequence.drops) < goal.drops:
        return Diagnosis(Fault.UNKNOWN, 0.0, 0.0, 0, "This picture says nothing of early or late.")
    if seen.shape == wanted:
        return Diagnosis(Fault.NOTHING, 0.0, 0.0, 0, f"This is it: {name}. Fire it again to see how steady it is.")
    rigs = belief.unknowns.rigs(belief.coordinates)
    # A shot that is known already must not count twice: its own likelihood is as good as in the weights.
    logs = np.log(belief.weights + 1e-300)
    if seen not in belief.seen:
        logs = logs + log_likelihood([seen], belief.unknowns, rigs)[0]
    weights = np.exp(logs - logs.max())
    weights /= weights.sum()
    first, last = courses([seen.sequence.drops], belief.unknowns, rigs).window_s(INDEX[wanted])
    stands = np.isfinite(first[0]) & np.isfinite(last[0])
    if weights[stands].sum() < LEAST_STANDS:
        return _of_interval(belief, seen, wanted, weights)
    late = seen.sequence.first_flash_us / US_PER_S - (first[0][stands] + last[0][stands]) / 2
    share = weights[stands] / weights[stands].sum()
    middle = float(share @ late)
    spread = float(np.sqrt(share @ (late - middle) ** 2))
    if abs(middle) < NEARLY_S:
        says = f"Where {name} should be: the drops vary from shot to shot. Fire the same once more."
        return Diagnosis(Fault.NOTHING, middle, spread, 0, says)
    move = -round(middle * US_PER_S / step_us) * step_us
    word, other = ("late", "earlier") if middle > 0 else ("early", "later")
    says = f"Too {word} by {plus_minus_ms(abs(middle), spread)} for {name}. Flash {abs(move) / 1000:g} ms {other}."
    return Diagnosis(Fault.FLASH, middle, spread, move, says)


def _of_interval(belief: Posterior, seen: Seen, wanted: str, weights: Floats) -> Diagnosis:
    """Find the nearest interval at which the goal stands."""
    name = BY_KEY[wanted].name
    drops = seen.sequence.drops
    if len(drops) < 2:
        return Diagnosis(Fault.UNKNOWN, 0.0, 0.0, 0, f"On this rig {name} is hardly to be had with these drops.")
    last = drops[-1]
    shifts = [us for us in OTHER_INTERVALS_US if last.start_us + us >= drops[-2].end_us + LEAST_GAP_US]
    if not shifts:
        return Diagnosis(Fault.UNKNOWN, 0.0, 0.0, 0, f"On this rig {name} is hardly to be had with these drops.")
    moved = [(*drops[:-1], Pulse(last.start_us + us, last.open_us, last.valve)) for us in shifts]
    few = np.argsort(-weights, kind="stable")[:128]
    rigs = belief.unknowns.rigs(belief.coordinates[few])
    first, until = courses(moved, belief.unknowns, rigs).window_s(INDEX[wanted])
    stands = (np.isfinite(first) & np.isfinite(until)) @ weights[few] / weights[few].sum()
    well = [i for i in range(len(shifts)) if stands[i] >= min(WELL_STANDS, stands.max())]
    best = min(well, key=lambda i: abs(shifts[i]))
    move = shifts[best]
    if not move or stands[best] < LEAST_STANDS:
        return Diagnosis(Fault.UNKNOWN, 0.0, 0.0, 0, f"On this rig {name} is hardly to be had with these drops.")
    word = "longer" if move > 0 else "shorter"
    why = "comes after the jet has sunk" if move < 0 else "comes before the jet"
    says = f"The last drop {why}. Interval {abs(move) / 1000:g} ms {word}, before the flash is moved."
    return Diagnosis(Fault.INTERVAL, 0.0, 0.0, move, says)


def verdict(before: Diagnosis, after: Diagnosis, moved_us: int) -> str:
    """Say whether the advice of a picture was right, judged by the next one; nothing where it was not followed.

    moved_us : by how much the delay that was at fault has been moved since.
    """
    if before.fault is not Fault.FLASH or moved_us == 0 or (moved_us > 0) != (before.move_us > 0):
        return ""
    if after.fault is Fault.NOTHING:
        return "The last advice was right."
    if after.fault is not Fault.FLASH:
        return ""
    if abs(after.late_s) < abs(before.late_s):
        return f"The last advice was right in its direction; {abs(after.late_s) * 1e3:.0f} ms are left."
    return "The last advice was wrong: this picture is farther off than the one before."
