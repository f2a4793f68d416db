"""How long a shot waits to be written before it fires, while the log is searched, backed up and taken in."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Iterator
from datetime import UTC, datetime
from pathlib import Path

import numpy as np

from ondine.demo.taught import IN_HAND
from ondine.logbook.backup import back_up_now
from ondine.logbook.card import read_card
from ondine.logbook.records import SittingFacts
from ondine.logbook.store import Logbook
from ondine.studio.log_events import ShotsFound
from ondine.studio.log_search import LogSearch
from ondine.studio.log_service import LogService
from ondine.studio.logbook_writer import LogbookWriter
from ondine.studio.worker import Guard

SHOTS, FEWEST = 60, 4
LINES = ("full umbrella", "not crown rating>=2", "milk gap 60-80", "since 2024-06 untagged")


def run(path: Path, folder: Path, pictures: Path, small: bool = False) -> Iterator[str]:
    """Yield lines; path : a long logbook, folder : for backups, pictures : a folder of files as from a card."""
    shots = FEWEST if small else SHOTS
    heard: list[object] = []
    guard = Guard(heard.append)
    writer = LogbookWriter(lambda: Logbook.open(path), heard.append, guard)
    log = LogService(writer, lambda: datetime.now(UTC), heard.append, guard)
    log.wait()
    search = LogSearch(log, writer, lambda: datetime.now(UTC))
    sitting = writer.submit(lambda: writer.logbook.sittings.begin(SittingFacts("Bench"), datetime.now(UTC))).result()
    alone = _waits(writer, sitting, shots)
    yield f"a shot is written before it fires: median {np.median(alone):.1f} ms, 95th percentile {_p95(alone):.1f} ms"
    for what, job in (
        ("searches", lambda: _search(search, heard)),
        ("a backup", lambda: back_up_now(path, datetime.now(UTC), folder)),
        ("a card being read", lambda: read_card(pictures)),
    ):
        busy = _beside(job, lambda: _waits(writer, sitting, shots))
        yield (
            f"  beside {what}: median {np.median(busy):.1f} ms, 95th percentile {_p95(busy):.1f} ms, longest "
            f"{busy.max():.0f} ms ({np.median(busy) / np.median(alone):.1f} times)"
        )
    log.close()
    writer.close()


def _search(search: LogSearch, heard: list[object]) -> None:
    for line in LINES:
        before = sum(isinstance(event, ShotsFound) for event in heard)
        search.find(line)
        while sum(isinstance(event, ShotsFound) for event in heard) == before:
            time.sleep(0.001)


def _waits(writer: LogbookWriter, sitting: int, shots: int) -> np.ndarray:
    taken = []
    for _ in range(shots):
        began = time.perf_counter()
        writer.submit(writer.logbook.shots.plan, sitting, IN_HAND, datetime.now(UTC)).result()
        taken.append(1e3 * (time.perf_counter() - began))
        time.sleep(0.02)
    return np.array(taken)


def _beside(job: Callable[[], object], measured: Callable[[], np.ndarray]) -> np.ndarray:
    stop = threading.Event()

    def again() -> None:
        while not stop.is_set():
            job()

    thread = threading.Thread(target=again)
    thread.start()
    try:
        return measured()
    finally:
        stop.set()
        thread.join()


def _p95(taken: np.ndarray) -> float:
    return float(np.percentile(taken, 95))
