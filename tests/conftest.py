"""What all tests share: a seeded world, a logbook in a folder of its own, and a window to drive."""

import os
import shutil
from collections.abc import Callable, Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from hypothesis import settings

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from ondine.bench.protocol import Bench, BenchError, Dispensed, FiringReport, Pour
from ondine.core.setup import BenchKind, Setup
from ondine.core.timing.commands import Commands
from ondine.core.timing.sequence import Pulse, Sequence
from ondine.demo.scenario import TIDAL_MILL
from ondine.logbook import migrate
from ondine.logbook.file import SCHEMA_VERSION
from ondine.logbook.store import Logbook

# A slow machine is not a wrong program.
settings.register_profile("ondine", deadline=None)
settings.load_profile("ondine")

PAIR = Sequence.with_one_flash((Pulse(0, 22_000), Pulse(95_000, 22_000)), 356_000)


class TestClock:
    """Time that passes only when told to, or by a step at each look."""

    __test__ = False

    def __init__(self) -> None:
        self.now = datetime(2026, 5, 9, 19, 0, tzinfo=UTC)

    def __call__(self) -> datetime:
        self.now += timedelta(milliseconds=10)
        return self.now


class TestController:
    """Fires at once, or refuses; remembers what it fired."""

    __test__ = False
    name = "Test controller"
    outputs = None

    def __init__(self, clock: TestClock) -> None:
        self.clock = clock
        self.fired: list[Sequence] = []
        self.poured: list[Pour] = []
        self.grams: float | None = None
        self.fillings = 0
        self.refusal = ""
        self.before: Callable[[], None] = lambda: None

    def fire(self, commands: Commands, setup: Setup) -> FiringReport:
        self.before()
        if self.refusal:
            raise BenchError(self.refusal)
        self.fired.append(commands.sequence)
        self.commands = commands
        return FiringReport(self.clock(), tuple(f.at_us for f in commands.sequence.flashes))

    def pour(self, pour: Pour, setup: Setup, goes_on: Callable[[int], bool]) -> Dispensed:
        done = 0
        if self.refusal:
            raise BenchError(self.refusal)
        while done < pour.pulses:
            done += 1
            self.poured.append(pour)
            if not goes_on(done):
                break
        return Dispensed(done, self.grams)

    def refilled(self) -> None:
        self.fillings += 1


class TestCamera:
    """Delivers nothing by itself."""

    __test__ = False
    name = "Test camera"

    def __init__(self) -> None:
        self.folder: Path | None = None

    def deliver_to(self, folder: Path, on_error: Callable[[BenchError], None]) -> None:
        self.folder = folder

    def close(self) -> None:
        pass


def driven(controller: TestController, camera: TestCamera | None = None) -> Bench:
    """A bench that is driven by cable."""
    return Bench(BenchKind.CABLE, controller, camera or TestCamera())


@pytest.fixture(scope="session")
def empty_logbook(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """An empty logbook of today's format, migrated once in each test process."""
    path = tmp_path_factory.mktemp("template") / "empty.ondine"
    migrate.upgrade_to(path, SCHEMA_VERSION)
    return path


@pytest.fixture(autouse=True)
def quick_new_logbooks(empty_logbook: Path, monkeypatch: pytest.MonkeyPatch, request: pytest.FixtureRequest) -> None:
    """Begin each new logbook as a copy of the empty one; tests marked `migrations` run the real steps."""
    if request.node.get_closest_marker("migrations"):
        return
    really = migrate.upgrade_to

    def copied_or_migrated(path: Path, version: int) -> None:
        if version == SCHEMA_VERSION and not path.exists():
            shutil.copyfile(empty_logbook, path)
        else:
            really(path, version)

    monkeypatch.setattr(migrate, "upgrade_to", copied_or_migrated)


@pytest.fixture(scope="session")
def state_home(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return tmp_path_factory.mktemp("state")


@pytest.fixture(autouse=True)
def state_of_tests(state_home: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Keep what programs remember between runs apart from that of whoever runs the tests."""
    monkeypatch.setenv("XDG_STATE_HOME", str(state_home))


@pytest.fixture
def clock() -> TestClock:
    return TestClock()


@pytest.fixture
def setup() -> Setup:
    return TIDAL_MILL


@pytest.fixture
def sequence() -> Sequence:
    return PAIR


@pytest.fixture
def logbook(tmp_path: Path) -> Iterator[Logbook]:
    book = Logbook.open(tmp_path / "log.ondine")
    yield book
    book.close()
