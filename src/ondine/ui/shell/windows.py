"""The windows that are open, mostly one: each joins a logbook, a bench and a studio."""

from __future__ import annotations

import gc
import threading
import time
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QSettings, QSize, Qt, QTimer
from PySide6.QtGui import QGuiApplication

from ondine.bench.by_hand import by_hand_bench
from ondine.bench.protocol import Bench
from ondine.core.setup import BenchKind
from ondine.logbook.bench_kind import KEY, RIG_KEY, kept_bench
from ondine.logbook.errors import RESCUE, LogbookError, LogbookInUseError
from ondine.logbook.file import ClaimedFile, claim, real_path
from ondine.logbook.migrate import migrated
from ondine.logbook.snapshot import Snapshot, take_snapshot
from ondine.logbook.thumbnails import Thumbnails
from ondine.studio.events import Notice
from ondine.studio.foreseen.preview import StartTracer, in_own_process
from ondine.studio.places import Places
from ondine.studio.studio import Studio, now
from ondine.ui.kit import theme as themes
from ondine.ui.kit.bridge import Bridge
from ondine.ui.shell.ending import EndSignals
from ondine.ui.shell.hooks import install_hooks
from ondine.ui.shell.loading import collect_ended, uncollected
from ondine.ui.shell.main_window import MainWindow
from ondine.ui.shell.opening import Opening
from ondine.ui.shell.second_start import SecondStarts, raise_first_window

if TYPE_CHECKING:
    from ondine.logbook.store import Logbook

PREPARE_AFTER_MS = 1500
"""The window is drawn first."""

COLLECT_AFTER_MS = 500
"""After a window has ended beside another one, what it leaves is let go."""

FIRST_FRAME_S = 1.0
"""The logbook waits no longer for a window to be drawn; some never are."""

STRIP_SHOTS = 60
"""How many of the newest shots the strip holds."""

USUAL_SIZE = QSize(1280, 800)
TITLE_BAR_PX = 40
"""What a window manager may put round a window; it says how much only once the window is shown."""

MOST_RIG = 1 << 32


def open_window(
    opening: Opening,
    theme: str | None = None,
    stays: bool = False,
    tracer: StartTracer | None = None,
    thumbnails: Thumbnails | None = None,
) -> MainWindow:
    """Join logbook, bench, studio and window. Raises LogbookError.

    A window that `stays` gets its camera ready beside it; one that is only drawn needs none. Without a `tracer` the
    splash is drawn, not pictured. `thumbnails`: where small pictures are kept.
    """
    with uncollected():
        return _opened(opening, theme, stays, tracer, thumbnails)


def _opened(
    opening: Opening, theme: str | None, stays: bool, tracer: StartTracer | None, thumbnails: Thumbnails | None
) -> MainWindow:
    claimed = claim(opening.logbook)
    try:
        # Once after an update: what was in hand is read from the file as it is now.
        claimed = migrated(claimed)
        found = take_snapshot(claimed, STRIP_SHOTS)
        kind, asks = _kind_of(opening, claimed, found)
    except BaseException:
        claimed.release()
        raise
    bridge, drawn = Bridge(), threading.Event()
    bench = _bench(kind, _rig_of(opening, found))
    studio = Studio(
        lambda: _logbook(claimed, drawn), found, bench, now, bridge.send, opening.start, opening.sitting,
        start_tracer=tracer,
    )  # fmt: skip
    try:
        chosen = themes.THEMES[theme or studio.kept.read("theme", _theme_name, "day")]
        window = MainWindow(studio, bridge, opening.logbook, chosen, asks, thumbnails)
    except BaseException:
        # Nothing of it may go on without its window.
        drawn.set()
        studio.close()
        raise
    bridge.setParent(window)
    # The window keeps the event alive: a slot of an object that dies is taken off its signal in whatever thread it dies
    # in, and the logbook's would wait there for this one, which waits for it.
    window.drawn.connect(lambda: drawn.set())
    _begin(studio, opening, found, kind, asks)
    if opening.words:
        window.messages.notice(opening.words)
    if opening.take is not None:
        studio.exchange.read(opening.take)
    if stays and kind is BenchKind.SIMULATED:
        from ondine.bench.simulated.devices import SimulatedCamera

        assert isinstance(bench.camera, SimulatedCamera)
        camera, told = bench.camera, lambda over: bridge.send(_ready_words(over))
        QTimer.singleShot(PREPARE_AFTER_MS, window, lambda: camera.prepare(told))
    return window


