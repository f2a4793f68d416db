"""The log in the window: asks what it wants to know, and does to its selected shots what keys say."""

from __future__ import annotations

from PySide6.QtCore import Qt

from ondine.core.numbers import counted
from ondine.logbook.query import Order
from ondine.logbook.records import ShotRecord
from ondine.studio.events import PictureArrived, ShotChanged, ShotLogged
from ondine.studio.log_events import LogWordsFound, SearchRefused, ShotsChanged, ShotsFound, ShotsRead
from ondine.studio.studio import Studio
from ondine.ui.kit.actions import Actions
from ondine.ui.kit.announce import announce
from ondine.ui.kit.bridge import Bridge
from ondine.ui.kit.own_shapes import shape_name
from ondine.ui.log.view import LogView
from ondine.ui.shell.atlas_actions import AtlasActions
from ondine.ui.shell.compare_actions import CompareActions
from ondine.ui.shell.groups_actions import GroupsActions
from ondine.ui.shell.messages import Messages


class LogActions:
    """Joins the log's page with the logbook."""

    def __init__(self, studio: Studio, log: LogView, messages: Messages, bridge: Bridge) -> None:
        self._studio, self._log, self._messages = studio, log, messages
        self._is_ready: set[bool] = set()
        self.atlas = AtlasActions(studio, log, messages, bridge)
        self.groups = GroupsActions(studio, log, bridge)
        self.compare = CompareActions(studio, log, messages, bridge)
        log.asked.connect(self._find)
        log.wanted.connect(studio.search.fetch)
        log.searches.saved.connect(self._save)
        log.searches.forgotten.connect(studio.search.forget_search)
        log.card.noted.connect(self.write_note)
        log.card.labelled.connect(self._label)
        log.card.board.toggled.connect(lambda shape: self.tag(shape, shape_name(shape)))
        bridge.on(ShotsFound, self._found)
        bridge.on(SearchRefused, lambda event: log.say(event.message) if self._is_asked(event.line) else None)
        bridge.on(ShotsRead, self._read)
        bridge.on(ShotsChanged, lambda event: self._changed(event.shots))
        bridge.on(ShotChanged, lambda event: self._changed({event.shot.id: event.shot}))
        bridge.on(PictureArrived, lambda event: self._changed({event.shot.id: event.shot}))
        bridge.on(ShotLogged, lambda _: log.ask_again())
        bridge.on(LogWordsFound, self._words)

    def key_actions(self) -> Actions:
        """What keys can ask for wherever one is."""
        return {
            "toggle_sheet": self._toggle_sheet,
            "edit_label": self._edit_label,
            "like_this": lambda: self._log.show_like_this() if self._log.isVisible() else None,
            **self.groups.key_actions(),
            **self.compare.key_actions(),
        }

    def in_log(self) -> Actions:
        """What keys mean while the log is in view, instead of what they mean elsewhere."""
        return {
            "rate": self._rate,
            "toggle_keeper": self._toggle_keeper,
            "next_untagged": self._next_untagged,
            "edit_note": self._edit_note,
            "select_all": self._log.sheet.selectAll,
            "remove": self._bin,
            "undo": self._undo,
            "redo": self._studio.log.redo,
            "older_shot": lambda: self._step(1),
            "newer_shot": lambda: self._step(-1),
            **self.compare.in_compare(),
        }

    # What is asked, and what comes back

    def prepare(self) -> None:
        """Look for all shots before the log comes into view: nobody waits for them then."""
        if not self._log.isVisible():
            self._log.ask()

    def come(self) -> None:
        """The log comes into view."""
        self._log.ask()
        self._studio.search.tell_words()
        self._log.go_to_shots()

    def _find(self, line: str, order: Order, like: int | None) -> None:
        self._studio.search.find(line, order, like)
        self.groups.find(line)
        if self._log.is_atlas:
            self._studio.atlas.find(line, *self._log.atlas.keys)

    def _is_asked(self, line: str) -> bool:
        return line == self._log.text.text()

    def _found(self, event: ShotsFound) -> None:
        if self._is_asked(event.line):
            self._log.show_found(event.ids, event.understood, event.waiting)
            if self._is_ready:
                # Its shots were read before it came into view.
                self._make_ready()

    def _read(self, event: ShotsRead) -> None:
        self._log.model.take(event.asked, event.shots)
        self._make_ready()

    def _make_ready(self) -> None:
        """What is in view is there: time for what will be asked next, and once somebody looks for all that can be."""
        for seldom in (False, True):
            if seldom not in self._is_ready and (self._log.isVisible() or not seldom):
                self._is_ready.add(seldom)
                self._studio.search.make_ready(seldom)

    def _changed(self, shots: dict[int, ShotRecord]) -> None:
        self.atlas.took_in_hand = False
        self._log.model.change(shots)
        self.compare.change(shots)
        self._log.groups.take(shots)
        self._log.show_current()
        self._log.ask_again()

    def _words(self, event: LogWordsFound) -> None:
        self._log.text.words = event.words
        self._log.searches.offer(self._log.text.text(), tuple(event.searches.values()))

    def _save(self, line: str) -> None:
        if line.strip():
            self._studio.search.save_search(line.strip(), line)
        else:
            self._messages.notice("Write what to look for, then save it.")

    # What is done to the selected shots

    def tag(self, shape: str, name: str) -> None:
        """Tag the selected shots, or take the tag off where all of them have it."""
        numbers = self._log.selected_numbers()
        shown = self._log.current()
        if not numbers:
            return
        on = shown is None or shape not in shown.shapes
        self._studio.log.tag_shots(numbers, shape, on)
        announce(self._log.sheet, f"{_these(numbers)} {'tagged' if on else 'no longer tagged'} {name}")

    def _rate(self, rating: int) -> None:
        self._studio.log.rate_shots(self._log.selected_numbers(), rating)

    def _toggle_keeper(self) -> None:
        shown = self._log.current()
        self._studio.log.keep_shots(self._log.selected_numbers(), not (shown is not None and shown.keeper))

    def _label(self, word: str, on: bool) -> None:
        self._studio.log.label_shots(self._log.selected_numbers(), word, on)
        self._studio.search.tell_words()
        self._log.go_to_shots()

    def _bin(self) -> None:
        numbers, shown = self._log.selected_numbers(), self._log.current()
        if not numbers:
            return
        out = shown is not None and shown.binned
        self._studio.log.bin_shots(numbers, not out)
        if out:
            self._messages.notice(f"{_these(numbers)} taken out of the bin.")
        else:
            self._messages.notice(
                f"{_these(numbers)} put into the bin. Look for “in the bin” to see them; Del there takes them out."
            )

    def write_note(self, shot: ShotRecord, text: str) -> None:
        """Keep the note of a shot."""
        if text != shot.note:
            self._studio.log.annotate(shot.id, text)

    def _undo(self) -> None:
        """Take back what was done last in the log: what was said of shots, or what the atlas took in hand."""
        if self.atlas.took_in_hand:
            self.atlas.took_in_hand = False
            self._studio.composer.undo()
        else:
            self._studio.log.undo()

    # Where one is

    def _toggle_sheet(self) -> None:
        if self._log.isVisible():
            self._log.toggle_kind()

    def _edit_note(self) -> None:
        self._log.show_card()
        self._log.card.note.setFocus(Qt.FocusReason.ShortcutFocusReason)

    def _edit_label(self) -> None:
        if self._log.isVisible():
            self._log.show_card()
            self._log.card.label.setFocus(Qt.FocusReason.ShortcutFocusReason)

    def _step(self, by: int) -> None:
        self._log.step_to(self._log.sheet.currentIndex().row() + by)

    def _next_untagged(self) -> None:
        """Go on to the next shot below that nobody has tagged."""
        row = self._log.sheet.currentIndex().row()
        for place in range(row + 1, len(self._log.model.ids)):
            shot = self._log.model.record(place)
            if shot is None or not shot.outcome_known:
                # One that is not read yet is gone to all the same: it is read then.
                self._log.step_to(place)
                return
        self._messages.notice("No untagged shot stands after this one.")


def _these(numbers: list[int]) -> str:
    return f"Shot {numbers[0]}" if len(numbers) == 1 else counted(len(numbers), "shot")
