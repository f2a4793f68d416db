"""Kill -9 while Ondine fires, tags, imports, exports and migrates: nothing acknowledged may be lost."""

from __future__ import annotations

import csv
import random
import shutil
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path

from benchmarks.faults import Tally
from ondine.logbook.errors import LogbookError
from ondine.logbook.store import Logbook

OLD = Path(__file__).parents[2] / "tests" / "data" / "logbook-v2.ondine"
KINDS = ("firing", "tagging", "importing", "exporting", "migrating")
LONGEST_S = 0.35


def run(count: int, seed: int) -> Tally:
    """Kill a process `count` times, each time at another moment."""
    tally, dice = Tally("kill -9"), random.Random(seed)
    with tempfile.TemporaryDirectory() as folder:
        for number in range(count):
            kind = KINDS[number % len(KINDS)]
            place = Path(folder) / str(number)
            place.mkdir()
            tally.tried += 1
            try:
                acknowledged = _killed(kind, place, dice.uniform(0.0, LONGEST_S))
                _check(kind, place, acknowledged, tally)
            except (LogbookError, AssertionError) as error:
                tally.faults.append(f"{kind}: {error}")
            shutil.rmtree(place)
    return tally


def _killed(kind: str, place: Path, after_s: float) -> list[str]:
    """Let a process work for a while, kill it, and return what it had acknowledged."""
    if kind == "migrating":
        shutil.copyfile(OLD, place / "log.ondine")
    process = subprocess.Popen(
        [sys.executable, "-m", "benchmarks.faults.victim", kind, str(place)], stdout=subprocess.PIPE, text=True
    )
    said: list[str] = []
    begun = threading.Event()

    def listen() -> None:
        assert process.stdout is not None
        for line in process.stdout:
            if line.strip() == "begun":
                begun.set()
            elif line.endswith("\n"):
                said.append(line.strip())
        begun.set()

    ears = threading.Thread(target=listen)
    ears.start()
    begun.wait(60)
    time.sleep(after_s)
    process.kill()
    process.wait()
    ears.join()
    assert process.stdout is not None
    process.stdout.close()
    return said


def _check(kind: str, place: Path, acknowledged: list[str], tally: Tally) -> None:
    book = Logbook.open(place / "log.ondine")
    shots = {shot.id: shot for shot in book.shots.newest(1000)}
    book.close()
    for line in acknowledged:
        what, _, rest = line.partition(" ")
        tally.note(f"{what} acknowledged")
        if what == "fired":
            assert shots[int(rest)].state.value == "fired", f"shot {rest} is {shots[int(rest)].state}"
        elif what == "tagged":
            number, rating, note = rest.split(" ", 2)
            shot = shots[int(number)]
            assert (str(shot.rating), shot.note) == (rating, note), f"{line!r}, but {shot.rating} {shot.note!r}"
        elif what == "imported":
            number, _, name = rest.partition(" ")
            found = shots[int(number)].picture
            assert found is not None and found.name == name, f"{line!r}, but {found}"
    if kind == "migrating":
        assert len(shots) == 7, f"{len(shots)} shots of 7 after a migration"
    table = place / "log.csv"
    if table.exists():
        with table.open(newline="", encoding="utf-8") as file:
            rows = list(csv.reader(file))
        assert len(rows) == 201 and len({len(row) for row in rows}) == 1, "half a table"
        tally.note("tables whole")
