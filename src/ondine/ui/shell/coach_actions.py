"""Joins the coach with the bench page: what it says is shown, what a hand takes of it is taken in hand or fired."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

from ondine.core.timing.sequence import Pulse, Sequence
from ondine.studio.events import CoachSays, CoachThinks, PlanChanged, ShotChanged
from ondine.studio.studio import Studio
from ondine.ui.bench.coach_panel import CoachPanel
from ondine.ui.bench.page import BenchPage
from ondine.ui.kit.actions import Actions
from ondine.ui.kit.announce import announce
from ondine.ui.kit.bridge import Bridge
from ondine.ui.shell.bench_actions import BenchActions
from ondine.ui.shell.navigation import Navigation
from ondine.ui.shell.overlay import Drawer
from ondine.ui.table.editor import SetupEditor

if TYPE_CHECKING:
    # Nobody needs the coach for the first frame.
    from ondine.core.coach.changes import Correction

KEPT = "coach"


class CoachActions:
    """The coach is silent until it is asked for; whether it speaks is kept with the logbook."""

    def __init__(
        self,
        studio: Studio,
        bench: BenchPage,
        hands: BenchActions,
        navigation: Navigation,
        editor: SetupEditor,
        bridge: Bridge,
    ) -> None:
        self._studio, self._bench, self._hands = studio, bench, hands
        self._navigation, self._editor = navigation, editor
        self._panel: CoachPanel = bench.coach
        self._thought_of: tuple[object, object] | None = None
        self._panel.taken.connect(self._take)
        self._panel.goal_chosen.connect(lambda goal: studio.coach.aim_at(goal))
        self._panel.map.clicked.connect(self.show_map)
        bench.map.axes_chosen.connect(lambda x, y: studio.coach.map_over(x, y))
        bench.map.taken.connect(lambda sequence: self._take(sequence, fire=False))
        self._panel.learned.clicked.connect(self.show_learned)
        bench.learned.corrected.connect(self._put_right)
        bench.desk.line.coach.clicked.connect(self.toggle)
        bridge.on(CoachSays, self._said)
        bridge.on(CoachThinks, lambda event: self._panel.show_busy(event.busy))
        bridge.on(ShotChanged, lambda _: self._ask())
        bridge.on(PlanChanged, lambda _: self._plan_changed())
        if studio.kept.read(KEPT, _yes, False):
            self.toggle()

    def key_actions(self) -> Actions:
        """What keys can ask for."""
        return {"toggle_coach": self.toggle, "show_learned": self.show_learned, "show_map": self.show_map}

    def toggle(self) -> None:
        """Let the coach speak in place of the strip, or be silent."""
        button = self._bench.desk.line.coach
        on = not self._bench.coach_speaks
        button.setChecked(on)
        self._bench.let_coach_speak(on)
        self._studio.log.keep(KEPT, "yes" if on else "no")
        self._studio.coach.turn(on)

    def show_learned(self) -> None:
        """Open or close what was learned."""
        self._toggle(self._navigation.learned, self._bench.learned)

    def show_map(self) -> None:
        """Open or close the map of chances."""
        self._toggle(self._navigation.map, self._bench.map.view)
        self._studio.coach.open_map(self._navigation.map.isVisible())

    def _toggle(self, drawer: Drawer, body: QWidget) -> None:
        if not self._bench.coach_speaks:
            self.toggle()
        if not self._navigation.on_bench:
            self._navigation.turn_to(self._bench)
        self._navigation.toggle(drawer)
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
            self._studio.composer.learn(event.learned)

    def _ask(self) -> None:
        if self._bench.coach_speaks:
            self._studio.coach.ask()

    def _plan_changed(self) -> None:
        """Think anew where the table or the sizes of the drops have changed; moving them changes no proposal."""
        plan = self._studio.composer.plan
        asks = plan.setup, tuple(_size(pulse) for pulse in plan.sequence.drops)
        if asks != self._thought_of:
            self._thought_of = asks
            self._ask()


def _size(pulse: Pulse) -> tuple[int, int]:
    return pulse.open_us, pulse.valve


def _yes(text: str) -> bool:
    if text not in ("yes", "no"):
        raise ValueError("neither yes nor no")
    return text == "yes"
