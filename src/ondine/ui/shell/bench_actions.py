"""What hands do at the bench: compose and fire."""

from __future__ import annotations

from collections.abc import Callable

from ondine.core.forecast.plan import Plan
from ondine.core.numbers import counted
from ondine.core.setup import BenchKind, Box
from ondine.core.table.firing import held
from ondine.core.table.mending import mended
from ondine.core.table.safety import preflight
from ondine.core.timing.dials import DialError
from ondine.core.timing.items import Item, Kind, drop, flash, name_of
from ondine.core.timing.limits import MAX_DROPS, MAX_FLASHES, SequenceError
from ondine.core.timing.sequence import Sequence
from ondine.studio.events import BenchChanged, BenchState, FolderChanged
from ondine.studio.studio import Studio
from ondine.ui.bench.page import BenchPage
from ondine.ui.kit.actions import Actions
from ondine.ui.kit.announce import announce
from ondine.ui.kit.bridge import Bridge
from ondine.ui.shell.header import Header
from ondine.ui.shell.messages import Messages
from ondine.ui.shell.navigation import Navigation

APART_US = 5_000
"""So long after the last flash a new one is put."""


class BenchActions:
    """Joins the bench page with composer and runner. `dark()` says whether the window must not shine."""

    def __init__(
        self,
        studio: Studio,
        bench: BenchPage,
        header: Header,
        navigation: Navigation,
        messages: Messages,
        bridge: Bridge,
        dark: Callable[[], bool],
    ) -> None:
        self._studio, self._bench, self._header = studio, bench, header
        self._navigation, self._messages, self._dark = navigation, messages, dark
        self._pictures, self._is_series = "", False
        navigation.stops.append(self.stop_series)
        bench.composed.connect(self._compose)
        bench.fired.connect(self.fire)
        bench.drop_added.connect(self.add_drop)
        bench.flash_added.connect(self.add_flash)
        bench.mending_asked.connect(self.mend)
        header.undo.clicked.connect(self.undo)
        header.redo.clicked.connect(self.redo)
        bridge.on(BenchChanged, self._bench_changed)
        bridge.on(FolderChanged, self._folder_changed)

    def key_actions(self) -> Actions:
        """What keys can ask for."""
        return {
            "select": self.select_drop,
            "select_flash": self.select_flash,
            "toggle_step": self._bench.desk.toggle_step,
            "toggle_close_up": self._bench.chart.toggle_close_up,
            "add_drop": self.add_drop,
            "add_flash": self.add_flash,
            "mend": self.mend,
            "undo": self.undo,
            "redo": self.redo,
            "begin_sitting": self.begin_sitting,
        }

    def _compose(self, change: Callable[[Sequence], Sequence], gesture: str) -> None:
        composer = self._studio.composer
        sequence = composer.sequence
        # What the hand asks for, held where the valve of this table holds.
        made = held(change(sequence), sequence, composer.setup)
        composer.compose(made, gesture or None)
        if composer.sequence == sequence:
            # The value was held at a limit: show what holds.
            self._bench.desk.show_numbers()

    def select(self, what: Item) -> None:
        """Take hold of a drop, a flash or a command to the camera."""
        if self._navigation.on_bench:
            self._bench.chart.select(what)
            name = name_of(self._studio.composer.sequence, self._bench.chart.selection.held)
            announce(self._bench.chart, f"Took hold of {name}")
            self._bench.chart.setFocus()

    def select_drop(self, index: int) -> None:
        """Take hold of a drop."""
        self.select(drop(index))

    def select_flash(self) -> None:
        """Take hold of the flash that is seen; pressed again, of the next one."""
        held = self._bench.chart.selection.held
        count = max(len(self._studio.composer.sequence.flashes), 1)
        self.select(flash((held.index + 1) % count if held.kind is Kind.FLASH else self._bench.flash_in_hand))

    def add_drop(self) -> None:
        """Add a drop like the last one."""
        sequence = self._studio.composer.sequence
        if len(sequence.drops) < MAX_DROPS:
            self._studio.composer.compose(sequence.with_drop_added())
            self.select(drop(len(sequence.drops)))

    def add_flash(self) -> None:
        """Add a flash shortly after the last one, on an output of its own while there is one."""
        sequence = self._studio.composer.sequence
        if len(sequence.flashes) < MAX_FLASHES:
            used = {lit.output for lit in sequence.flashes}
            output = next(output for output in range(MAX_FLASHES) if output not in used)
            self._studio.composer.compose(sequence.with_flash_added(sequence.last_flash_us + APART_US, output))
            self.select(flash(len(sequence.flashes)))

    def undo(self) -> None:
        """Take back the last change, and say what it was."""
        does = self._studio.composer.undo()
        if does is not None:
            self._bench.desk.say(f"Undone: {does}.")

    def redo(self) -> None:
        """Do again what was taken back, and say what it is."""
        does = self._studio.composer.redo()
        if does is not None:
            self._bench.desk.say(f"Done again: {does}.")

    def mend(self) -> None:
        """Take the nearest sequence in hand that this table and its controller can fire, and say what was changed."""
        plan = self._studio.composer.plan
        found = mended(plan.sequence, plan.setup, self._studio.bench.outputs)
        if found is None:
            self._messages.trouble("No change of the timing alone makes this fireable: change the table.")
        elif found.changes:
            self._studio.composer.compose(found.sequence)
            self._messages.notice(f"Changed: {'; '.join(found.changes)}.")

    def begin_sitting(self) -> None:
        """Let the next shot begin another sitting."""
        self._studio.sitting.begin_next()
        self._messages.notice("A new sitting begins with the next shot. Its name and place are on the stage Keep.")

    def fire(self) -> None:
        """Fire, unless the bench is busy; a dark room goes dark for it. The first time, look around first."""
        self._fire(lambda: self._studio.bench.fire(self._studio.composer.plan))

    def fire_all(self, plans: list[Plan]) -> None:
        """Go to the bench and fire plans one after the other; Esc stops after the shot under way."""
        self._navigation.turn_to(self._bench)
        self._bench.chart.setFocus()
        self._is_series = self._fire(lambda: self._studio.bench.fire_all(plans))

    def stop_series(self) -> None:
        """Stop a series that was begun here, after the shot under way."""
        if self._is_series:
            self._is_series = False
            self._studio.bench.stop_series()

    def _fire(self, fire: Callable[[], bool]) -> bool:
        """Fire, once somebody has looked around; return whether it began."""
        sitting, plan = self._studio.sitting, self._studio.composer.plan
        before = self._navigation.before
        if not sitting.preflight_done and not before.isVisible():
            self._navigation.turn_to(self._bench)
            self._navigation.toggle(before)
            return False
        if not sitting.preflight_done:
            sitting.record_preflight(preflight(plan.setup, self._studio.bench.kind))
            before.hide()
            self._bench.chart.setFocus()
        try:
            fired = fire()
        except (DialError, SequenceError) as error:
            self._messages.trouble(str(error))
            return False
        if fired and self._dark() and self._studio.bench.kind.is_driven:
            self._navigation.cover()
        return fired

    def _bench_changed(self, event: BenchChanged) -> None:
        self.show_state()
        if event.state is not BenchState.FIRING and self._dark():
            self._navigation.blank.hide()

    def _folder_changed(self, event: FolderChanged) -> None:
        self._pictures = f"pictures from {event.folder.name}" if event.present else "picture folder is gone"
        self.show_state()

    def show_state(self) -> None:
        """Say in the header and on the fire button how the bench is."""
        bench = self._studio.bench
        busy = bench.state is not BenchState.READY
        self._bench.set_firing(busy, by_hand=bench.kind is BenchKind.BY_HAND)
        where = f", {self._pictures}" if self._pictures else ""
        self._header.show_bench(f"{self._bench_words()}, {bench.state}{where}", busy)

    def _bench_words(self) -> str:
        practice = self._studio.practice
        if practice is None or practice.book.run is None:
            return bench_words(self._studio.bench.kind, self._studio.composer.setup.box)
        run = practice.book.run
        par = f", par {run.par}" if run.par else ""
        return f"Hidden rig: {counted(run.shots, 'shot')}{par}"


def bench_words(kind: BenchKind, box: Box) -> str:
    """Say what opens the valve."""
    if kind is BenchKind.BY_HAND:
        return f"By hand on {box.name}" if box.in_use else "By hand"
    return "Simulated bench" if kind is BenchKind.SIMULATED else "By cable"
