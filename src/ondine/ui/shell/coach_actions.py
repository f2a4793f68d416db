"""Joins the coach with the bench page: what it says is shown, what a hand takes of it is taken in hand or fired."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from PySide6.QtCore import QPoint
from PySide6.QtGui import QCursor
from PySide6.QtWidgets import QWidget

from ondine.core.numbers import counted
from ondine.core.timing.sequence import Pulse, Sequence
from ondine.studio.events import BenchState, CoachSays, CoachSilent, CoachThinks, PlanChanged, ShotChanged
from ondine.studio.studio import Studio
from ondine.ui.bench.coach_panel import CoachPanel
from ondine.ui.bench.page import BenchPage
from ondine.ui.kit.actions import Actions
from ondine.ui.kit.announce import announce
from ondine.ui.kit.bridge import Bridge
from ondine.ui.shell.bench_actions import BenchActions
from ondine.ui.shell.messages import Messages
from ondine.ui.shell.navigation import Navigation
from ondine.ui.shell.overlay import Drawer
from ondine.ui.table.editor import SetupEditor

if TYPE_CHECKING:
    # Nobody needs the coach for the first frame.
    from ondine.core.coach.changes import Correction

KEPT = "coach"
NO_HINTS = "This run on the hidden rig is without hints. Give it up in Practice, Ctrl E, to hear the coach."

MOST_SHOTS = 40
"""So many shots a search fires by itself."""


@dataclass(frozen=True)
class AutoSearch:
    """A search that fires by itself: how many shots it has fired, and the newest tagged one before the last of them."""

    fired: int = 0
    newest: int = -1

    def goes_on(self, newest: int) -> bool:
        """Whether the last picture has been tagged since, with whatever it shows."""
        return newest > self.newest

    def after(self, newest: int) -> AutoSearch:
        """Return the search after one more shot."""
        return AutoSearch(self.fired + 1, newest)


class CoachActions:
    """The coach is silent until it is asked for; whether it speaks is kept with the logbook."""

    def __init__(
        self,
        studio: Studio,
        bench: BenchPage,
        hands: BenchActions,
        navigation: Navigation,
        editor: SetupEditor,
        messages: Messages,
        bridge: Bridge,
    ) -> None:
        self._studio, self._bench, self._hands = studio, bench, hands
        self._navigation, self._editor, self._messages = navigation, editor, messages
        self._panel: CoachPanel = bench.coach
        self._thought_of: tuple[object, ...] | None = None
        self._search: AutoSearch | None = None
        navigation.stops.append(self.stop_auto)
        self._panel.auto.clicked.connect(self.toggle_auto)
        self._panel.taken.connect(self._take)
        self._panel.goal_chosen.connect(lambda goal: studio.coach.aim_at(goal))
        self._panel.map.clicked.connect(self.show_map)
        bench.map.axes_chosen.connect(lambda x, y: studio.coach.map_over(x, y))
        wish = bench.map.wish
        wish.changed.connect(lambda: self._panel.wish(wish.height_m, wish.keep.isChecked()))
        bench.map.taken.connect(lambda sequence: self._take(sequence, fire=False))
        self._panel.learned.clicked.connect(self.show_learned)
        bench.learned.corrected.connect(self._put_right)
        bench.desk.line.coach.clicked.connect(self.toggle)
        bridge.on(CoachSays, self._said)
        bridge.on(CoachSilent, self._silent)
        bridge.on(CoachThinks, lambda event: self._panel.show_busy(event.busy))
        bridge.on(ShotChanged, lambda _: self._ask())
        bridge.on(PlanChanged, lambda _: self._plan_changed())
        if studio.kept.read(KEPT, _yes, False):
            self.toggle()

    def key_actions(self) -> Actions:
        """What keys can ask for."""
        return {
            "toggle_coach": self.toggle,
            "toggle_auto": self.toggle_auto,
            "show_learned": self.show_learned,
            "show_map": self.show_map,
        }

    def toggle(self) -> None:
        """Let the coach speak in place of the strip, or be silent."""
        button = self._bench.desk.line.coach
        self.stop_auto()
        on = not self._bench.coach_speaks
        practice = self._studio.practice
        if on and practice is not None and not practice.allows_hints:
            button.setChecked(False)
            self._messages.trouble(NO_HINTS)
            return
        button.setChecked(on)
        self._bench.let_coach_speak(on)
        self._studio.log.keep(KEPT, "yes" if on else "no")
        self._studio.coach.turn(on)

    def open(self) -> None:
        """Let the coach speak, if it may."""
        if not self._bench.coach_speaks:
            self.toggle()

    def speak(self, on: bool, shape: str) -> None:
        """Speak of another rig, with this shape as the goal, or be silent."""
        self._panel.forget()
        self._bench.map.forget()
        self._panel.choose(shape)
        if on != self._bench.coach_speaks:
            self.toggle()

    @property
    def has_spoken(self) -> bool:
        """Whether all is said that was asked for."""
        said = self._panel.says
        if not self._bench.coach_speaks or self._panel.is_silent:
            return True
        return said is not None and (said.map is not None or not self._navigation.map.isVisible())

    # Firing by itself

    def toggle_auto(self) -> None:
        """Begin a search that fires each proposal once the last picture is tagged, or stop it."""
        if self._search is not None:
            self.stop_auto()
            return
        self._panel.auto.setChecked(False)
        if not self._studio.bench.kind.is_driven:
            self._messages.trouble("The coach cannot fire at this bench: a hand does. Press Space after each shot.")
            return
        if not self._studio.sitting.preflight_done:
            # The first shot of a sitting is never fired by itself.
            self._hands.fire()
            return
        if not self._bench.coach_speaks:
            self.toggle()
        if not self._bench.coach_speaks:
            return
        self._panel.auto.setChecked(True)
        self._search = AutoSearch()
        self._messages.notice("The coach fires by itself as soon as you have tagged the last picture. Esc stops it.")
        self._studio.coach.ask()

    def stop_auto(self) -> None:
        """Fire no more by itself."""
        self._panel.auto.setChecked(False)
        if self._search is not None:
            self._search = None
            self._messages.notice("The coach fires no more by itself.")

    def _go_on(self, event: CoachSays) -> None:
        """Fire the next shot of a search, or end it."""
        if self._search is None or not self._search.goes_on(event.newest):
            return
        if event.proposal.goal != event.proposal.wanted:
            # Nobody has asked for the nearest that the table can show: no water falls for it by itself.
            self.stop_auto()
            self._messages.trouble(event.reason)
        elif event.hit and self._search.fired:
            fired = self._search.fired
            self.stop_auto()
            self._messages.notice(f"Found after {counted(fired, 'shot')}. The coach fires no more by itself.")
        elif self._search.fired >= MOST_SHOTS:
            self.stop_auto()
            self._messages.trouble(
                f"Not found in {MOST_SHOTS} shots. Look at what was learned, or choose another goal."
            )
        elif not self._navigation.on_bench or self._studio.bench.state is not BenchState.READY:
            self.stop_auto()
        else:
            self._search = self._search.after(event.newest)
            before = self._studio.bench.state
            self._take(event.proposal.best.sequence, fire=True)
            if self._studio.bench.state is before:
                # It was refused, and a message says why.
                self.stop_auto()

    def show_learned(self) -> None:
        """Open or close what was learned."""
        self._toggle(self._navigation.learned, self._bench.learned)

    def show_map(self) -> None:
        """Open or close the map of chances."""
        self._toggle(self._navigation.map, self._bench.map.view, near=QCursor.pos())
        self._studio.coach.open_map(self._navigation.map.isVisible())

    def _toggle(self, drawer: Drawer, body: QWidget, near: QPoint | None = None) -> None:
        self.open()
        if not self._bench.coach_speaks:
            # It may not, and a message says why.
            return
        if not self._navigation.on_bench:
            self._navigation.turn_to(self._bench)
        self._navigation.toggle(drawer, near)
        if drawer.isVisible():
            body.setFocus()

    def _put_right(self, correction: Correction) -> None:
        """Take what was learned into the set-up: it was entered wrongly, and nothing has moved."""
        from ondine.core.coach.facts import corrected

        self._studio.log.keep("corrections", self._studio.coach.put_right(correction))
        self._editor.use(corrected(self._studio.composer.setup, correction))

    def take(self, fire: bool) -> bool:
        """Take the proposal over where there is one; return whether the coach speaks at all."""
        if not self._bench.coach_speaks:
            return False
        self._panel.take(fire)
        return True

    def _take(self, sequence: Sequence, fire: bool) -> None:
        self._studio.composer.use_sequence(sequence)
        announce(self._panel, "Proposal taken over")
        if fire:
            self._hands.fire()

    def _said(self, event: CoachSays) -> None:
        if self._bench.coach_speaks:
            self._panel.show(event)
            self._bench.learned.show_learned(event)
            if event.map is not None:
                self._bench.map.show_map(event.map, event.map_axes)
                self._bench.map.view.follow(self._studio.composer.sequence)
            if not self._navigation.map.isVisible():
                # It was closed: nobody need draw it any more.
                self._studio.coach.open_map(False)
            self._go_on(event)
            self._studio.composer.learn(event.learned)

    def _silent(self, event: CoachSilent) -> None:
        if self._bench.coach_speaks:
            self.stop_auto()
            self._panel.show_silent(event.why)

    def _ask(self) -> None:
        if self._bench.coach_speaks:
            self._studio.coach.ask()

    def _plan_changed(self) -> None:
        """Think anew where the table, what is known of it, or the sizes of the drops have changed; moving them changes
        no proposal, and the map only where it is a timing that the map does not have.
        """
        plan = self._studio.composer.plan
        asks = plan.setup, plan.belief.priors, tuple(_size(pulse) for pulse in plan.sequence.drops)
        followed = self._bench.map.view.follow(plan.sequence) or not self._navigation.map.isVisible()
        if asks != self._thought_of or not followed:
            self._thought_of = asks
            self._ask()


def _size(pulse: Pulse) -> tuple[int, int]:
    return pulse.open_us, pulse.valve


def _yes(text: str) -> bool:
    if text not in ("yes", "no"):
        raise ValueError("neither yes nor no")
    return text == "yes"
