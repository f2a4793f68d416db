"""Reads test frames and writes background sheets, in a thread of its own."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from ondine.logbook.picture_error import PictureError
from ondine.logbook.trial_frame import read_trial_frame
from ondine.logbook.writing import WriteError
from ondine.studio.background import BackgroundSheet, SheetError, write_sheet
from ondine.studio.events import Event, Notice, TrialFrameRead, Trouble
from ondine.studio.worker import Guard, Worker


class LightTable:
    """Answers with events, from its own thread."""

    def __init__(self, emit: Callable[[Event], None], guard: Guard) -> None:
        self._emit = emit
        self._worker = Worker("light-table", "reading a test frame or writing a sheet", guard)

    def read(self, path: Path) -> None:
        """Read a test frame; it comes as `TrialFrameRead`."""

        def run() -> None:
            try:
                self._emit(TrialFrameRead(read_trial_frame(path)))
            except PictureError as error:
                self._emit(Trouble(str(error)))

        self._worker.do(run)

    def write(self, sheet: BackgroundSheet, size_m: tuple[float, float], path: Path) -> None:
        """Write a background sheet."""

        def run() -> None:
            try:
                write_sheet(sheet, size_m, path)
                inches = f"{size_m[0] * 1e3:.0f} by {size_m[1] * 1e3:.0f} mm"
                self._emit(Notice(f"{path.name} is written. Print it at its true size, {inches}, without fitting."))
            except (SheetError, WriteError) as error:
                self._emit(Trouble(str(error)))

        self._worker.do(run)

    def wait(self) -> None:
        """Wait until what was asked for is done; never called in a window that is used."""
        self._worker.wait()

    def close(self) -> None:
        """Finish what is under way."""
        self._worker.close(drop_waiting=True)
