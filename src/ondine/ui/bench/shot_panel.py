"""The shot in view: its picture, what is known of it, its note, and the question whether the picture is its own."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from PySide6.QtCore import QTimer, Signal
from PySide6.QtWidgets import QLineEdit, QVBoxLayout, QWidget

from ondine.logbook.pairing import ARRIVES_WITHIN
from ondine.logbook.records import ShotRecord
from ondine.ui.bench.question import PictureQuestion
from ondine.ui.kit.mark import SIMULATED
from ondine.ui.kit.picture_view import PictureView
from ondine.ui.kit.pictures import PictureLoader
from ondine.ui.kit.shot_list import no_picture_words, outcome_words, timing_words
from ondine.ui.kit.theme import SMALL_PX
from ondine.ui.kit.words import Words


class ShotPanel(QWidget):
    """Emits `noted(shot, text)` and `answered(whether the picture is this shot's)`."""

    noted = Signal(object, str)
    answered = Signal(bool)

    def __init__(self, loader: PictureLoader, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.picture = PictureView(loader)
        self.detail = Words(SMALL_PX, lines=2, role="ink")
        self.note = QLineEdit()
        self.note.setAccessibleName("Note on the shot in view")
        self.note.setPlaceholderText("Note on this shot  F8")
        self.note.setToolTip("What you read off the picture, as in “height 23 mm” or “width 40 mm”, teaches the coach")
        self.note.setMaxLength(500)
        self.note.editingFinished.connect(self.keep_note)
        self.question = PictureQuestion()
        self.question.answered.connect(self.answered)
        self._shown: ShotRecord | None = None
        # A picture that does not come is not waited for for ever.
        self._patience = QTimer(self)
        self._patience.setSingleShot(True)
        self._patience.setInterval(ARRIVES_WITHIN // timedelta(milliseconds=1) + 1000)
        self._patience.timeout.connect(self._show_picture)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.picture)
        column.addSpacing(4)
        for widget in (self.detail, self.note, self.question):
            column.addWidget(widget)

    def show_shot(self, shot: ShotRecord | None) -> None:
        """Show a shot; None while there is none."""
        before = self._shown
        if before is not None and (shot is None or shot.id != before.id):
            # A note that is being typed is about the shot that was in view.
            self.keep_note()
        self._shown = shot
        self._show_picture()
        asked = shot is not None and not shot.picture_sure
        self.question.setVisible(asked)
        self.note.setVisible(not asked)
        self.note.setEnabled(shot is not None)
        self._show_words()

    def _show_words(self) -> None:
        shot = self._shown
        if shot is None:
            self.detail.set_text("")
            self.note.clear()
            return
        rated = f"   {'●' * shot.rating}{'○' * (5 - shot.rating)}" if shot.rating else ""
        outcome = outcome_words(shot).capitalize()
        if shot.picture and not shot.outcome_known:
            outcome += ": press its letter"
        self.detail.set_text(f"Shot {shot.id}   {timing_words(shot)}{rated}\n{outcome}")
        if not self.note.isModified():
            self.note.setText(shot.note)

    def _show_picture(self) -> None:
        shot = self._shown
        if shot is None:
            self.picture.show_picture(None, "The picture of the next shot comes here. Press Space to fire.")
            return
        words = "" if shot.picture else no_picture_words(shot, datetime.now(UTC))
        self.picture.show_picture(shot.picture, words, SIMULATED if shot.is_simulated else "")
        if not shot.picture:
            self._patience.start()

    def keep_note(self) -> None:
        """Keep a note that is being typed."""
        if self._shown is not None and self.note.isModified():
            self.noted.emit(self._shown, self.note.text())
            self.note.setModified(False)
