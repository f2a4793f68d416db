"""What is shown before there is a window, or instead of one."""

from __future__ import annotations

import sys
from collections.abc import Callable

from PySide6.QtCore import QThread, Signal
from PySide6.QtWidgets import QApplication, QLabel, QProgressBar, QVBoxLayout, QWidget

from ondine.logbook.errors import LogbookError
from ondine.logbook.picture_error import PictureError
from ondine.studio.worker import LOG, details_of
from ondine.ui.kit import theme as themes

Progress = Callable[[int, int], None]
FAILED = 2


class _Preparing(QThread):
    """Runs the preparation beside the window's thread."""

    progressed = Signal(int, int)

    def __init__(self, prepare: Callable[[Progress], None]) -> None:
        super().__init__()
        self._prepare = prepare
        self.problem = ""

    def run(self) -> None:
        """See QThread."""
        try:
            self._prepare(self.progressed.emit)
        except (OSError, LogbookError, PictureError) as error:
            self.problem = str(error)
        except Exception as error:  # noqa: BLE001 - there is no window yet that could tell it
            LOG.error("%s", details_of("laying out the demo", error))
            self.problem = f"something unexpected, {error}. The file ondine.log has the details."


def prepared(app: QApplication, prepare: Callable[[Progress], None]) -> bool:
    """Lay out the demo beside a bar of progress; return whether that went well, having said so if not."""
    page = QWidget()
    page.setWindowTitle("Ondine")
    themes.apply(page, themes.DAY)
    words = QLabel("Laying out the demo: Tidal Mill, a season of three sittings")
    bar = QProgressBar()
    column = QVBoxLayout(page)
    column.addWidget(words)
    column.addWidget(bar)
    page.resize(480, 96)
    worker = _Preparing(prepare)
    worker.progressed.connect(lambda _, of: bar.setMaximum(of))
    worker.progressed.connect(lambda done, _: bar.setValue(done))
    worker.finished.connect(app.quit)
    page.show()
    worker.start()
    app.setQuitOnLastWindowClosed(False)
    app.exec()
    worker.wait()
    page.close()
    app.setQuitOnLastWindowClosed(True)
    if worker.problem:
        tell(app, f"The demo could not be laid out: {worker.problem}", None)
    return not worker.problem


def tell(app: QApplication, message: str, theme: str | None) -> int:
    """Say why there is no window, in a window; return the exit code."""
    page = QWidget()
    page.setWindowTitle("Ondine")
    themes.apply(page, themes.THEMES[theme or "day"])
    words = QLabel(message)
    words.setWordWrap(True)
    words.setMargin(24)
    words.setAccessibleName(message)
    column = QVBoxLayout(page)
    column.addWidget(words)
    page.resize(560, 200)
    page.show()
    print(message, file=sys.stderr)
    app.exec()
    return FAILED
