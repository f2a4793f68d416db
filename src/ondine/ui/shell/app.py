"""Starts the window: from a logbook to a studio to a picture on the screen."""

from __future__ import annotations

import gc
import sys
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QBuffer, QElapsedTimer, Qt, QThread, QTimer, Signal
from PySide6.QtWidgets import QApplication, QLabel, QProgressBar, QVBoxLayout, QWidget

from ondine.bench.simulated.devices import simulated_bench
from ondine.core.forecast.plan import Plan
from ondine.core.setup import Setup
from ondine.core.timing.sequence import Pulse, Sequence
from ondine.logbook.errors import RESCUE, LogbookError, LogbookInUseError
from ondine.logbook.file import ClaimedFile, claim, real_path
from ondine.logbook.intake import PictureError
from ondine.logbook.migrate import migrated
from ondine.logbook.snapshot import take_snapshot
from ondine.logbook.writing import PNG, check_target, write_whole
from ondine.studio.events import Notice
from ondine.studio.log_file import keep_log
from ondine.studio.studio import Studio, now
from ondine.studio.worker import LOG, Guard, details_of
from ondine.ui.kit import theme as themes
from ondine.ui.kit.bridge import Bridge
from ondine.ui.shell.ending import EndSignals
from ondine.ui.shell.hooks import install_hooks
from ondine.ui.shell.main_window import MainWindow
from ondine.ui.shell.second_start import SecondStarts, raise_first_window
from ondine.ui.table.stages import STAGES

if TYPE_CHECKING:
    from ondine.logbook.store import Logbook

PREPARE_AFTER_MS = 1500
"""The window is drawn first."""

FIRST_FRAME_S = 1.0
"""The logbook waits no longer for a window to be drawn; some never are."""

STRIP_SHOTS = 60
"""How many of the newest shots the strip holds."""

FRESH_START = Plan(Sequence((Pulse(0, 22_000), Pulse(95_000, 22_000)), 350_000), Setup())


@dataclass(frozen=True)
class Opening:
    """How a window is opened: which logbook, which simulated rig, and where pictures arrive."""

    logbook: Path
    folder: Path | None
    sitting: str
    seed: int
    start: Plan


@dataclass(frozen=True)
class Shot:
    """A picture of a view to draw and quit."""

    path: Path
    view: str
    size: tuple[int, int]


def fresh(logbook: Path, folder: Path | None) -> Opening:
    """Open a logbook of one's own."""
    return Opening(logbook, folder, "Sitting", 1, FRESH_START)


def application() -> QApplication:
    """Return the one QApplication, with Ondine's fonts loaded."""
    existing = QApplication.instance()
    app = existing if isinstance(existing, QApplication) else QApplication(sys.argv[:1])
    app.setApplicationName("Ondine")
    app.setDesktopFileName("ondine")
    app.setStyle("Fusion")
    themes.load_fonts()
    return app


def open_window(opening: Opening, theme: str | None = None, stays: bool = False) -> MainWindow:
    """Join logbook, bench, studio and window. Raises LogbookError.

    A window that `stays` gets its camera ready beside it; one that is only drawn needs none.
    """
    claimed = claim(opening.logbook)
    try:
        # Once after an update: what was in hand is read from the file as it is now.
        claimed = migrated(claimed)
        found = take_snapshot(claimed, STRIP_SHOTS)
    except BaseException:
        claimed.release()
        raise
    bridge, drawn = Bridge(), threading.Event()
    controller, camera = simulated_bench(opening.seed, now, time.sleep)
    studio = Studio(
        lambda: _logbook(claimed, drawn), found, controller, camera, now, bridge.send, opening.start, opening.sitting
    )
    try:
        chosen = themes.THEMES[theme or studio.kept.read("theme", _theme_name, "day")]
        window = MainWindow(studio, bridge, opening.logbook.stem, chosen)
    except BaseException:
        # Nothing of it may go on without its window.
        drawn.set()
        studio.close()
        raise
    bridge.setParent(window)
    window.drawn.connect(drawn.set)
    beside = opening.logbook.parent / "incoming"
    folder = opening.folder or studio.kept.read("folder", _folder, beside)
    studio.intake.watch(folder, make=folder == beside)
    studio.say_what_was_set_aside()
    if stays:
        told = lambda over: bridge.send(_ready_words(over))  # noqa: E731
        QTimer.singleShot(PREPARE_AFTER_MS, window, lambda: camera.prepare(told))
    return window


def _theme_name(text: str) -> str:
    if text not in themes.THEMES:
        raise ValueError(f"there are no colours {text}")
    return text


def _folder(text: str) -> Path:
    if not text or "\0" in text:
        raise ValueError("that is no folder")
    return Path(text)


