from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

from ondine.bench.by_hand import by_hand_bench
from ondine.bench.protocol import Bench as DeviceBench
from ondine.core.setup import BenchKind
from ondine.logbook.file import claim
from ondine.logbook.intake import read_picture
from ondine.logbook.records import PastShot
from ondine.logbook.snapshot import take_snapshot
from ondine.logbook.store import Logbook
from ondine.studio.events import Event
from ondine.studio.foreseen.preview import StartTracer
from ondine.studio.studio import Studio
from ondine.ui.kit.bridge import Bridge
from ondine.ui.shell import app as ui_app
from ondine.ui.shell.main_window import MainWindow
from ondine.ui.shell.opening import Opening
from ondine.ui.shell.windows import open_window
from tests.calibrated import IN_HAND
from tests.conftest import TestCamera, TestClock, TestController, driven
from tests.tracers import in_thread

SEASON = Path(ui_app.__file__).parents[2] / "demo" / "season"


class Bench:
    """A window on a test bench."""

    def __init__(
        self,
        folder: Path,
        clock: TestClock,
        bench: DeviceBench | None = None,
        start_tracer: StartTracer | None = None,
    ) -> None:
        self.clock = clock
        self.controller = TestController(clock)
        self.path = folder / "log.ondine"
        book = Logbook.open(self.path)
        if book.shots.count() == 0:
            past = [
                PastShot("Before", clock(), IN_HAND, ("crown",), 3, "old", read_picture(SEASON / f"{n:03d}.jpg"))
                for n in (5, 60)
            ]
            book.shots.add_history(past)
        book.close()
        claimed = claim(self.path)
        self.bridge = bridge = Bridge()
        self._heard = 0
        bridge._posted.connect(self._hear)
        self.studio = Studio(
            lambda: Logbook(claimed),
            take_snapshot(claimed, 60),
            bench or driven(self.controller),
            clock,
            bridge.send,
            IN_HAND,
            "Test",
            start_tracer=start_tracer,
        )
        # Most tests come after the first look around.
        self.studio.sitting.preflight_done = True
        self.window = MainWindow(self.studio, bridge, self.path)
        bridge.setParent(self.window)

    def _hear(self, event: Event) -> None:
        self._heard += 1

    def settle(self, qtbot: QtBot) -> None:
        """Let the studio's threads finish, the window hear of it, and what it asks for then be answered."""
        studio = self.studio
        while True:
            heard = self._heard
            for part in (studio.intake, studio.bench, studio.errands, studio.log):
                part.wait()
            qtbot.wait(15)
            if self._heard == heard:
                return


@pytest.fixture(scope="session")
def qapp_cls() -> type:
    from PySide6.QtWidgets import QApplication

    return QApplication


@pytest.fixture
def opened_window(qapp: object, qtbot: QtBot) -> Callable[[Opening], MainWindow]:
    """Opens windows that go with the test: what is left alive is painted anew with every theme of the tests after it."""

    def make(opening: Opening) -> MainWindow:
        window = open_window(opening)
        qtbot.addWidget(window)
        return window

    return make


@pytest.fixture
def bench(qtbot: QtBot, tmp_path: Path, clock: TestClock) -> Iterator[Bench]:
    """A window on a bench that is driven by cable."""
    ui_app.application()
    yield from shown(Bench(tmp_path, clock), qtbot)


@pytest.fixture
def pictured(qtbot: QtBot, tmp_path: Path, clock: TestClock) -> Iterator[Bench]:
    """A window on a bench, with a tracer for the picture before the shot."""
    ui_app.application()
    yield from shown(Bench(tmp_path, clock, start_tracer=in_thread), qtbot)


@pytest.fixture
def by_hand(qtbot: QtBot, tmp_path: Path, clock: TestClock) -> Iterator[Bench]:
    """A window on a table that nothing but hands move."""
    ui_app.application()
    yield from shown(Bench(tmp_path, clock, by_hand_bench(clock)), qtbot)


@pytest.fixture
def practice(qtbot: QtBot, tmp_path: Path, clock: TestClock) -> Iterator[Bench]:
    """A window on a bench that counts as simulated."""
    ui_app.application()
    bench = DeviceBench(BenchKind.SIMULATED, TestController(clock), TestCamera())
    yield from shown(Bench(tmp_path, clock, bench), qtbot)


def shown(made: Bench, qtbot: QtBot) -> Iterator[Bench]:
    qtbot.addWidget(made.window)
    made.window.show()
    qtbot.waitActive(made.window).__enter__()
    qtbot.wait(20)
    yield made
    made.window.close()
