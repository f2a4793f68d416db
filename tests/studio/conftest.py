"""A studio on a test bench, shared by all tests of the studio."""

import time
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from ondine.bench.protocol import Bench
from ondine.core.forecast.plan import Plan
from ondine.core.setup import Setup
from ondine.logbook.file import claim
from ondine.logbook.records import ShotRecord
from ondine.logbook.snapshot import take_snapshot
from ondine.logbook.store import Logbook
from ondine.studio.studio import Studio
from tests.conftest import PAIR, TestController, driven


class TestTicks:
    """Seconds that pass only while somebody sleeps, and a little with each look."""

    __test__ = False

    def __init__(self) -> None:
        self.now = 1000.0
        self.slept_s = 0.0

    def __call__(self) -> float:
        self.now += 1e-6
        return self.now

    def sleep(self, seconds: float) -> None:
        self.now += seconds
        self.slept_s += seconds


class Table:
    """A studio on a test bench, with ears."""

    def __init__(self, folder: Path, controller: TestController, ticks: TestTicks) -> None:
        self.path = folder / "log.ondine"
        self.controller, self.ticks = controller, ticks
        self.events: list[object] = []
        self.bench: Bench | None = None
        self.studio = self.open()

    def open(self, sitting: str = "Test") -> Studio:
        claimed = claim(self.path)
        return Studio(
            lambda: Logbook(claimed),
            take_snapshot(claimed, 10),
            self.bench or driven(self.controller),
            self.controller.clock,
            self.events.append,
            Plan(PAIR, Setup()),
            sitting,
            self.ticks.sleep,
            self.ticks,
        )

    def fire(self, **how: object) -> bool:
        return self.studio.bench.fire(self.studio.composer.plan, **how)

    def watch(self, folder: Path) -> None:
        self.studio.intake.watch(folder)
        self.studio.intake.wait()

    def newest(self) -> ShotRecord:
        return self.studio.writer.logbook.shots.newest(1000)[0]

    def heard(self, kind: type, count: int = 1, within_s: float = 5) -> list[object]:
        return wait_for(lambda: [e for e in self.events if isinstance(e, kind)], count, within_s)

    def settle(self) -> None:
        self.studio.intake.wait()
        self.studio.bench.wait()
        self.studio.log.wait()


def wait_for(look: Callable[[], list[object]], count: int, within_s: float) -> list[object]:
    end = time.monotonic() + within_s
    while time.monotonic() < end:
        found = look()
        if len(found) >= count:
            return found
        time.sleep(0.01)
    raise AssertionError(f"waited {within_s} s for {count}, found {look()}")


@pytest.fixture
def ticks() -> TestTicks:
    return TestTicks()


@pytest.fixture
def table(tmp_path, clock, ticks) -> Iterator[Table]:
    made = Table(tmp_path, TestController(clock), ticks)
    yield made
    made.studio.close()
