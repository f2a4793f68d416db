"""Reads test frames and writes background sheets, in a thread of its own."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from ondine.logbook.intake import PictureError
from ondine.logbook.trial_frame import read_trial_frame
from ondine.studio.background import BackgroundSheet, SheetError, write_sheet
from ondine.studio.events import Event, Notice, TrialFrameRead, Trouble


class LightTable:
    """Answers with events, from its own thread."""

    def __init__(self, emit: Callable[[Event], None]) -> None:
        self._emit = emit
        self._thread = ThreadPoolExecutor(max_workers=1, thread_name_prefix="light-table")

    def read(self, path: Path) -> None:
        """Read a test frame; it comes as `TrialFrameRead`."""

        def run() -> None:
            try:
                self._emit(TrialFrameRead(read_trial_frame(path)))
            except PictureError as error:
                self._emit(Trouble(str(error)))

        self._thread.submit(run)

    def write(self, sheet: BackgroundSheet, size_m: tuple[float, float], path: Path) -> None:
        """Write a background sheet."""

        def run() -> None:
            try:
                write_sheet(sheet, size_m, path)
                inches = f"{size_m[0] * 1e3:.0f} by {size_m[1] * 1e3:.0f} mm"
                self._emit(Notice(f"{path.name} is written. Print it at its true size, {inches}, without fitting."))
            except SheetError as error:
                self._emit(Trouble(str(error)))

        self._thread.submit(run)

    def close(self) -> None:
        """Finish what is under way."""
        self._thread.shutdown(wait=True, cancel_futures=True)
