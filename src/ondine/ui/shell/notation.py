"""Sequences as lines on the clipboard: for paper, messages, and another Ondine."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtGui import QGuiApplication

from ondine.core.table.firing import problems
from ondine.core.timing.arrange import part_of
from ondine.core.timing.conventions import ConventionError, LightFrom, Predicts, nothing_predicted
from ondine.core.timing.notation import NotationError, is_part, read, read_part, write, write_part
from ondine.core.timing.sequence import Sequence
from ondine.studio.studio import Studio
from ondine.ui.bench.page import BenchPage
from ondine.ui.kit.actions import Actions
from ondine.ui.kit.shot_in_view import ShotInView
from ondine.ui.shell.desk_actions import DeskActions
from ondine.ui.shell.messages import Messages


class NotationActions:
    """Copies what is selected, or the sequence in hand, or that of the shot in view, and pastes what was copied."""

    def __init__(
        self, studio: Studio, bench: BenchPage, desk: DeskActions, in_view: ShotInView, messages: Messages
    ) -> None:
        self._studio, self._bench, self._desk = studio, bench, desk
        self._in_view, self._messages = in_view, messages

    def key_actions(self) -> Actions:
        """What keys can ask for."""
        return {"copy_line": self.copy, "copy_line_of_shot": self.copy_of_shot, "paste_line": self.paste}

    def copy(self) -> None:
        """Copy the sequence in hand; where several of its parts are selected, these alone."""
        sequence, selection = self._studio.composer.sequence, self._bench.chart.selection
        part = part_of(sequence, selection.items)
        if selection.others and (part.drops or part.flashes):
            self._put_up(write_part(part))
        else:
            self._copy(sequence, self._studio.composer.predicts())

    def copy_of_shot(self) -> None:
        """Copy the sequence of the shot in view."""
        shot = self._in_view.shot
        if shot is not None:
            self._copy(shot.sequence, None)

    def _copy(self, sequence: Sequence, predicts: Predicts | None) -> None:
        """Copy a sequence as times are counted now; from the trigger where that cannot be told."""
        convention = self._bench.desk.convention
        try:
            line = write(sequence, convention, predicts=predicts or nothing_predicted)
        except ConventionError:
            line = write(sequence, replace(convention, light_from=LightFrom.TRIGGER))
        self._put_up(line)

    def _put_up(self, line: str) -> None:
        QGuiApplication.clipboard().setText(line)
        self._messages.notice(f"Copied: {line}")

    def paste(self) -> None:
        """Take the sequence in hand that the clipboard tells; put parts of one in."""
        text = QGuiApplication.clipboard().text()
        try:
            if is_part(text):
                self._desk.paste(read_part(text))
            else:
                self._use(read(text, self._studio.composer.predicts()).sequence)
        except (NotationError, ConventionError) as error:
            self._messages.trouble(f"The clipboard holds no sequence. {error}")

    def _use(self, sequence: Sequence) -> None:
        """Take a sequence in hand, and say at once if nothing would fire it."""
        composer = self._studio.composer
        composer.use_sequence(sequence)
        found = problems(sequence, composer.setup)
        if found:
            self._messages.trouble(f"Pasted, but it cannot be fired so. {found[0].says}")
