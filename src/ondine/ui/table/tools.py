"""What hands do at the table: the tools that the stages share, each joined with the studio."""

from __future__ import annotations

from ondine.studio.studio import Studio
from ondine.ui.kit.foresight import Foresight
from ondine.ui.kit.shot_in_view import ShotInView
from ondine.ui.table.checks import Checks
from ondine.ui.table.editor import SetupEditor
from ondine.ui.table.library import Library
from ondine.ui.table.light_control import LightControl
from ondine.ui.table.signals import TableSignals
from ondine.ui.table.valve_control import ValveControl


class TableTools:
    """One of each tool. Edits go to the studio as whole set-ups; only the window's own choices live here."""

    def __init__(self, studio: Studio, in_view: ShotInView, foresight: Foresight) -> None:
        self.studio, self.foresight = studio, foresight
        self.signals = TableSignals(in_view)
        self.in_view = in_view
        self.editor = SetupEditor(studio, self.signals)
        self.valve = ValveControl(studio, self.signals)
        self.light = LightControl(studio, self.editor, in_view, self.signals)
        self.library = Library(studio, self.editor, in_view, self.signals)
        self.checks = Checks(studio, self.signals)
