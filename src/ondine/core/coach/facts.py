"""What was learned of a rig, in plain words, each with the set-up that takes it up."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ondine.core.coach.changes import Correction
from ondine.core.coach.evidence import log_likelihood
from ondine.core.coach.learning import Knowledge
from ondine.core.coach.unknowns import evenly_drawn
from ondine.core.forecast.whole import forecast
from ondine.core.numbers import plus_minus_ms
from ondine.core.setup import FlashFiredBy, Setup
from ondine.core.setup.fields import put, read
from ondine.core.timing.sequence import Sequence

Floats = NDArray[np.float64]

NARROWED = 0.75
"""What is known to this share of what was believed before, or better, is worth a word."""

OFF_BY = 1.0
"""It is worth a press where the entered value is so many standard deviations off, or more."""

LEAST_HEIGHT_M, LEAST_FLOW_SHARE, LEAST_LAG_S, LEAST_JITTER_S = 2e-3, 0.03, 1.5e-3, 0.3e-3


@dataclass(frozen=True)
class Fact:
    """Something learned: a sentence, and how the set-up takes it up, None where there is nothing to take up."""

    says: str
    correction: Correction | None = None


def facts(known: Knowledge, sequence: Sequence) -> tuple[Fact, ...]:
    """Return what shots have taught of the rig that stands there now, what matters most first."""
    unknowns, belief = known.belief.unknowns, known.belief
    if not any(one.seen.tells for one in known.evidence):
        return ()
    values, weights = unknowns.values(belief.coordinates), belief.weights
    found = [*_landing(known, sequence)]
    for say in (_of_height, _of_flow, _of_lag, _of_jitter):
        found += say(known, values, weights)
    return tuple(found)


def corrected(setup: Setup, correction: Correction) -> Setup:
    """Return a set-up with one field put right."""
    return put(setup, correction.path, correction.after)


def _landing(known: Knowledge, sequence: Sequence) -> list[Fact]:
    unknowns, belief = known.belief.unknowns, known.belief
    first = min(range(len(sequence.drops)), key=lambda k: sequence.drops[k].start_us)
    what = forecast(unknowns.setup, unknowns.belief, sequence, unknowns.rigs(belief.coordinates))
    lands = what.splashes.touchdown_s[first]
    there = np.isfinite(lands)
    middle, spread = _moments(lands[there], belief.weights[there])
    return [Fact(f"Drop {first + 1} lands {plus_minus_ms(middle, spread)} after the trigger.")]


Say = Callable[[Knowledge, dict[str, Floats], Floats], list[Fact]]


def _of_height(known: Knowledge, values: dict[str, Floats], weights: Floats) -> list[Fact]:
    middle, spread = _moments(values["height_error_m"], weights)
    prior = known.belief.unknowns.priors["height_error_m"]
    if not _telling(middle, spread, prior.sd, LEAST_HEIGHT_M):
        return []
    way = "higher" if middle > 0 else "lower"
    says = f"The nozzle is probably {abs(middle) * 1e3:.0f} ± {spread * 1e3:.0f} mm {way} than entered."
    return [Fact(says, _correction(known, "valves.0.nozzle_height_m", lambda h: round(h + middle, 3)))]


def _of_flow(known: Knowledge, values: dict[str, Floats], weights: Floats) -> list[Fact]:
    middle, spread = _moments(np.log(values["flow_factor"]), weights)
    prior = known.belief.unknowns.priors["flow_factor"]
    if not _telling(middle, spread, prior.sd / prior.mean, LEAST_FLOW_SHARE):
        return []
    way = "more" if middle > 0 else "less"
    says = f"The valve lets out about {abs(np.expm1(middle)):.0%} {way} than entered."
    return [Fact(says, _correction(known, "valves.0.flow_m3_s", lambda flow: float(f"{flow * np.exp(middle):.4g}")))]


def _of_lag(known: Knowledge, values: dict[str, Floats], weights: Floats) -> list[Fact]:
    middle, spread = _moments(values["flash_lag_s"], weights)
    if not _telling(middle, spread, 0.05, LEAST_LAG_S):
        return []
    way, other = ("later", "earlier") if middle > 0 else ("earlier", "later")
    late = plus_minus_ms(abs(middle), spread)
    says = f"The light comes {late} {way} than asked for, or the drops let go {other} by as much."
    triggers = known.belief.unknowns.setup.triggers
    if triggers.flash_fired_by is not FlashFiredBy.CAMERA:
        return [Fact(says)]
    return [Fact(says, _correction(known, "triggers.shutter_lag_s", lambda lag: round(max(lag + middle, 0.0), 4)))]


def _of_jitter(known: Knowledge, values: dict[str, Floats], weights: Floats) -> list[Fact]:
    middle, spread = _moments(values["jitter_s"], weights)
    entered = known.belief.unknowns.setup.triggers.valve_jitter_s
    if spread > 0.5 * middle or abs(middle - entered) < max(spread, LEAST_JITTER_S):
        return []
    says = f"From shot to shot the drops vary by {middle * 1e3:.1f} ms, not by {entered * 1e3:.1f} ms as entered."
    return [Fact(says, _correction(known, "triggers.valve_jitter_s", lambda _: round(middle, 4)))]


def _telling(middle: float, spread: float, before: float, least: float) -> bool:
    return spread < NARROWED * before and abs(middle) > max(OFF_BY * spread, least)


def _correction(known: Knowledge, path: str, change: Callable[[float], float]) -> Correction:
    before = float(read(known.belief.unknowns.setup, path))
    return Correction(path, before, change(before))


def _moments(values: Floats, weights: Floats) -> tuple[float, float]:
    share = weights / weights.sum()
    middle = float(share @ values)
    return middle, float(np.sqrt(share @ (values - middle) ** 2))


def taught_most(known: Knowledge, most: int = 4) -> tuple[int, ...]:
    """Return the numbers of the shots that taught most, in their order: those whose tags the rigs of before would have
    shown most seldom.
    """
    belief = known.taught
    telling = [one for one in belief.seen if one.tells]
    if not telling:
        return ()
    points = evenly_drawn(256, len(belief.unknowns.names), np.random.default_rng(0))
    before = belief.unknowns.rigs(belief.frame.out(points))
    expected = np.exp(log_likelihood(telling, belief.unknowns, before)).mean(axis=1)
    return tuple(sorted(telling[i].shot for i in np.argsort(expected, kind="stable")[:most]))
