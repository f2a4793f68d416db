"""What is in hand at a table: a sequence and its locks, the set-up it is meant for, what is believed of its rig."""

from __future__ import annotations

from dataclasses import dataclass

from ondine.core.belief.priors import Belief
from ondine.core.setup import Setup
from ondine.core.timing.locks import Locks
from ondine.core.timing.sequence import Sequence


@dataclass(frozen=True)
class Plan:
    """All that a forecast and a shot follow from; the locks say what follows when a hand moves something."""

    sequence: Sequence
    setup: Setup
    belief: Belief = Belief()
    locks: Locks = ()
