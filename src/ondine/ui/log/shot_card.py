"""What is known of the shot under the cursor: its picture, timing, tags, labels and note."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QLineEdit, QVBoxLayout, QWidget

from ondine.logbook.records import ShotRecord
from ondine.ui.kit.mark import SIMULATED
from ondine.ui.kit.picture_view import PictureView
from ondine.ui.kit.pictures import PictureLoader
from ondine.ui.kit.shot_list import outcome_words, timing_words
from ondine.ui.kit.tag_board import TagBoard
from ondine.ui.kit.theme import BODY_PX, GRID_PX, SMALL_PX, Theme
from ondine.ui.kit.words import Words

WIDE_PX = 300


class ShotCard(QWidget):
    """Emits `noted(shot, text)`, and `labelled(word, on)`, the latter for all that is selected; so does its board."""

    noted = Signal(object, str)
    labelled = Signal(str, bool)

    def __init__(self, loader: PictureLoader, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._shown: ShotRecord | None = None
        self._selected = 0
        self.picture = PictureView(loader)
        self.head = Words(BODY_PX, lines=1, bold=True, role="ink")
        self.outcome = Words(BODY_PX, lines=2, role="ink")
        self.detail = Words(SMALL_PX, lines=4)
        self.note = QLineEdit()
        self.note.setAccessibleName("Note on the shot under the cursor")
        self.note.setPlaceholderText("Note on this shot  F8")
        self.note.setMaxLength(500)
        self.note.editingFinished.connect(self.keep_note)
        self.label = QLineEdit()
        self.label.setAccessibleName("Label for the selected shots")
        self.label.setPlaceholderText("Add a label, -label takes it off  Ctrl J")
        self.label.setMaxLength(60)
        self.label.returnPressed.connect(self._give_label)
        self.board = TagBoard(is_small=True)
        self.picture.setFixedSize(WIDE_PX, WIDE_PX * 2 // 3)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(GRID_PX // 2)
        for widget in (self.picture, self.head, self.outcome, self.detail, self.note, self.label):
            column.addWidget(widget)
        column.addSpacing(GRID_PX)
        column.addWidget(self.board)
        column.addStretch(1)

    def show_shot(self, shot: ShotRecord | None, selected: int = 1) -> None:
        """Show a shot, and how many are selected; None while there is none."""
        if self._shown is not None and (shot is None or shot.id != self._shown.id):
            self.keep_note()
        self._shown, self._selected = shot, selected
        self.board.show_tags(() if shot is None else shot.shapes, shot is not None)
        for field in (self.note, self.label):
            field.setEnabled(shot is not None)
        if shot is None:
            self.picture.show_picture(None, "The picture of the shot under the cursor comes here.")
            for words in (self.head, self.outcome, self.detail):
                words.set_text("")
            self.note.clear()
            return
        without = "" if shot.picture else "No picture has come to this shot."
        self.picture.show_picture(shot.picture, without, SIMULATED if shot.is_simulated else "")
        more = f"   and {selected - 1} more selected" if selected > 1 else ""
        self.head.set_text(f"Shot {shot.id}{more}")
        rated = "●" * shot.rating + "○" * (5 - shot.rating)
        kept = "   keeper" if shot.keeper else ""
        self.outcome.set_text(f"{outcome_words(shot).capitalize()}\n{rated}{kept}")
        labels = f"\nLabels: {', '.join(shot.labels)}" if shot.labels else ""
        fired = shot.at.astimezone().strftime("%Y-%m-%d %H:%M:%S")
        self.detail.set_text(f"{timing_words(shot)}\n{shot.sitting}\n{fired}{labels}")
        if not self.note.isModified():
            self.note.setText(shot.note)

    def show_picture_of(self, path: Path, shot_id: int) -> None:
        """Show a picture that may be a shot's, before it is logged."""
        self.keep_note()
        self._shown = None
        for field in (self.note, self.label):
            field.setEnabled(False)
        self.note.clear()
        self.picture.show_picture(path, "")
        self.head.set_text(path.name)
        self.outcome.set_text(f"Shot {shot_id}?")
        self.detail.set_text("")

    def keep_note(self) -> None:
        """Keep a note that is being typed."""
        if self._shown is not None and self.note.isModified():
            self.noted.emit(self._shown, self.note.text())
            self.note.setModified(False)

    def _give_label(self) -> None:
        word = " ".join(self.label.text().split())
        self.label.clear()
        if word.lstrip("-").strip():
            self.labelled.emit(word.lstrip("-").strip(), not word.startswith("-"))

    def set_theme(self, theme: Theme) -> None:
        """Apply the theme."""
        self.board.set_theme(theme)
        for part in (self.picture, self.head, self.outcome, self.detail):
            part.theme = theme
            part.update()
