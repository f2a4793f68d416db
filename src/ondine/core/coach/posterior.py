"""What is believed of a rig after some shots: weighted rigs, moved where the evidence is.

Sequential Monte Carlo: rigs are weighed by each shot as it comes; where few would be left with all the weight, they are
drawn anew and moved under all that was seen so far (Chopin 2002, Biometrika 89:539; del Moral, Doucet & Jasra 2006,
J. R. Statist. Soc. B 68:411). The moves are differences of other rigs (ter Braak 2006, Stat. Comput. 16:239) and
autoregressive steps that leave the prior as it is (Neal 1999), in some coordinates at a time. All shots count with a
power that falls with their number (Miller & Dunson 2019, J. Am. Stat. Assoc. 114:1113): no model is right to the last
digit, and what it gets a little wrong is not to be known better and better.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from collections.abc import Sequence as Many
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from ondine.core.coach.evidence import Seen, log_likelihood
from ondine.core.coach.unknowns import Unknowns, evenly_drawn, systematic

Floats = NDArray[np.float64]
LogLikelihood = Callable[[Many[Seen], Floats], Floats]
"""What gives (shots, n) for shots and coordinates of shape (n, d)."""

RIGS = 512
LEAST_SHARE, LEAST_SHARE_LATER = 0.5, 0.3
"""Rigs are moved once the weights leave fewer than this share of them; later, once there are many shots."""

MOVES, MOVES_LATER, MANY_SHOTS = 5, 2, 60
"""So many moves after each drawing; with many shots fewer do, since little changes with each."""

WHOLE_AHEAD = 48
"""At most so many shots are weighed at once."""


@dataclass(frozen=True, order=True)
class Trust:
    """The power with which each shot counts: less than one where no rig fits them all; and however many shots there
    are, together they count as no more than `worth` of them.
    """

    power: float = 1.0
    worth: float = math.inf

    def among(self, shots: int) -> float:
        """Return the power of each shot among so many."""
        return self.power * min(1.0, self.worth / max(shots, 1))


@dataclass(frozen=True, eq=False)
class Frame:
    """Coordinates in which rigs are believed standard-normally before the first shot that counts: those of `Unknowns`
    themselves, or, since the table was changed, such as hold what was learned until then.

    middle : shape (d,); scale : lower triangular, shape (d, d).
    """

    middle: Floats
    scale: Floats

    @classmethod
    def plain(cls, dimensions: int) -> Frame:
        """Return the coordinates of `Unknowns`."""
        return cls(np.zeros(dimensions), np.eye(dimensions))

    @classmethod
    def around(cls, coordinates: Floats) -> Frame:
        """Return the frame in which rigs, coordinates of shape (n, d), have no more middle, spread and correlation."""
        middle = coordinates.mean(axis=0)
        spread = np.cov(coordinates.T) + 1e-6 * np.eye(len(middle))
        return cls(middle, np.asarray(np.linalg.cholesky(spread), dtype=float))

    def out(self, points: Floats) -> Floats:
        """Return the coordinates of `Unknowns` of points in this frame, both of shape (n, d)."""
        return np.asarray(self.middle + points @ self.scale.T)

    def into(self, coordinates: Floats) -> Floats:
        """Return the points in this frame of coordinates of `Unknowns`, both of shape (n, d)."""
        return np.asarray(np.linalg.solve(self.scale, (coordinates - self.middle).T).T)


@dataclass(frozen=True, eq=False)
class Posterior:
    """Rigs as points of shape (n, d) in a frame, with the logarithms of their weights, and what they were taught by.

    `likelihood` of each shot on each rig, shape (shots, n), logarithmic; `trust` : how much shots count.
    """

    unknowns: Unknowns
    frame: Frame
    points: Floats
    log_weights: Floats
    seen: tuple[Seen, ...] = ()
    likelihood: Floats = field(default_factory=lambda: np.empty((0, 0)))
    trust: Trust = Trust()

    @property
    def coordinates(self) -> Floats:
        """Coordinates of the rigs among the unknowns, shape (n, d)."""
        return self.frame.out(self.points)

    @property
    def weights(self) -> Floats:
        """Weights that sum to one, shape (n,)."""
        made = np.exp(self.log_weights - self.log_weights.max())
        return np.asarray(made / made.sum())

    def fits(self) -> Floats:
        """How probable each shot's tag is to those who know all shots, shape (shots,)."""
        return np.asarray(np.exp(self.likelihood) @ self.weights)

    def even(self, count: int) -> Floats:
        """Return coordinates of `count` rigs, each as likely as the others."""
        return np.asarray(self.coordinates[systematic(self.weights, count, 0.5)])


