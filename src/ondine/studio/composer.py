"""What is in hand: sequence, set-up and belief, changed step by step, undone, and kept once the hand rests."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from ondine.core.belief.priors import Belief, belief_from_json
from ondine.core.belief.rigs import check_belief
from ondine.core.forecast.plan import Plan
from ondine.core.setup import Setup
from ondine.core.setup.wire import setup_from_json
from ondine.core.table.edit import check
from ondine.core.timing.limits import is_within_span
from ondine.core.timing.sequence import Sequence
from ondine.core.timing.wire import sequence_from_json, sequence_to_json
from ondine.core.units import Units
from ondine.studio.debounce import Debounce
from ondine.studio.events import Event, PlanChanged
from ondine.studio.history import History
from ondine.studio.kept import KeptState
from ondine.studio.logbook_writer import LogbookWriter
from ondine.studio.worker import Guard

HAND_RESTS_S = 0.4
"""How long the hand must rest before what is in hand is written: a drag is kept once, not at each pixel."""


class Composer:
    """Holds the plan in hand; every change is answered at once and told as `PlanChanged`."""

    def __init__(self, start: Plan, writer: LogbookWriter, emit: Callable[[Event], None], guard: Guard) -> None:
        self._history = History(start)
        self._writer, self._emit = writer, emit
        keep = lambda: guard("keeping what is in hand", writer.write, self._keep)  # noqa: E731
        self._keeping = Debounce(keep, HAND_RESTS_S, "keep-plan")

    @property
    def plan(self) -> Plan:
        """All that is in hand."""
        return self._history.present

    @property
    def sequence(self) -> Sequence:
        """The sequence in hand."""
        return self.plan.sequence

    @property
    def setup(self) -> Setup:
        """The set-up in hand."""
        return self.plan.setup

    @property
    def belief(self) -> Belief:
        """What is believed of the rig."""
        return self.plan.belief

    def use_sequence(self, sequence: Sequence, gesture: str | None = None) -> None:
        """Take a sequence in hand; steps of one `gesture` are undone together."""
        self._use(replace(self.plan, sequence=sequence), gesture)

    def use_setup(self, setup: Setup, belief: Belief | None = None, gesture: str | None = None) -> None:
        """Take another set-up in hand, with another belief if one comes with it; shots keep theirs."""
        self._use(Plan(self.sequence, setup, belief or self.belief), gesture)

    def use_plan(self, plan: Plan) -> None:
        """Take sequence, set-up and belief in hand together."""
        self._use(plan, None)

    def _use(self, plan: Plan, gesture: str | None) -> None:
        if self._history.push(plan, gesture):
            self._changed()

    def end_gesture(self) -> None:
        """A drag or a run of keys is over."""
        self._history.end_gesture()

    @property
    def in_gesture(self) -> bool:
        """Whether a hand is dragging, or holding an arrow key."""
        return self._history.in_gesture

    def undo(self) -> None:
        """Take back the last change."""
        if self._history.undo():
            self._changed()

    def redo(self) -> None:
        """Do again what was taken back."""
        if self._history.redo():
            self._changed()

    @property
    def can_undo(self) -> bool:
        """Whether there is a change to take back."""
        return self._history.can_undo

    @property
    def can_redo(self) -> bool:
        """Whether there is a change to do again."""
        return self._history.can_redo

    def close(self) -> None:
        """Write what is in hand, if it changed."""
        self._keeping.close()

    def _changed(self) -> None:
        self._emit(PlanChanged())
        self._keeping.ask()

    def _keep(self) -> None:
        state, plan = self._writer.logbook.state, self.plan
        state.put("sequence", sequence_to_json(plan.sequence))
        state.put("setup", plan.setup.to_json())
        state.put("belief", plan.belief.to_json())


def plan_kept(state: KeptState, start: Plan) -> Plan:
    """Return what was in hand at the last closing, each part or else that of the start."""
    return Plan(
        state.read("sequence", _possible_sequence, start.sequence),
        state.read("setup", _standing_setup, start.setup),
        state.read("belief", _usable_belief, start.belief),
    )


def _possible_sequence(text: str) -> Sequence:
    sequence = sequence_from_json(text)
    if not is_within_span(sequence):
        raise ValueError("no hand has made this sequence")
    return sequence


def _standing_setup(text: str) -> Setup:
    setup = setup_from_json(text)
    check(setup, Units())
    return setup


def _usable_belief(text: str) -> Belief:
    belief = belief_from_json(text)
    check_belief(belief)
    return belief
