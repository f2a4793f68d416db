"""Runs the program with its window, or draws one view of it into a file."""

from __future__ import annotations

import sys
import time
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from importlib.resources import files
from pathlib import Path

from PySide6.QtCore import QBuffer, QElapsedTimer, QLocale, Qt
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QApplication

from ondine.logbook.errors import LogbookError, LogbookInUseError
from ondine.logbook.writing import PNG, check_target, write_whole
from ondine.studio.desktop import APP_ID
from ondine.studio.foreseen.preview import in_own_process
from ondine.studio.log_file import keep_log
from ondine.studio.places import Places
from ondine.studio.worker import Guard
from ondine.ui.kit import theme as themes
from ondine.ui.log.kinds import ATLAS, CARD, COMPARE, FILM, GROUPS, TABLE
from ondine.ui.shell.before import Progress, prepared, tell
from ondine.ui.shell.display import explain_missing_display
from ondine.ui.shell.ending import EndSignals
from ondine.ui.shell.hooks import install_hooks
from ondine.ui.shell.main_window import MainWindow
from ondine.ui.shell.opening import Opening
from ondine.ui.shell.second_start import raise_first_window
from ondine.ui.shell.windows import Windows, no_window_words, open_window
from ondine.ui.table.stages import STAGES

IS_READY = "isReady"
"""The property of an application that has Ondine's style and fonts."""


@dataclass(frozen=True)
class Shot:
    """A picture of a view to draw and quit."""

    path: Path
    view: str
    size: tuple[int, int]


def application() -> QApplication:
    """Return the one QApplication, with Ondine's fonts loaded and one way of writing numbers for everybody."""
    existing = QApplication.instance()
    if existing is None:
        explain_missing_display()
    app = existing if isinstance(existing, QApplication) else QApplication(sys.argv[:1])
    app.setApplicationName("Ondine")
    app.setDesktopFileName(APP_ID)
    app.setWindowIcon(QIcon(str(files("ondine") / "assets" / "desktop" / f"{APP_ID}.png")))
    # The words are English and the figures have a point, whatever the system's language (docs/decisions/018).
    QLocale.setDefault(QLocale.c())
    app.setLayoutDirection(Qt.LayoutDirection.LeftToRight)
    if not app.property(IS_READY):
        app.setProperty(IS_READY, True)
        # Once: it goes through every widget.
        app.setStyle("Fusion")
        themes.load_fonts()
        app.setFont(themes.font())
    return app


def run(
    opening: Callable[[], Opening],
    theme: str | None,
    prepare: Callable[[Progress], None] | None,
    places: Places,
    remembers: bool = True,
) -> int:
    """Show the window until it is closed. `prepare(progress)` runs first, in the background.

    remembers : whether the next start opens this logbook again.
    """
    app = application()
    log = keep_log()
    # Until there is a window, what nobody expected is only logged.
    guard = Guard(lambda _: None)
    install_hooks(guard, lambda: None)
    signals = EndSignals(app.quit, app)
    if prepare is not None and not prepared(app, prepare):
        return 1
    opened = opening()
    windows = Windows(places, theme, signals)
    try:
        windows.show(opened, remembers)
    except LogbookInUseError as error:
        if raise_first_window(error.path, opened.take):
            print(f"The logbook {error.path} is open already: its window is in front now.")
            return 0
        return tell(app, str(error), theme)
    except LogbookError as error:
        return tell(app, str(error), theme)
    except Exception as error:  # noqa: BLE001 - there is no window yet that could tell it
        guard.tell("opening the window", error)
        return tell(app, no_window_words(opened.logbook, log), theme)
    return app.exec()


def screenshot(opening: Opening, theme: str | None, shot: Shot) -> int:
    """Draw one view into a PNG and quit. Raises LogbookError, WriteError."""
    # Before anything is drawn: a slip in the name shall cost nothing.
    check_target(shot.path, PNG)
    app = application()
    window = open_window(opening, theme, tracer=in_own_process)
    window.resize(*shot.size)
    window.show()
    spoke = window.bench.coach_speaks
    show_view(window, shot.view)
    settle(app, window)
    held = QBuffer()
    window.grab().save(held, "PNG")
    if window.bench.coach_speaks != spoke:
        # The logbook remembers whether the coach speaks; a picture leaves it as it was.
        window.coach.toggle()
    window.close()
    write_whole(shot.path, lambda file: file.write(held.data().data()), PNG)
    return 0


def show_log(window: MainWindow, kind: str) -> None:
    """Go to the log, and look at it one way or another."""
    window.navigation.toggle_log()
    window.log.show_as(kind)


def show_card(window: MainWindow) -> None:
    """Go to the page of a camera's card; where one lies beside the logbook, as the demo's does, it is read."""
    show_log(window, CARD)
    beside = window.logbook.parent / "card"
    if beside.is_dir():
        window.log_door.room.card.read(beside)


def show_view(window: MainWindow, view: str) -> None:
    """Go to a view by its name: the bench, a stage of the table, or what a key opens."""
    actions: dict[str, Callable[[], object]] = {
        "start": window.choice.open,
        "close-up": window.bench.chart.toggle_close_up,
        "times": window.bench.desk.toggle_times,
        "coach": window.coach.open,
        "map": window.coach.show_map,
        "practice": window.practice.toggle,
        "card": window.side.toggle_card,
        "log": window.navigation.toggle_log,
        "log-table": partial(show_log, window, TABLE),
        "atlas": partial(show_log, window, ATLAS),
        "timings": partial(show_log, window, GROUPS),
        "compare": partial(show_log, window, COMPARE),
        "film": partial(show_log, window, FILM),
        "import": partial(show_card, window),
        "in-and-out": lambda: window.log_door.room.exchange.toggle(),
        "sitting": lambda: window.log_door.room.sitting.toggle(),
        "shapes": window.own_shapes.toggle,
        "keys": window.navigation.toggle_keys,
    }
    if view in actions:
        actions[view]()
    elif view in {stage.key for stage in STAGES}:
        window.side.open_stage(view)
        if view == "expose":
            window.side.tools.light.read_last()


PICTURE_WITHIN_MS = 180_000
"""So long a view that is drawn into a file waits for the coach, and for the foreseen picture: its tracer may have to be
compiled.
"""


def settle(app: QApplication, window: MainWindow, least_ms: int = 400) -> None:
    """Let events, pictures and the coach's words arrive."""
    app.processEvents()
    window.studio.log.wait()
    clock = QElapsedTimer()
    clock.start()
    while clock.elapsed() < least_ms:
        app.processEvents()
        window.loader.wait()
        time.sleep(0.01)
        log = window.log_door.opened
        waits_for_atlas = log is not None and log.view.is_atlas and not log.view.atlas.is_foreseen
        if (
            waits_for_atlas or not (window.foresight.is_finished and window.coach.has_spoken)
        ) and clock.elapsed() < PICTURE_WITHIN_MS:
            least_ms = max(least_ms, clock.elapsed() + 50)
