"""The course of a sitting in the window, and its report as a PDF, drawn beside all else."""

from __future__ import annotations

import threading
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QRunnable, QThreadPool, Signal
from PySide6.QtWidgets import QWidget

from ondine.logbook.writing import WriteError
from ondine.studio.log_events import ShotsFound, SittingTold
from ondine.studio.studio import Studio
from ondine.ui.kit.actions import Actions
from ondine.ui.kit.bridge import Bridge
from ondine.ui.kit.files import ask_where_to_write
from ondine.ui.log.view import LogView
from ondine.ui.shell.messages import Messages
from ondine.ui.shell.navigation import Navigation

if TYPE_CHECKING:
    # SQLAlchemy stands behind it.
    from ondine.studio.sitting_report import SittingReport


class _Drawing(QRunnable):
    """Draws one report in a thread of the pool."""

    def __init__(self, report: SittingReport, out: Path, told: _Told, stop: threading.Event) -> None:
        super().__init__()
        self._report, self._out, self._told, self._stop = report, out, told, stop

    def run(self) -> None:
        """Draw it, and tell what came of it."""
        from ondine.ui.log.report_pdf import write_report

        try:
            whole = write_report(self._report, self._out, self._told.went_on.emit, self._stop.is_set)
        except WriteError as error:
            self._told.failed.emit(str(error))
        except Exception as error:  # noqa: BLE001 - no thread may end without a word
            self._told.failed.emit(f"The report could not be drawn ({error}). Nothing was written.")
        else:
            self._told.ended.emit(f"The report is written to {self._out}." if whole else "The report is not written.")


class _Told(QObject):
    went_on = Signal(int, int)
    failed = Signal(str)
    ended = Signal(str)


class SittingActions:
    """Joins the page with the studio."""

    def __init__(
        self, window: QWidget, studio: Studio, log: LogView, navigation: Navigation, messages: Messages, bridge: Bridge
    ) -> None:
        self._window, self._studio, self._log = window, studio, log
        self._navigation, self._page = navigation, log.sitting
        self._pool = QThreadPool(window)
        self._pool.setMaxThreadCount(1)
        self._stop = threading.Event()
        self._told = _Told(window)
        self.drawer = navigation.add_drawer("Over the sitting", self._page)
        log.sitting_wanted.connect(self.toggle)
        self._page.report_wanted.connect(self._ask)
        log.exchange.cancelled.connect(self._stop.set)
        self._told.went_on.connect(lambda done, of: log.exchange.show_progress("Drawing the report", done, of))
        for signal, tell in ((self._told.failed, messages.trouble), (self._told.ended, messages.notice)):
            signal.connect(tell)
            signal.connect(lambda _: log.exchange.show_progress("", 0, 0))
        bridge.on(SittingTold, lambda event: self._page.show_report(event.report))
        bridge.on(ShotsFound, lambda _: self._tell() if self._page.isVisible() else None)

    def key_actions(self) -> Actions:
        """What keys can ask for."""
        return {"sitting_course": self.toggle}

    def toggle(self) -> None:
        """Open or close the course of the sitting of the shot under the cursor."""
        if not self._navigation.in_log:
            self._navigation.toggle_log()
        self._tell()
        self._navigation.toggle(self.drawer)
        if self._page.isVisible():
            self._page.write.setFocus()

    def _tell(self) -> None:
        current = self._log.current_number()
        if current is not None:
            self._studio.log_exchange.tell_sitting(current)

    def _ask(self) -> None:
        report = self._page.report
        if report is not None:
            name = f"{report.sitting.started_at.astimezone():%Y-%m-%d}-report.pdf"
            ask_where_to_write(
                self._window, "Write the report", name, "PDF (*.pdf)", lambda path: self.draw(report, path)
            )

    def draw(self, report: SittingReport, out: Path) -> None:
        """Draw a report into a file, beside all else."""
        self._stop.clear()
        self._pool.start(_Drawing(report, out, self._told, self._stop))

    def end(self) -> None:
        """Stop a report that is being drawn; what is not whole is not written."""
        self._stop.set()
        self._pool.waitForDone()
