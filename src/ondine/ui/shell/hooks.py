"""Where exceptions and warnings end that nobody caught, in any thread and in Qt itself."""

from __future__ import annotations

import logging
import sys
import threading
from collections.abc import Callable
from types import TracebackType

from PySide6.QtCore import QMessageLogContext, QtMsgType, qInstallMessageHandler

from ondine.studio.worker import LOG, Guard

DISPLAY_LOST = "connection broke"
"""What Qt says, of X11 and of Wayland alike, just before it ends the program."""

LEVELS = {
    QtMsgType.QtDebugMsg: logging.DEBUG,
    QtMsgType.QtInfoMsg: logging.INFO,
    QtMsgType.QtWarningMsg: logging.WARNING,
    QtMsgType.QtCriticalMsg: logging.ERROR,
    QtMsgType.QtFatalMsg: logging.CRITICAL,
}


def install_hooks(guard: Guard, display_lost: Callable[[], None]) -> None:
    """Tell and log what nobody caught; call `display_lost()` while there is still time to write."""

    def in_window(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        guard.tell("in the window", error)

    def in_thread(happened: threading.ExceptHookArgs) -> None:
        if happened.exc_value is not None:
            guard.tell(f"in the thread {happened.thread.name if happened.thread else '?'}", happened.exc_value)

    def of_qt(kind: QtMsgType, context: QMessageLogContext, message: str) -> None:
        LOG.log(LEVELS.get(kind, logging.WARNING), "Qt: %s", message)
        if kind is not QtMsgType.QtDebugMsg:
            print(message, file=sys.stderr)
        if DISPLAY_LOST in message:
            display_lost()

    sys.excepthook = in_window
    threading.excepthook = in_thread
    qInstallMessageHandler(of_qt)