def _ready_words(over: bool) -> Notice:
    if over:
        return Notice("The simulated camera is ready.")
    return Notice("The simulated camera is compiled, once on this computer: its first picture comes in half a minute.")


def _logbook(claimed: ClaimedFile, drawn: threading.Event) -> Logbook:
    # SQLAlchemy takes half a second to load, and would slow down the first frame, which needs none of it.
    drawn.wait(FIRST_FRAME_S)
    from ondine.logbook.store import Logbook

    # What is loaded by now stays. Looking through it for what can be let go stalls a drag for a tenth of a second.
    gc.freeze()
    return Logbook(claimed)


def run(
    opening: Callable[[], Opening], theme: str | None, prepare: Callable[[Callable[[int, int], None]], None] | None
) -> int:
    """Show the window until it is closed. `prepare(progress)` runs first, in the background."""
    app = application()
    log = keep_log()
    # Until there is a window, what nobody expected is only logged.
    guard = Guard(lambda _: None)
    install_hooks(guard, lambda: None)
    signals = EndSignals(app.quit, app)
    if prepare is not None and not _prepared(app, prepare):
        return 1
    opened = opening()
    try:
        window = open_window(opened, theme, stays=True)
    except LogbookInUseError as error:
        if raise_first_window(error.path):
            print(f"The logbook {error.path} is open already: its window is in front now.")
            return 0
        return _tell(app, str(error), theme)
    except LogbookError as error:
        return _tell(app, str(error), theme)
    except Exception as error:  # noqa: BLE001 - there is no window yet that could tell it
        guard.tell("opening the window", error)
        return _tell(app, _no_window_words(opened.logbook, log), theme)
    _watch_over(window, opened.logbook, signals)
    window.show()
    return app.exec()


def _watch_over(window: MainWindow, logbook: Path, signals: EndSignals) -> None:
    """See to it that a window ends in order, tells what nobody caught, and comes forth at a second start."""
    install_hooks(window.studio.guard, window.keep_and_end)
    signals.end = window.end_now
    if signals.came:
        QTimer.singleShot(0, window, window.end_now)

    def come_forth() -> None:
        window.setWindowState(window.windowState() & ~Qt.WindowState.WindowMinimized)
        window.show()
        window.raise_()
        window.activateWindow()

    window.drawn.connect(lambda: SecondStarts(real_path(logbook), come_forth, window))


def _no_window_words(logbook: Path, log: Path | None) -> str:
    where = f" The details for a report are in {log}." if log is not None else ""
    return (
        f"The logbook {logbook} could not be shown, for a reason that Ondine did not expect. It was left as it is."
        f"{where} {RESCUE}"
    )


def screenshot(opening: Opening, theme: str | None, shot: Shot) -> int:
    """Draw one view into a PNG and quit. Raises LogbookError, WriteError."""
    # Before anything is drawn: a slip in the name shall cost nothing.
    check_target(shot.path, PNG)
    app = application()
    window = open_window(opening, theme)
    window.resize(*shot.size)
    window.show()
    show_view(window, shot.view)
    settle(app, window)
    held = QBuffer()
    window.grab().save(held, "PNG")
    window.close()
    write_whole(shot.path, lambda file: file.write(held.data().data()), PNG)
    return 0


def show_view(window: MainWindow, view: str) -> None:
    """Go to a view by its name: the bench, a stage of the table, or what a key opens."""
    actions = {
        "close-up": window.bench.chart.toggle_close_up,
        "card": window.side.toggle_card,
        "log": window.navigation.toggle_log,
        "keys": window.navigation.toggle_keys,
    }
    if view in actions:
        actions[view]()
    elif view in {stage.key for stage in STAGES}:
        window.side.open_stage(view)
        if view == "expose":
            window.side.tools.light.read_last()


def settle(app: QApplication, window: MainWindow, least_ms: int = 400) -> None:
    """Let events and pictures arrive."""
    app.processEvents()
    window.studio.log.wait()
    clock = QElapsedTimer()
    clock.start()
    while clock.elapsed() < least_ms:
        app.processEvents()
        window.loader.wait()
        time.sleep(0.01)


class _Preparing(QThread):
    """Runs the preparation beside the window's thread."""

    progressed = Signal(int, int)

    def __init__(self, prepare: Callable[[Callable[[int, int], None]], None]) -> None:
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


def _prepared(app: QApplication, prepare: Callable[[Callable[[int, int], None]], None]) -> bool:
    page = QWidget()
    page.setWindowTitle("Ondine")
    themes.apply(app, themes.DAY)
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
        _tell(app, f"The demo could not be laid out: {worker.problem}", None)
    return not worker.problem


def _tell(app: QApplication, message: str, theme: str | None) -> int:
    """Say why there is no window, in a window."""
    themes.apply(app, themes.THEMES[theme or "day"])
    page = QWidget()
    page.setWindowTitle("Ondine")
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
    return 2
