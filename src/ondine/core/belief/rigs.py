"""Rigs drawn from what is believed: the uncertainty of every forecast comes from evaluating them all."""

from __future__ import annotations

from dataclasses import dataclass, fields
from functools import lru_cache
from statistics import NormalDist

import numpy as np
from numpy.typing import NDArray

from ondine.core.belief.priors import Belief

Floats = NDArray[np.float64]

DEFAULT_COUNT = 256

# A normal prior has tails that no rig has: a drop that starts upwards, a crater with more energy than the drop.
_BOUNDS = {
    "lag_s": (0.0, np.inf),
    "release_share": (0.0, 2.0),
    "start_speed_m_s": (0.02, np.inf),
    "flow_factor": (0.3, np.inf),
    "energy_share": (0.05, 1.0),
    "jet_delay_factor": (1.0, np.inf),
    "jet_speed_factor": (0.3, np.inf),
    "tip_mass_share": (0.05, 5.0),
}


@dataclass(frozen=True)
class Rigs:
    """Sampled rigs: each field of `Belief` as an array of shape (n,), and `merge_luck` uniform in [0, 1).

    The first rig is the mean of the belief: charts draw it as the middle.
    """

    lag_s: Floats
    release_share: Floats
    start_speed_m_s: Floats
    flow_factor: Floats
    height_error_m: Floats
    energy_share: Floats
    jet_delay_factor: Floats
    jet_speed_factor: Floats
    tip_mass_share: Floats
    merge_luck: Floats

    @property
    def count(self) -> int:
        """How many rigs."""
        return len(self.lag_s)


@lru_cache(maxsize=8)
def _draws(count: int, seed: int, columns: int) -> tuple[Floats, Floats]:
    """Standard-normal draws, shape (columns, count), and uniform luck, shape (count,).

    Evenly spread rather than random: a Latin hypercube (McKay, Beckman & Conover 1979) in antithetic pairs, so that
    each number's own mean and spread are met by a few hundred draws.
    """
    rng = np.random.default_rng(seed)
    strata = max((count + 1) // 2, columns + 1)
    half = (rng.permuted(np.tile(np.arange(strata), (columns, 1)), axis=1) + 0.5) / strata
    quantile = np.vectorize(NormalDist().inv_cdf, otypes=[np.float64])(half)
    # Chance leaves correlations of a tenth between the columns; this takes them out.
    quantile = np.linalg.solve(np.linalg.cholesky(quantile @ quantile.T / strata), quantile)
    normal: Floats = np.concatenate([quantile, -quantile], axis=1)[:, :count]
    normal[:, 0] = 0.0
    luck: Floats = np.asarray((np.arange(count) * 0.6180339887498949 + 0.5) % 1.0, dtype=np.float64)
    return normal, luck


@lru_cache(maxsize=8)
def sample_rigs(belief: Belief, count: int = DEFAULT_COUNT, seed: int = 1) -> Rigs:
    """Draw `count` rigs from a belief, the same ones for the same seed; kept, so do not write into them.

    Sampling rather than linearisation: whether two drops meet at all is a yes-or-no question that has no
    derivative. The draws do not depend on the sequence, so that curves move smoothly while it is dragged.
    """
    names = [f.name for f in fields(belief)]
    normal, luck = _draws(count, seed, len(names))
    drawn = {}
    for name, row in zip(names, normal, strict=True):
        prior = getattr(belief, name)
        low, high = _BOUNDS.get(name, (-np.inf, np.inf))
        drawn[name] = np.clip(prior.mean + prior.sd * row, low, high)
    return Rigs(**drawn, merge_luck=luck)
