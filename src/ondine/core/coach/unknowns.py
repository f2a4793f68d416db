"""The numbers that shots can teach, as coordinates in which each is believed normally before the first shot."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ondine.core.belief.learned import SIGNED, Learned
from ondine.core.belief.priors import Belief, Prior
from ondine.core.belief.rigs import LUCKY_VALVES, Rigs, luckless, relative_spread, spread
from ondine.core.setup import Setup

Floats = NDArray[np.float64]

LEAST_JITTER_S = 1.3e-3
"""What is entered as the valve's jitter is a nameplate's: water lets go less evenly. Common practice, no published
source.
"""

JITTER_SHARE = 0.6
"""How badly that is known, in its logarithm."""

LEAST_FLOW_SPREAD = 0.01
"""Better than this no flow is known from one day to the next."""

_LAG_KNOTS = np.array(
    [(-4.0, -0.3), (-3.0, -0.12), (-1.6, -8e-3), (-1.2, -1e-3), (-0.3, 1e-3), (-0.2, 4e-3), (0.3, 0.04), (0.8, 0.08),
     (1.5, 0.122), (3.0, 0.25), (4.0, 0.4)]
).T  # fmt: skip
"""A lag of the light that nobody entered [s], over standard-normal coordinates: none for one table in four, up to
120 ms for most others, and seldom an entered lag that is too long. Common practice, no published source.
"""

KNOWN_LAG_SHARE = 0.02
"""Where the valve's lag was measured, so little of that is left in doubt: a millisecond or two."""


@dataclass(frozen=True)
class Unknowns:
    """What is unknown of the rig on one table, and how coordinates of shape (n, d) become rigs.

    Each coordinate is standard-normal before the first shot. `belief` : where the priors come from.
    """

    belief: Belief
    setup: Setup

    @property
    def names(self) -> tuple[str, ...]:
        """The numbers in the order of their coordinates."""
        return (*self.belief.priors, "flash_lag_s", "jitter_s")

    @property
    def priors(self) -> dict[str, Prior]:
        """What is believed of each number before the first shot: a flow that was weighed is known as well as that."""
        valve = self.setup.valves[0]
        if valve.flow_sd_m3_s <= 0:
            return self.belief.priors
        weighed = Prior(1.0, max(valve.flow_sd_m3_s / valve.flow_m3_s, LEAST_FLOW_SPREAD))
        return self.belief.priors | {"flow_factor": weighed}

    def values(self, coordinates: Floats) -> dict[str, Floats]:
        """Return the numbers of rigs by name in SI, each of shape (n,); coordinates : shape (n, d)."""
        columns = iter(coordinates.T)
        found = {name: spread(name, prior, next(columns)) for name, prior in self.priors.items()}
        found["flash_lag_s"] = np.interp(next(columns), *_LAG_KNOTS) * (KNOWN_LAG_SHARE if self.lag_is_known else 1)
        found["jitter_s"] = self._jitter.mean * np.exp(JITTER_SHARE * np.clip(next(columns), -4, 4))
        return found

    def coordinates(self, values: dict[str, Floats]) -> Floats:
        """Return the coordinates, shape (n, d), of rigs whose numbers are given: the inverse of `values`, but for what
        no rig can have.
        """
        columns = []
        for name, prior in self.priors.items():
            if name in SIGNED or prior.mean <= 0:
                columns.append((values[name] - prior.mean) / prior.sd if prior.sd else 0 * values[name])
            else:
                share = relative_spread(prior)
                columns.append(np.log(values[name] / prior.mean) / share if share else 0 * values[name])
        lag = values["flash_lag_s"] / (KNOWN_LAG_SHARE if self.lag_is_known else 1)
        columns.append(np.interp(lag, _LAG_KNOTS[1], _LAG_KNOTS[0]))
        columns.append(np.log(values["jitter_s"] / self._jitter.mean) / JITTER_SHARE)
        return np.stack(columns, axis=1)

    def rigs(self, coordinates: Floats) -> Rigs:
        """Return rigs without luck; further valves are as far off their flow as the first one."""
        values = self.values(coordinates)
        return luckless(values, np.broadcast_to(values["flow_factor"], (LUCKY_VALVES, len(coordinates))))

    @property
    def lag_is_known(self) -> bool:
        """Whether somebody has measured when the drops let go: then the light was measured against them."""
        return self.belief.lag_s.sd < Belief().lag_s.sd / 2

    @property
    def _jitter(self) -> Prior:
        return Prior(max(self.setup.triggers.valve_jitter_s, LEAST_JITTER_S), JITTER_SHARE)

    def learned(self, coordinates: Floats) -> Learned:
        """Pack rigs, the most typical one first: that which lies nearest to the middle of all."""
        centre = coordinates.mean(axis=0)
        scale = np.maximum(coordinates.std(axis=0), 1e-9)
        first = int(np.argmin((((coordinates - centre) / scale) ** 2).sum(axis=1)))
        order = [first, *(i for i in range(len(coordinates)) if i != first)]
        return Learned.of(self.values(coordinates[order]))


def systematic(weights: Floats, count: int, shift: float) -> NDArray[np.intp]:
    """Choose `count` of n by weights that sum to one, evenly: systematic resampling (Kitagawa 1996); shift : 0 to 1."""
    places = (np.arange(count) + shift) / count
    return np.asarray(np.minimum(np.searchsorted(np.cumsum(weights), places), len(weights) - 1))


def evenly_drawn(count: int, dimensions: int, rng: np.random.Generator) -> Floats:
    """Draw standard-normal coordinates of shape (count, dimensions), evenly spread: a Latin hypercube (McKay, Beckman &
    Conover 1979).
    """
    strata = rng.permuted(np.tile(np.arange(count), (dimensions, 1)), axis=1).T
    shares = (strata + rng.random(strata.shape)) / count
    return _quantiles(shares)


_GRID = np.linspace(-5, 5, 2001)
_CUMULATIVE = np.array([0.5 * math.erfc(-x / math.sqrt(2)) for x in _GRID])


def _quantiles(shares: Floats) -> Floats:
    """Standard-normal quantiles, read off a fine table of the distribution function."""
    return np.asarray(np.interp(shares, _CUMULATIVE, _GRID))
