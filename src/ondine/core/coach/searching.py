"""A whole search as the coach would do it: propose, fire, tag, learn, from the first shot on."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

from ondine.core.belief.priors import Belief
from ondine.core.coach.evidence import Seen
from ondine.core.coach.goal import Goal
from ondine.core.coach.learning import TRUST
from ondine.core.coach.posterior import Posterior, absorb, start
from ondine.core.coach.proposal import Candidate, propose
from ondine.core.coach.unknowns import Unknowns
from ondine.core.setup import Setup
from ondine.core.timing.sequence import Sequence


@dataclass(frozen=True)
class Tried:
    """One shot of a search: its number, what was proposed, the shape that it showed, and what is known with it."""

    shot: int
    proposed: Candidate
    shape: str
    known: Posterior


def search(
    setup: Setup,
    begin: Sequence,
    goal: Goal,
    fire: Callable[[Sequence], str],
    tag: Callable[[str], str] = lambda shape: shape,
) -> Iterator[Tried]:
    """Search on a rig that nothing is known of but its set-up, until whoever listens has had enough.

    begin : the drops to begin with; fire : fires once and returns the key of the shape in the picture; tag : what a
    photographer calls that.
    """
    known, shot = start(Unknowns(Belief(), setup), trust=TRUST), 0
    while True:
        shot += 1
        best = propose(known, goal, begin).best
        shape = fire(best.sequence)
        known = absorb(known, [Seen(best.sequence, tag(shape), shot=shot)])
        begin = replace(begin, drops=best.sequence.drops)
        yield Tried(shot, best, shape, known)
