"""Without a display Qt aborts the program; here a sentence says what is missing and what works without it."""

from __future__ import annotations

import os
import sys
from typing import NoReturn

from PySide6.QtCore import QMessageLogContext, QtMsgType, qInstallMessageHandler

NO_DISPLAY = (
    "Ondine cannot open a window here: {why}. Start it from a desktop, or set DISPLAY or WAYLAND_DISPLAY. Without a "
    "window work ondine forecast, import, export, rescue, and --screenshot."
)
FAILED = 2


def explain_missing_display() -> None:
    """Say in a sentence why no window can be opened, instead of aborting; called before Qt is started."""
    if "QT_QPA_PLATFORM" not in os.environ and not (os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY")):
        _end("there is no display")
    qInstallMessageHandler(_before_the_window)


def _before_the_window(kind: QtMsgType, context: QMessageLogContext, message: str) -> None:
    if kind is QtMsgType.QtFatalMsg:
        shown = os.environ.get("WAYLAND_DISPLAY") or os.environ.get("DISPLAY") or os.environ.get("QT_QPA_PLATFORM")
        _end(f"the display {shown} does not answer, or a library that Qt needs is missing (./dev names them)")


def _end(why: str) -> NoReturn:
    print(NO_DISPLAY.format(why=why), file=sys.stderr)
    sys.stderr.flush()
    # Qt would abort on return, and nothing has been opened yet.
    os._exit(FAILED)