def _kind_of(opening: Opening, claimed: ClaimedFile, found: Snapshot) -> tuple[BenchKind, bool]:
    """Return which kind of bench a logbook is of, and whether its photographer has still to be asked."""
    kept = kept_bench(found.state.get(KEY))
    wanted = opening.bench
    if wanted is not None and claimed.version != 0 and (kept or BenchKind.BY_HAND).is_real != wanted.is_real:
        other = "a practice logbook" if kept is BenchKind.SIMULATED else "the logbook of a real table"
        raise LogbookError(
            f"{claimed.path} is {other}: simulated shots and those of a table do not mix. Choose another name, or "
            "leave --logbook out."
        )
    return kept or wanted or BenchKind.BY_HAND, kept is None and wanted is None


def _rig_of(opening: Opening, found: Snapshot) -> int:
    text = found.state.get(RIG_KEY, "")
    is_number = text.isascii() and text.isdigit() and len(text) <= len(str(MOST_RIG))
    return int(text) if is_number and int(text) < MOST_RIG else opening.rig


def _bench(kind: BenchKind, rig: int) -> Bench:
    """Return the devices of a kind of bench. Until Ondine drives a controller, its numbers are dialled by hand."""
    if kind is BenchKind.SIMULATED:
        # A table's own window does without it.
        from ondine.bench.simulated.devices import simulated_bench

        return Bench(kind, *simulated_bench(rig, now, time.sleep))
    return by_hand_bench(now)


def _begin(studio: Studio, opening: Opening, found: Snapshot, kind: BenchKind, asks: bool) -> None:
    if not asks and KEY not in found.state:
        studio.log.keep(KEY, kind)
    if kind is BenchKind.SIMULATED and RIG_KEY not in found.state:
        studio.log.keep(RIG_KEY, str(opening.rig))
    beside = opening.logbook.parent / "incoming"
    if kind is BenchKind.SIMULATED:
        beside = opening.logbook.parent / f"incoming-{opening.logbook.stem}"
    folder = opening.folder or studio.kept.read("folder", _folder, beside)
    studio.intake.watch(folder, make=folder == beside)
    studio.say_what_was_set_aside()


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
    return Notice(
        "The simulated camera is made ready, once on this computer: its first picture comes in half a minute."
    )


def _logbook(claimed: ClaimedFile, drawn: threading.Event) -> Logbook:
    # SQLAlchemy takes half a second to load, and would slow down the first frame, which needs none of it.
    drawn.wait(FIRST_FRAME_S)
    from ondine.logbook.store import Logbook

    # What is loaded by now stays. Looking through it for what can be let go stalls a drag for a tenth of a second.
    gc.freeze()
    return Logbook(claimed)


