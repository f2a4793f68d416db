"""Rigs drawn from what is believed: the uncertainty of every forecast comes from evaluating them all."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from statistics import NormalDist

import numpy as np
from numpy.typing import NDArray

from ondine.core.belief.learned import MOST, ONLY_LEARNED, SIGNED, Learned
from ondine.core.belief.priors import Belief, Prior
from ondine.core.setup.fields import within_limits

Floats = NDArray[np.float64]

DEFAULT_COUNT = 256
LUCKY_DROPS, LUCKY_VALVES = 8, 3
"""So many drops of a sequence have luck of their own, and so many valves beyond the first a flow of their own."""

# Even the logarithm leaves tails that no rig has: a crater with more energy than the drop, a jet before its crater.
_BOUNDS = {
    "outlet_factor": (0.2, 5.0),
    "momentum_factor": (0.2, 5.0),
    "energy_share": (0.05, 1.0),
    "jet_delay_factor": (1.0, np.inf),
    "jet_slowing_factor": (1.0, np.inf),
    "sheet_peak_share": (0.25, 0.65),
    "column_sinks_m_s": (0.0, 1.0),
}


@dataclass(frozen=True, eq=False)
class Rigs:
    """Sampled rigs: each number of `Belief` as an array of shape (n,), and the luck of one shot on each.

    Luck has the shape (LUCKY_DROPS, n): when a drop lets go, in spreads of the valve's jitter; by what share of its
    volume a drop is larger; how far aside it lands [m]; how far its jet leans aside, as a share of the height; by what
    power of e the jet is faster that it throws out of a crater which was open already.
    `valve_flow_factor`, shape (LUCKY_VALVES, n): the flow factor of each further valve.
    `satellites`, shape (n,): whether bubbles or satellites spoil the shot; `eye`, shape (n,): how strict the eye is
    that judges it, evenly spread from 0 to 1.
    `flash_lag_s` : how much later than it is asked for the light comes, beyond the lags that are entered; `jitter_s` :
    by how much the moment of release varies, where that is more than was entered. Both are zero until shots teach them.
    The first rig has every number in the middle and no luck: charts draw it as the middle.
    """

    lag_s: Floats
    outlet_factor: Floats
    momentum_factor: Floats
    flow_factor: Floats
    height_error_m: Floats
    merge_ratio: Floats
    energy_share: Floats
    crown_time_factor: Floats
    jet_delay_factor: Floats
    jet_speed_factor: Floats
    jet_slowing_factor: Floats
    bead_time_factor: Floats
    tip_mass_share: Floats
    sheet_time_factor: Floats
    sheet_peak_share: Floats
    sheet_width_factor: Floats
    column_stands_s: Floats
    column_sinks_m_s: Floats
    flash_lag_s: Floats
    jitter_s: Floats
    release_luck: Floats
    volume_luck: Floats
    aside_luck: Floats
    lean_luck: Floats
    wild_luck: Floats
    valve_flow_factor: Floats
    satellites: NDArray[np.bool_]
    eye: Floats

    def flow_of(self, valves: list[int]) -> Floats:
        """Flow factors of valves by their numbers, from 0, shape (len(valves), n): each is known for itself."""
        if not any(valves):
            return self.flow_factor[None]
        all_of_them = np.concatenate([self.flow_factor[None], self.valve_flow_factor])
        return np.asarray(all_of_them[np.minimum(valves, LUCKY_VALVES)])

    @property
    def count(self) -> int:
        """How many rigs."""
        return len(self.lag_s)


@lru_cache(maxsize=8)
def _draws(count: int, seed: int, columns: int) -> Floats:
    """Standard-normal draws, shape (columns, count).

    Evenly spread rather than random: a Latin hypercube (McKay, Beckman & Conover 1979) in antithetic pairs, so that
    each number's own middle and spread are met by a few hundred draws.
    """
    rng = np.random.default_rng(seed)
    strata = max((count + 1) // 2, columns + 1)
    middles = np.array([NormalDist().inv_cdf((stratum + 0.5) / strata) for stratum in range(strata)])
    quantile = middles[rng.permuted(np.tile(np.arange(strata), (columns, 1)), axis=1)]
    # Chance leaves correlations of a tenth between the columns; this takes them out.
    quantile = np.linalg.solve(np.linalg.cholesky(quantile @ quantile.T / strata), quantile)
    normal: Floats = np.concatenate([quantile, -quantile], axis=1)[:, :count]
    normal[:, 0] = 0.0
    return normal


@lru_cache(maxsize=8)
def sample_rigs(belief: Belief, count: int = DEFAULT_COUNT, seed: int = 1) -> Rigs:
    """Draw `count` rigs from a belief, the same ones for the same seed; kept, so do not write into them.

    Sampling rather than linearisation: whether two drops meet at all is a yes-or-no question that has no
    derivative. The draws do not depend on the sequence, so that curves move smoothly while it is dragged.
    """
    priors, varies = belief.priors, belief.variation
    columns = len(priors) + 5 * LUCKY_DROPS + LUCKY_VALVES + 2
    rows = iter(_draws(count, seed, columns))
    drawn = {name: spread(name, prior, next(rows)) for name, prior in priors.items()}
    drawn |= {name: np.zeros(count) for name in ONLY_LEARNED}
    if belief.learned is not None:
        drawn |= _some_of(belief.learned, count, drawn)

    def lucky(how_many: int) -> Floats:
        return np.stack([next(rows) for _ in range(how_many)])

    return Rigs(
        **drawn,
        release_luck=lucky(LUCKY_DROPS),
        volume_luck=lucky(LUCKY_DROPS) * varies.volume_share,
        aside_luck=lucky(LUCKY_DROPS) * varies.aside_m,
        lean_luck=lucky(LUCKY_DROPS) * varies.lean,
        wild_luck=lucky(LUCKY_DROPS) * varies.crater_jet_share,
        valve_flow_factor=np.stack([spread("flow_factor", belief.flow_factor, row) for row in lucky(LUCKY_VALVES)]),
        satellites=_ranks(next(rows)) > 1 - varies.satellites_share,
        eye=_ranks(next(rows)),
    )


def _some_of(learned: Learned, count: int, drawn: dict[str, Floats]) -> dict[str, Floats]:
    """Return so many of the rigs that shots have left, the first one first."""
    known = {name: column for name, column in learned.values().items() if name in drawn}
    there = len(next(iter(known.values())))
    # Every rig as often as any other, give or take one.
    chosen = np.arange(count) * there // count
    return {name: column[chosen] for name, column in known.items()}


def luckless(values: Mapping[str, Floats], valve_flow_factor: Floats) -> Rigs:
    """Return rigs of given numbers, each of shape (n,), on which every shot goes as it should.

    valve_flow_factor : of each further valve, shape (LUCKY_VALVES, n).
    """
    count = len(values["lag_s"])
    none = np.broadcast_to(0.0, (LUCKY_DROPS, count))
    return Rigs(
        **values,
        release_luck=none,
        volume_luck=none,
        aside_luck=none,
        lean_luck=none,
        wild_luck=none,
        valve_flow_factor=valve_flow_factor,
        satellites=np.broadcast_to(False, count),
        eye=np.broadcast_to(0.5, count),
    )


def repeated(rigs: Rigs, times: int) -> Rigs:
    """Return the same rigs so many times over, one after the other."""
    return Rigs(**{name: np.tile(values, times) for name, values in vars(rigs).items()})


def _ranks(normal: Floats) -> Floats:
    """Standard-normal draws as evenly spread ones from 0 to 1; the first, which is in the middle, is 0.5."""
    order = np.empty(len(normal))
    order[np.argsort(normal, kind="stable")] = np.arange(len(normal))
    made = (order + 0.5) / len(normal)
    made[0] = 0.5
    return made


def check_belief(belief: Belief) -> None:
    """Raise ValueError for a belief that no rig can be drawn from."""
    within_limits(belief)
    for name, prior in belief.priors.items():
        if name not in SIGNED and not 0 < prior.mean <= MOST:
            raise ValueError(f"{name} cannot be {prior.mean:g}")
        if prior.sd > MOST * abs(prior.mean or 1.0):
            raise ValueError(f"{name} cannot be known as badly as {prior.sd:g}")
    if belief.learned is not None:
        belief.learned.check((*belief.priors, *ONLY_LEARNED))


def spread(name: str, prior: Prior, normal: Floats) -> Floats:
    """Values of one number: normal, or log-normal with the prior's mean as its median and the same relative spread."""
    low, high = bounds(name)
    if name in SIGNED or prior.mean <= 0:
        return np.asarray(np.clip(prior.mean + prior.sd * normal, low, high))
    share = relative_spread(prior)
    return np.asarray(np.clip(prior.mean * np.exp(share * normal), low, high))


def relative_spread(prior: Prior) -> float:
    """Return the standard deviation of a positive number's logarithm."""
    return math.sqrt(math.log1p((prior.sd / prior.mean) ** 2))


def bounds(name: str) -> tuple[float, float]:
    """Return the least and the greatest value that one number of a rig can have."""
    return _BOUNDS.get(name, (-np.inf, np.inf))