def start(unknowns: Unknowns, seed: int = 1, count: int = RIGS, trust: Trust = Trust()) -> Posterior:
    """Return what is believed before the first shot."""
    rng = np.random.default_rng([seed, 0])
    dimensions = len(unknowns.names)
    points = evenly_drawn(count, dimensions, rng)
    return Posterior(unknowns, Frame.plain(dimensions), points, np.zeros(count), (), np.empty((0, count)), trust)


def start_from(unknowns: Unknowns, coordinates: Floats, trust: Trust = Trust()) -> Posterior:
    """Return a belief that begins with some rigs, each as likely as the others; coordinates : shape (n, d)."""
    frame, count = Frame.around(coordinates), len(coordinates)
    return Posterior(unknowns, frame, frame.into(coordinates), np.zeros(count), (), np.empty((0, count)), trust)


def absorb(before: Posterior, seen: Many[Seen], seed: int = 1, goes_on: Callable[[], bool] = lambda: True) -> Posterior:
    """Return what is believed after some more shots; it does not depend on whether they come one by one or together.

    goes_on : is asked now and then; once it says no, what was learned so far is returned.
    """
    cloud = _Cloud(before, seed)
    rest = list(seen)
    while rest and goes_on():
        ahead = rest[: min(max(len(cloud.seen), 1), WHOLE_AHEAD)]
        taken = cloud.take(ahead)
        rest = rest[taken:]
    return cloud.posterior()