class Windows(QObject):
    """Opens windows, and the next one before the last one goes: what cannot be opened costs nothing."""

    def __init__(self, places: Places, theme: str | None, signals: EndSignals) -> None:
        super().__init__()
        self._places, self._theme, self._signals = places, theme, signals
        self._open: list[MainWindow] = []
        signals.end = self.end_all

    def show(self, opening: Opening, remembers: bool = True) -> MainWindow:
        """Open a window and show it; `remembers` its logbook for the next start. Raises LogbookError."""
        kept = Thumbnails(self._places.thumbnails)
        window = open_window(opening, self._theme, stays=True, tracer=in_own_process, thumbnails=kept)
        self._open.append(window)
        self._watch_over(window, opening.logbook)
        self._place(window)
        window.show()
        window.studio.backups.begin()
        if remembers:
            self._places.remember_logbook(opening.logbook)
        return window

    def _watch_over(self, window: MainWindow, logbook: Path) -> None:
        """See to it that a window ends in order, tells what nobody caught, and comes forth at a second start."""
        install_hooks(window.studio.guard, self.keep_all)
        if self._signals.came:
            QTimer.singleShot(0, self, self.end_all)
        window.wants_logbook.connect(lambda path: self.switch(window, Opening(path)))
        window.wants_practice.connect(lambda: self.switch(window, self.practice()))
        window.wants_table.connect(lambda: self.switch(window, Opening(self._places.table_logbook())))
        window.ended.connect(lambda: self._ended(window))

        def come_forth(take: Path | None) -> None:
            raise_window(window)
            if take is not None:
                window.studio.exchange.read(take)

        def listen() -> None:
            starts = SecondStarts(real_path(logbook), come_forth, window)
            window.ended.connect(starts.close)

        window.drawn.connect(listen)

    def practice(self) -> Opening:
        """Return how the practice logbook is opened."""
        return Opening(self._places.practice_logbook(), sitting="Practice", bench=BenchKind.SIMULATED)

    def switch(self, window: MainWindow, opening: Opening) -> None:
        """Open another logbook in place of the one of a window; if that fails, the window stays and says why."""
        try:
            if real_path(opening.logbook) == real_path(window.logbook):
                window.messages.notice(f"The logbook {opening.logbook.name} is the one that is open.")
                return
            following = self.show(opening)
        except LogbookInUseError as error:
            if not raise_first_window(error.path, None):
                window.messages.trouble(str(error))
            return
        except LogbookError as error:
            window.messages.trouble(str(error))
            return
        following.setGeometry(window.geometry())
        window.close()

    def _place(self, window: MainWindow) -> None:
        """Put a window where the last one was, or at its usual size as far as the screen has room for it."""
        settings = QSettings(str(self._places.window), QSettings.Format.IniFormat)
        screen = QGuiApplication.primaryScreen()
        if screen is not None:
            room = screen.availableGeometry().size() - QSize(0, TITLE_BAR_PX)
            window.resize(USUAL_SIZE.boundedTo(room))
        kept = settings.value("geometry")
        if kept is not None:
            window.restoreGeometry(kept)

    def _ended(self, window: MainWindow) -> None:
        settings = QSettings(str(self._places.window), QSettings.Format.IniFormat)
        settings.setValue("geometry", window.saveGeometry())
        # Where it cannot be written, the window opens at its usual size next time.
        settings.sync()
        if window in self._open:
            self._open.remove(window)
            window.deleteLater()
            if self._open:
                QTimer.singleShot(COLLECT_AFTER_MS, self, collect_ended)

    def end_all(self) -> None:
        """End all windows in order, without asking: a log-out does not wait."""
        for window in list(self._open):
            window.end_now()
        QGuiApplication.quit()

    def keep_all(self) -> None:
        """Write what is typed and what waits in every window; draws nothing."""
        for window in list(self._open):
            window.keep_and_end()


def raise_window(window: MainWindow) -> None:
    """Bring a window to the front."""
    window.setWindowState(window.windowState() & ~Qt.WindowState.WindowMinimized)
    window.show()
    window.raise_()
    window.activateWindow()


def no_window_words(logbook: Path, log: Path | None) -> str:
    """Say that a logbook could not be shown, for a reason that nobody expected."""
    where = f" The details for a report are in {log}." if log is not None else ""
    return (
        f"The logbook {logbook} could not be shown, for a reason that Ondine did not expect. It was left as it is."
        f"{where} {RESCUE}"
    )
