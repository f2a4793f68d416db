"""From the shots of a log to what is believed of the rig: in their order, across changes of the table, with doubts."""

from __future__ import annotations

from collections.abc import Callable
from collections.abc import Sequence as Many
from dataclasses import dataclass, replace

import numpy as np

from ondine.core.belief.priors import Belief
from ondine.core.coach.changes import Correction, Effect, carried, effects, is_put_right, put_right
from ondine.core.coach.evidence import Seen
from ondine.core.coach.posterior import Posterior, Trust, absorb, start
from ondine.core.coach.tags import FLOOR
from ondine.core.coach.unknowns import Unknowns
from ondine.core.forecast.shapes import BY_KEY
from ondine.core.forecast.whole import same_drops
from ondine.core.setup import Setup

UNEXPLAINED = 3 * FLOOR
"""A tag that is less likely than this to those who know all shots does not fit them."""

FEWEST_UNEXPLAINED, UNEXPLAINED_SHARE = 4, 0.25
"""So many tags that do not fit, and such a share of all, are no slips of a finger: the model does not fit the rig."""

TRUST = Trust(1.0, worth=40)
LITTLE_TRUST = Trust(0.35, worth=40)
"""How much shots count, and how much on a rig that nothing fits: bands are wider by the inverse root of the power. What
all shots of a table are worth together is an estimate: see docs/decisions/027.
"""


@dataclass(frozen=True)
class Evidence:
    """One tagged shot, and the table that it was fired at."""

    setup: Setup
    seen: Seen


@dataclass(frozen=True, eq=False)
class Knowledge:
    """What is believed, and why: `evidence` in its order, `changes` of the table as (number of shots before it, what it
    does), shots whose tags do not fit, and whether no rig fits: then `odd_shapes` are the shapes that do not.
    `taught` : what was believed after the last shot, of the table that it was fired at.
    """

    belief: Posterior
    taught: Posterior
    evidence: tuple[Evidence, ...] = ()
    changes: tuple[tuple[int, Effect], ...] = ()
    doubted: tuple[Seen, ...] = ()
    odd_shapes: tuple[str, ...] = ()

    @property
    def fits(self) -> bool:
        """Whether there are rigs that explain the shots."""
        return not self.odd_shapes

    def believed(self, count: int) -> Belief:
        """Return it as a belief that a forecast can be made of."""
        unknowns = self.belief.unknowns
        return replace(unknowns.belief, learned=unknowns.learned(self.belief.even(count)))


def learn(
    evidence: Many[Evidence],
    setup: Setup,
    priors: Belief,
    seed: int = 1,
    known: Knowledge | None = None,
    corrections: frozenset[Correction] = frozenset(),
    goes_on: Callable[[], bool] = lambda: True,
) -> Knowledge:
    """Return what shots teach of the table that stands now, the same for the same shots and seed.

    evidence : oldest first, each with its own table; setup : the table now; priors : what was believed before any shot;
    known : what was learned before, gone on from where the evidence only continues it; corrections : numbers of the
    set-up that were put right, so that they are no changes of the table; goes_on : is asked now and then, and ends it
    early.
    """
    task = _Task(tuple(evidence), setup, priors, seed, corrections, goes_on)
    made = task.learned(known, TRUST)
    odd = _odd_shapes(made)
    if odd:
        # No rig does all this. What is concluded from it must not be as sharp as if one did.
        made = task.learned(None, LITTLE_TRUST)
        return replace(made, odd_shapes=odd)
    return made


@dataclass(frozen=True)
class _Task:
    """What is to be learned from."""

    evidence: tuple[Evidence, ...]
    setup: Setup
    priors: Belief
    seed: int
    corrections: frozenset[Correction]
    goes_on: Callable[[], bool]

    def learned(self, known: Knowledge | None, trust: Trust) -> Knowledge:
        """Learn from all shots in their order, from the first one after those that are known."""
        evidence = self.evidence
        if known is not None and known.fits and known.evidence and _continues(known, evidence, self.priors):
            belief, done = known.taught, len(known.evidence)
            changes = [change for change in known.changes if change[0] < done]
        else:
            first = evidence[0].setup if evidence else self.setup
            belief, done, changes = start(Unknowns(self.priors, first), self.seed, trust=trust), 0, []
        while done < len(evidence):
            table = evidence[done].setup
            belief = self._at(belief, table, changes, done)
            run = done
            while run < len(evidence) and _same_table(evidence[run].setup, table):
                run += 1
            belief = absorb(belief, [one.seen for one in evidence[done:run]], self.seed, self.goes_on)
            done = run
        now = self._at(belief, self.setup, changes, done)
        return Knowledge(now, belief, evidence, tuple(changes), _doubted(belief))

    def _at(self, belief: Posterior, setup: Setup, changes: list[tuple[int, Effect]], done: int) -> Posterior:
        """Return a belief at another table, with the changes written down; the same where no drop feels any."""
        before = belief.unknowns.setup
        if is_put_right(before, setup, self.corrections):
            return put_right(belief, setup, self.priors)
        found = effects(before, setup)
        if found:
            changes += [(done, effect) for effect in found]
            return carried(belief, setup, self.priors, self.seed)
        if before != setup:
            return replace(belief, unknowns=replace(belief.unknowns, setup=setup))
        return belief


def _same_table(one: Setup, other: Setup) -> bool:
    """Whether neither the drops nor the light feel a difference."""
    return one is other or (same_drops(one, other) and one.triggers == other.triggers)


def _continues(known: Knowledge, evidence: Many[Evidence], priors: Belief) -> bool:
    return known.belief.unknowns.belief == priors and known.evidence == tuple(evidence[: len(known.evidence)])


def _doubted(belief: Posterior) -> tuple[Seen, ...]:
    """The shots whose tags fit no rig that the other shots leave."""
    return tuple(one for one, fit in zip(belief.seen, belief.fits(), strict=True) if one.tells and fit < UNEXPLAINED)


def _odd_shapes(known: Knowledge) -> tuple[str, ...]:
    doubted, telling = known.doubted, sum(one.tells for one in known.taught.seen)
    if len(doubted) < FEWEST_UNEXPLAINED or len(doubted) < UNEXPLAINED_SHARE * telling:
        return ()
    shapes, counts = np.unique([one.shape for one in doubted], return_counts=True)
    return tuple(str(shape) for shape in shapes[np.argsort(-counts, kind="stable")])


def doubt_words(known: Knowledge) -> str:
    """Say in a sentence which tags do not fit, or nothing."""
    if known.odd_shapes:
        names = ", ".join(BY_KEY[shape].name for shape in known.odd_shapes[:2])
        return (
            f"No rig that the coach can think of shows {names} where you saw it. Look whether the table is as it is "
            "entered; until then its advice is vague."
        )
    if known.doubted:
        one = known.doubted[-1]
        return (
            f"Shot {one.shot} is tagged {BY_KEY[one.shape].name}: that does not fit the other shots. Look at the "
            "picture once more; the tag counts little until then."
        )
    return ""
