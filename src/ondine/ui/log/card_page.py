"""A card of pictures beside the log: how its clock stands, what belongs together, and what is doubtful."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from ondine.core.log.camera_clock import Clock
from ondine.core.numbers import counted
from ondine.studio.card_import import MatchedCard
from ondine.ui.kit.parts import button, words
from ondine.ui.kit.theme import GRID_PX, Theme
from ondine.ui.log.card_strip import CardStrip

FIRST = (
    "The pictures of a card find their shots by their times, however far its camera's clock is off. Choose the folder: "
    "nothing is written until you take them in, and the originals stay as they are."
)


class CardPage(QWidget):
    """Emits `folder_wanted()`, `slid(clock)`, `taken(whether doubtful ones too)`, `cancelled()`, and
    `pointed((file, shot))` for a doubtful pair under the cursor; and `clock_wanted()` for the clock card.
    """

    folder_wanted = Signal()
    slid = Signal(object)
    taken = Signal(bool)
    cancelled = Signal()
    pointed = Signal(object)
    clock_wanted = Signal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.found: MatchedCard | None = None
        self.choose = button("Choose the card's folder", "The folder of the camera's files", self.folder_wanted.emit)
        self.clock = button(
            "Show the clock card",
            "To be photographed once: it tells how far the camera's clock is off",
            self.clock_wanted.emit,
        )
        self.cancel = button("Cancel", "Stop; what was taken in stays", self.cancelled.emit)
        self.sure = button("Take in", "", lambda: self.taken.emit(False))
        self.all = button(
            "Take in", "Doubtful ones are marked, and the log asks about them", lambda: self.taken.emit(True)
        )
        self.said = words(FIRST)
        self.strip = CardStrip()
        self.strip.slid.connect(self.slid)
        self.doubtful = QListWidget()
        self.doubtful.setAccessibleName("What is doubtful, or of no use")
        self.doubtful.currentItemChanged.connect(self._point)
        self.under = QLabel(
            "Drag the frames along the strip, or use the arrows, if the match is wrong. The wheel zooms."
        )
        self.under.setObjectName("soft")
        self._lay_out()
        self._show_buttons()

    def _lay_out(self) -> None:
        line = QHBoxLayout()
        line.setSpacing(GRID_PX)
        for part in (self.choose, self.clock, self.sure, self.all, self.cancel):
            line.addWidget(part, 0, Qt.AlignmentFlag.AlignLeft)
        line.addStretch(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(GRID_PX)
        column.addLayout(line)
        for widget, stretch in ((self.said, 0), (self.strip, 1), (self.under, 0), (self.doubtful, 1)):
            column.addWidget(widget, stretch)

    def show_progress(self, what: str, done: int, of: int) -> None:
        """Say how far it is; nothing is under way where there is nothing to say."""
        self.cancel.setVisible(bool(what) and done < of)
        if what:
            self.said.setText(f"{what}: {done} of {of}")
        elif self.found is None:
            self.said.setText(FIRST)

    def show_match(self, found: MatchedCard) -> None:
        """Show what belongs together."""
        self.found = found
        self.cancel.hide()
        self.strip.show_match(found)
        self.said.setText(match_words(found))
        self.doubtful.clear()
        for pair in found.match.doubtful:
            frame, shot = found.frames[pair.frame], found.shots[pair.shot]
            item = QListWidgetItem(f"{frame.path.name}: shot {shot.shot_id}? {pair.probability:.0%} likely")
            item.setData(Qt.ItemDataRole.UserRole, (frame.path, shot.shot_id))
            self.doubtful.addItem(item)
        for number in found.match.frames_left:
            self.doubtful.addItem(f"{found.frames[number].path.name}: no shot")
        for sentence in found.refused:
            self.doubtful.addItem(sentence)
        self._show_buttons()

    def show_taken(self, taken: int, questions: int, refused: tuple[str, ...], cancelled: bool) -> None:
        """Say what was taken in."""
        self.cancel.hide()
        asked = f", {questions} more as questions" if questions else ""
        stopped = " Cancelled: read the card again to go on." if cancelled else ""
        failed = f" {len(refused)} could not be read: see the list." if refused else ""
        self.said.setText(f"{counted(taken, 'picture')} taken in{asked}.{failed}{stopped}")
        for sentence in refused:
            self.doubtful.addItem(sentence)
        self.sure.hide()
        self.all.hide()

    def _show_buttons(self) -> None:
        pairs = self.found.match.pairs if self.found is not None else ()
        sure = sum(pair.sure for pair in pairs)
        self.sure.setText(f"Take in {sure} sure")
        self.sure.setVisible(sure > 0)
        self.all.setText(f"Take in all {len(pairs)}, {len(pairs) - sure} as questions")
        self.all.setVisible(len(pairs) > sure)
        has = self.found is not None
        for part in (self.strip, self.under, self.doubtful):
            part.setVisible(has)
        self.cancel.setVisible(False)

    def _point(self, item: QListWidgetItem | None) -> None:
        pointed = None if item is None else item.data(Qt.ItemDataRole.UserRole)
        if pointed is not None:
            self.pointed.emit(pointed)

    def set_theme(self, theme: Theme) -> None:
        """Apply the theme."""
        self.strip.theme = theme
        self.strip.update()


def match_words(found: MatchedCard) -> str:
    """Say in words how a card fits the log."""
    match = found.match
    if not found.frames and not found.known:
        return "There is no picture with a time in this folder."
    told = [clock_words(clock) for clock in match.clocks]
    if not match.clocks and found.frames:
        told.append("No clock was found at which the pictures fit the shots.")
    told.append(found.tally)
    if found.clock_cards:
        told.insert(0, f"The clock card was read off {counted(found.clock_cards, 'picture')}.")
    if found.known:
        told.append(f"{counted(len(found.known), 'picture')} in the log already.")
    return " ".join(told)


def clock_words(clock: Clock) -> str:
    """Say how a camera's clock stands against UTC, and how sure that is."""
    away = abs(clock.offset_s)
    hours, rest = divmod(round(away), 3600)
    minutes, seconds = divmod(rest, 60)
    parts = [f"{n} {unit}" for n, unit in ((hours, "h"), (minutes, "min"), (seconds, "s")) if n] or ["0 s"]
    way = "ahead of" if clock.offset_s >= 0 else "behind"
    drift = f", drifts by {clock.drift_s_per_day:+.1f} s a day" if clock.drift_is_known else ""
    return f"The camera's clock is {' '.join(parts)} {way} UTC{drift} ({clock.weight:.0%} likely)."
