"""What is in hand: sequence, set-up and belief, changed step by step, undone, and kept once the hand rests."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import asdict, replace
from typing import TYPE_CHECKING

from ondine.core import plain
from ondine.core.belief.learned import Learned
from ondine.core.belief.priors import Belief, belief_from_json, was_taught_by_older_laws
from ondine.core.belief.rigs import check_belief
from ondine.core.forecast.plan import Plan
from ondine.core.forecast.prediction import Prediction
from ondine.core.physics.liquid import LiquidError
from ondine.core.setup import Setup
from ondine.core.setup.compare import change_words as table_words
from ondine.core.setup.wire import setup_from_json
from ondine.core.table.edit import check
from ondine.core.timing.changes import change_words
from ondine.core.timing.conventions import Landmarks, Predicts
from ondine.core.timing.items import Item
from ondine.core.timing.limits import is_within_span
from ondine.core.timing.locks import Follows, Lock, holding, kept, locked, renewed, without_lock
from ondine.core.timing.sequence import Pulse, Sequence
from ondine.core.timing.wire import sequence_from_json, sequence_to_json
from ondine.core.units import Units
from ondine.studio.debounce import Debounce
from ondine.studio.events import Event, PlanChanged
from ondine.studio.history import History
from ondine.studio.kept import KeptState
from ondine.studio.logbook_writer import LogbookWriter
from ondine.studio.worker import Guard

if TYPE_CHECKING:
    # SQLAlchemy stands behind it; see `snapshot`.
    from ondine.logbook.state import State

HAND_RESTS_S = 0.4
"""How long the hand must rest before what is in hand is written: a drag is kept once, not at each pixel."""

NOTHING: frozenset[Item] = frozenset()


class Composer:
    """Holds the plan in hand; every change is answered at once and told as `PlanChanged`.

    Steps of one `gesture` are undone together.
    """

    def __init__(self, start: Plan, writer: LogbookWriter, emit: Callable[[Event], None], guard: Guard) -> None:
        self._history = History(start)
        self._prediction: Prediction | None = None
        self._learned: Learned | None = None
        self._emit = emit
        write = lambda: _keep(writer.logbook.state, self.plan)  # noqa: E731
        keep = lambda: guard("keeping what is in hand", writer.write, write)  # noqa: E731
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

    # The forecast of it

    def foresee(self, room_stops: float | None) -> Prediction:
        """Return the forecast of what is in hand; raises ValueError where there can be none.

        room_stops : how far the room's light lies under the flash, as measured [stops]; None if nobody has.
        """
        plan = self.plan
        self._prediction = Prediction.of(plan.setup, plan.belief, plan.sequence, self._prediction, room_stops)
        return self._prediction

    def predicts(self, setup: Setup | None = None, belief: Belief | None = None) -> Predicts:
        """Return what tells the landmarks of drops at the table in hand, or at another one; none where none can be."""

        def predicts(drops: tuple[Pulse, ...]) -> Landmarks:
            # The course of the drops is kept: the forecast of what is in hand takes it over.
            sequence = Sequence(drops, ())
            try:
                made = Prediction.of(setup or self.setup, belief or self.belief, sequence, self._prediction)
            except LiquidError:
                # A table at which nothing can be foreseen: the window says why.
                return Landmarks()
            if self._prediction is None or made.course is not self._prediction.course:
                self._prediction = made
            return made.course.landmarks

        return predicts

    # Changes

    def use_sequence(self, sequence: Sequence, gesture: str | None = None) -> None:
        """Take another sequence in hand; nothing of it is locked."""
        self._use(replace(self.plan, sequence=sequence, locks=()), change_words(self.sequence, sequence), gesture)

    def compose(self, made: Sequence, gesture: str | None = None, gone: frozenset[Item] = NOTHING) -> None:
        """Take what a hand made of the sequence in hand; what is locked follows.

        gone : what was taken out of it.
        """
        plan = self.plan
        words = "" if self._history.goes_on(gesture) else change_words(plan.sequence, made)
        if gone or len(made.drops) != len(plan.sequence.drops) or len(made.flashes) != len(plan.sequence.flashes):
            locks = renewed(plan.locks, made, plan.setup, self.predicts(), gone)
        else:
            made, locks = kept(made, plan.sequence, plan.locks, plan.setup, self.predicts())
        self._use(replace(plan, sequence=made, locks=locks), words, gesture)

    def lock(self, item: Item, follows: Follows) -> bool:
        """Let an item keep its distance to an event; return whether there is such an event."""
        plan = self.plan
        locks = locked(plan.locks, plan.sequence, item, follows, plan.setup, self.predicts())
        if locks is not None:
            self._use(replace(plan, locks=locks), f"lock to {follows}", None)
        return locks is not None

    def unlock(self, item: Item) -> None:
        """Let an item stand where it is, whatever moves."""
        self._use(replace(self.plan, locks=without_lock(self.plan.locks, item)), "unlock", None)

    def use_setup(self, setup: Setup, belief: Belief | None = None, gesture: str | None = None) -> None:
        """Take another set-up in hand, with another belief if one comes with it; shots keep theirs."""
        plan = replace(self.plan, setup=setup, belief=belief or self.belief)
        words = "" if self._history.goes_on(gesture) else table_words(self.setup, setup)
        self._use(self._following(plan), words, gesture)

    def learn(self, learned: Learned | None) -> None:
        """Believe what shots have taught. No hand did it: it is no step to undo, and undoing others keeps it."""
        self._learned, before = learned, self.plan
        self._history.present = _with_learned(before, learned)
        if self.plan != before:
            self._changed()

    def use_plan(self, plan: Plan) -> None:
        """Take sequence, set-up and belief in hand together."""
        self._use(self._following(plan), table_words(self.setup, plan.setup), None)

    def _following(self, plan: Plan) -> Plan:
        """Return a plan in which what is locked has followed the table."""
        if not plan.locks:
            return plan
        sequence, locks = plan.sequence, holding(plan.locks, plan.sequence)
        made, locks = kept(sequence, sequence, locks, plan.setup, self.predicts(plan.setup, plan.belief))
        return replace(plan, sequence=made, locks=locks)

    def _use(self, plan: Plan, does: str, gesture: str | None) -> None:
        if self._history.push(plan, does, gesture):
            self._changed()

    def end_gesture(self) -> None:
        """A drag or a run of keys is over."""
        self._history.end_gesture()

    @property
    def in_gesture(self) -> bool:
        """Whether a hand is dragging, or holding an arrow key."""
        return self._history.in_gesture

    def undo(self) -> str | None:
        """Take back the last change; return what it was, None if there is none."""
        return self._stepped(self._history.undo())

    def redo(self) -> str | None:
        """Do again what was taken back; return what it is, None if there is nothing."""
        return self._stepped(self._history.redo())

    def _stepped(self, does: str | None) -> str | None:
        if does is not None:
            self._history.present = _with_learned(self.plan, self._learned)
            self._changed()
        return does

    @property
    def undoes(self) -> str | None:
        """What would be taken back; None if there is nothing."""
        return self._history.undoes

    @property
    def redoes(self) -> str | None:
        """What would be done again; None if there is nothing."""
        return self._history.redoes

    def close(self) -> None:
        """Write what is in hand, if it changed."""
        self._keeping.close()

    def _changed(self) -> None:
        self._emit(PlanChanged())
        self._keeping.ask()


def _with_learned(plan: Plan, learned: Learned | None) -> Plan:
    """Return a plan whose belief has what was learned last, where anything was."""
    return plan if learned is None else replace(plan, belief=replace(plan.belief, learned=learned))


def _keep(state: State, plan: Plan) -> None:
    state.put("sequence", sequence_to_json(plan.sequence))
    state.put("setup", plan.setup.to_json())
    state.put("belief", plan.belief.to_json())
    state.put("locks", json.dumps([asdict(lock) for lock in plan.locks]))


LEARNED_ANEW = (
    "Ondine knows drops and sheets better now: what your shots had taught of the rig by its older laws is learned anew "
    "from the log once the coach is asked. Until then forecasts are wider."
)


def plan_kept(state: KeptState, start: Plan) -> Plan:
    """Return what was in hand at the last closing, each part or else that of the start."""
    sequence = state.read("sequence", _possible_sequence, start.sequence)
    if was_taught_by_older_laws(state.texts.get("belief", "")):
        state.notes.append(LEARNED_ANEW)
    return Plan(
        sequence,
        state.read("setup", _standing_setup, start.setup),
        state.read("belief", _usable_belief, start.belief),
        state.read("locks", lambda text: holding(tuple(plain.parse_list(Lock, text)), sequence), start.locks),
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
