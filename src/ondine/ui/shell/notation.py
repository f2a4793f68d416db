"""Sequences as lines on the clipboard: for paper, messages, and another Ondine."""

from __future__ import annotations

from PySide6.QtGui import QGuiApplication

from ondine.core.forecast.landmarks import predicts_for
from ondine.core.timing.conventions import ConventionError
from ondine.core.timing.notation import NotationError, read, write
from ondine.core.timing.sequence import Sequence
from ondine.studio.studio import Studio
from ondine.ui.kit.actions import Actions
from ondine.ui.kit.shot_in_view import ShotInView
from ondine.ui.shell.messages import Messages


class NotationActions:
    """Copies the sequence in hand, or that of the shot in view, and pastes one."""

    def __init__(self, studio: Studio, in_view: ShotInView, messages: Messages) -> None:
        self._studio, self._in_view, self._messages = studio, in_view, messages

    def key_actions(self) -> Actions:
        """What keys can ask for."""
        return {"copy_line": self.copy, "copy_line_of_shot": self.copy_of_shot, "paste_line": self.paste}

    def copy(self) -> None:
        """Copy the sequence in hand."""
        self._copy(self._studio.composer.sequence)

    def copy_of_shot(self) -> None:
        """Copy the sequence of the shot in view."""
        shot = self._in_view.shot
        if shot is not None:
            self._copy(shot.sequence)

    def _copy(self, sequence: Sequence) -> None:
        line = write(sequence)
        QGuiApplication.clipboard().setText(line)
        self._messages.notice(f"Copied: {line}")

    def paste(self) -> None:
        """Take the sequence in hand that the clipboard tells."""
        plan = self._studio.composer.plan
        try:
            line = read(QGuiApplication.clipboard().text(), predicts_for(plan.setup, plan.belief))
        except (NotationError, ConventionError) as error:
            self._messages.trouble(f"The clipboard holds no sequence. {error}")
            return
        self._studio.composer.use_sequence(line.sequence)