class _Cloud:
    """The rigs while they learn."""

    def __init__(self, before: Posterior, seed: int) -> None:
        self._unknowns, self._frame, self._seed, self._trust = before.unknowns, before.frame, seed, before.trust
        self.points, self.weights = before.points, before.log_weights
        self.seen = list(before.seen)
        self._told = sum(one.tells for one in self.seen)
        # A table that has room: with hundreds of shots, one that grew by a row each time would be copied all the time.
        self._table = np.empty((max(2 * len(self.seen), 32), len(self.points)))
        self._table[: len(self.seen)] = before.likelihood

    @property
    def known(self) -> Floats:
        """Logarithm of the probability of each shot on each rig, shape (shots, n)."""
        return self._table[: len(self.seen)]

    def posterior(self) -> Posterior:
        """Return what is believed now."""
        taught = tuple(self.seen), self.known.copy(), self._trust
        return Posterior(self._unknowns, self._frame, self.points, self.weights, *taught)

    def _add(self, one: Seen, row: Floats) -> None:
        if len(self.seen) == len(self._table):
            self._table = np.concatenate([self._table, np.empty_like(self._table)])
        self._table[len(self.seen)] = row
        self.seen.append(one)
        self._told += one.tells

    @property
    def _among(self) -> float:
        """The power of each shot among those seen so far."""
        return self._trust.among(self._told)

    def _loosened(self, one: Seen) -> Floats:
        """What one more shot takes from the weights that those before it gave, as each of them then counts less."""
        less = self._trust.among(self._told + one.tells) - self._among
        return np.asarray(less * self.known.sum(axis=0)) if less else np.zeros(len(self.points))

    @property
    def _late(self) -> bool:
        return len(self.seen) > MANY_SHOTS

    @property
    def _least(self) -> float:
        """How many rigs must be left."""
        return (LEAST_SHARE_LATER if self._late else LEAST_SHARE) * len(self.points)

    def _look(self, seen: Many[Seen], points: Floats) -> Floats:
        return log_likelihood(seen, self._unknowns, self._unknowns.rigs(self._frame.out(points)))

    def take(self, ahead: list[Seen]) -> int:
        """Learn from the first of some shots, as many as need no move and one more; return how many."""
        likelihood = self._look(ahead, self.points)
        for place, (one, row) in enumerate(zip(ahead, likelihood, strict=True)):
            together = self.weights + self._loosened(one) + self._trust.among(self._told + one.tells) * row
            if _left(together) < self._least:
                self._bridge(one, row)
                return place + 1
            self.weights = together
            self._add(one, row)
        return len(ahead)

    def _bridge(self, one: Seen, row: Floats) -> None:
        """Learn from a shot that leaves few rigs: in steps, each of which leaves enough to go on from."""
        rng = np.random.default_rng([self._seed, len(self.seen) + 1])
        self.weights = self.weights + self._loosened(one)
        self._add(one, row)
        power = 0.0
        while power < 1:
            step = self._step(power)
            self.weights = self.weights + step * self._among * self.known[-1]
            power += step
            self._draw_anew(rng)
            for _ in range(MOVES_LATER if self._late else MOVES):
                self._move(rng, power)

    def _step(self, power: float) -> float:
        """Return how much more of the newest shot leaves half of the rigs."""
        row, least = self._among * self.known[-1], self._least
        if _left(self.weights + (1 - power) * row) >= least / 2:
            return 1 - power
        low, high = 0.0, 1 - power
        for _ in range(20):
            middle = (low + high) / 2
            low, high = (middle, high) if _left(self.weights + middle * row) >= least else (low, middle)
        # However contradictory a shot, it must come to an end.
        return max(low, 0.05 * (1 - power), 0.01)

    def _draw_anew(self, rng: np.random.Generator) -> None:
        shares = np.exp(self.weights - self.weights.max())
        chosen = systematic(shares / shares.sum(), len(self.points), float(rng.random()))
        self.points = self.points[chosen]
        self._table[: len(self.seen)] = self.known[:, chosen]
        self.weights = np.zeros(len(self.points))

    def _move(self, rng: np.random.Generator, power: float) -> None:
        """Move every rig once, if what was seen allows it (Metropolis & al. 1953)."""
        proposed, prior = self._proposed(rng)
        likelihood = self._look(self.seen, proposed)
        trust = np.full(len(self.seen), self._among)
        trust[-1] *= min(power, 1.0)
        gain = trust @ (likelihood - self.known) + prior
        accepted = np.log(rng.random(len(gain))) < gain
        self.points = np.where(accepted[:, None], proposed, self.points)
        np.copyto(self._table[: len(self.seen)], likelihood, where=accepted)

    def _proposed(self, rng: np.random.Generator) -> tuple[Floats, Floats]:
        """Return proposed points, and what the prior adds to the logarithm of their acceptance."""
        points = self.points
        count, size = points.shape
        some = rng.random((count, size)) < rng.choice([0.15, 0.4, 1.0], size=(count, 1))
        some[np.arange(count), rng.integers(size, size=count)] = True
        one, other = rng.permutation(count), rng.permutation(count)
        reach = 2.38 / np.sqrt(2 * some.sum(axis=1, keepdims=True)) * rng.choice([0.3, 0.8, 1.0], size=(count, 1))
        between = points + reach * (points[one] - points[other]) + 0.02 * rng.standard_normal(points.shape)
        turn = rng.uniform(0.1, 1.2, size=(count, 1))
        around = np.cos(turn) * points + np.sin(turn) * rng.standard_normal(points.shape)
        by_difference = rng.random((count, 1)) < 0.6
        made = np.where(some, np.where(by_difference, between, around), points)
        prior = 0.5 * ((points**2).sum(axis=1) - (made**2).sum(axis=1))
        return made, np.where(by_difference[:, 0], prior, 0.0)


def _left(log_weights: Floats) -> float:
    """How many rigs the weights leave: Kish's effective sample size."""
    shares = np.exp(log_weights - log_weights.max())
    return float(shares.sum() ** 2 / (shares**2).sum())
