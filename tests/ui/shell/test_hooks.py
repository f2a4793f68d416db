"""What nobody caught is told and logged, wherever it was raised."""

import sys
import threading
from collections.abc import Iterator

import pytest
from PySide6.QtCore import QTimer, qInstallMessageHandler, qWarning

from ondine.studio.events import Trouble
from ondine.studio.worker import LOG, Guard
from ondine.ui.shell.hooks import install_hooks


@pytest.fixture
def told() -> Iterator[tuple[list[Trouble], list[str]]]:
    before = sys.excepthook, threading.excepthook
    troubles: list[Trouble] = []
    lost: list[str] = []
    install_hooks(Guard(troubles.append), lambda: lost.append("display"))
    yield troubles, lost
    sys.excepthook, threading.excepthook = before
    qInstallMessageHandler(None)


def test_an_exception_of_a_thread_is_told(told):
    thread = threading.Thread(target=lambda: 1 / 0, name="lonely")
    thread.start()
    thread.join()
    (trouble,) = told[0]
    assert "in the thread lonely" in trouble.message and "ZeroDivisionError" in trouble.details


def test_an_exception_in_the_window_is_told_and_the_window_goes_on(told, qtbot):
    went_on: list[int] = []
    QTimer.singleShot(0, lambda: 1 / 0)
    QTimer.singleShot(0, lambda: went_on.append(1))
    qtbot.waitUntil(lambda: bool(went_on))
    (trouble,) = told[0]
    assert "in the window" in trouble.message and "ZeroDivisionError" in trouble.details


def test_what_qt_says_is_logged_and_a_lost_display_is_noticed(told, caplog, capfd):
    LOG.addHandler(caplog.handler)
    try:
        qWarning("a font is missing")
        qWarning("The X11 connection broke (error 1). Did the X11 server die?")
    finally:
        LOG.removeHandler(caplog.handler)
    assert "Qt: a font is missing" in caplog.text and told[1] == ["display"]
    assert "a font is missing" in capfd.readouterr().err
