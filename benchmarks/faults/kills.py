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
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime, timedelta
from pathlib import Path

import numpy as np

from benchmarks.faults import Tally
from benchmarks.faults.victim import AT, filled, real_jpeg, uneven
from ondine.demo.scenario import TIDAL_MILL
from ondine.logbook import parts
from ondine.logbook.backup import NEWEST, back_up_now, backups, folder_of
from ondine.logbook.copying import copy_verified
from ondine.logbook.errors import LogbookError
from ondine.logbook.file import check_sound
from ondine.logbook.store import Logbook

OLD = Path(__file__).parents[2] / "tests" / "data" / "logbook-v2.ondine"
KINDS = ("firing", "tagging", "importing", "exporting", "migrating")
COPIES = ("backing_up", "merging", "taking_in", "restoring")
"""What makes copies, joins logbooks or takes in a card: nothing is lost, and nothing left over after the next run."""

OTHERS, SHOTS, FRAMES = 12, 30, 40
LONGEST_S, LONGEST_OF_COPIES_S = 0.35, 1.2


def run(count: int, seed: int, kinds: tuple[str, ...] = KINDS) -> Tally:
    """Kill a process `count` times, each time at another moment."""
    tally, dice = Tally(f"kill -9 while {', '.join(kinds).replace('_', ' ')}"), random.Random(seed)
    with tempfile.TemporaryDirectory() as folder:
        for number in range(count):
            kind = kinds[number % len(kinds)]
            longest_s = LONGEST_OF_COPIES_S if kind in COPIES else LONGEST_S
            place = Path(folder) / str(number)
            tally.tried += 1
            _laid_out(kind, place, Path(folder) / f"prepared-{kind}")
            try:
                acknowledged = _killed(kind, place, dice.uniform(0.0, longest_s))
                _check(kind, place, acknowledged, tally)
            except (LogbookError, AssertionError) as error:
                tally.faults.append(f"{kind}: {error}")
            shutil.rmtree(place)
    return tally


def _killed(kind: str, place: Path, after_s: float) -> list[str]:
    """Let a process work for a while, kill it, and return what it had acknowledged."""
    with started(kind, place) as said:
        time.sleep(after_s)
    return said


@contextmanager
def started(kind: str, place: Path) -> Iterator[list[str]]:
    """Let a process work, from when it has begun, and kill it at the end; gives the lines that it acknowledges."""
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
    try:
        yield said
    finally:
        process.kill()
        process.wait()
        ears.join()
        assert process.stdout is not None
        process.stdout.close()


def _laid_out(kind: str, place: Path, prepared: Path) -> None:
    """Lay out what a victim works on, so that the kill meets the work; made once for each kind."""
    if not prepared.exists():
        prepared.mkdir()
        if kind == "migrating":
            shutil.copyfile(OLD, prepared / "log.ondine")
        if kind in COPIES:
            _prepare(kind, prepared)
    shutil.copytree(prepared, place)


def _prepare(kind: str, place: Path) -> None:
    filled(place / "log.ondine", "Evening", FRAMES if kind == "taking_in" else SHOTS)
    if kind == "merging":
        for number in range(OTHERS):
            filled(place / f"other-{number:02d}.ondine", f"Other {number}", SHOTS, AT + timedelta(days=1 + number))
    elif kind == "restoring":
        copy_verified(place / "log.ondine", place / "older.ondine")
        filled(place / "log.ondine", "Late", SHOTS, AT + timedelta(days=1))
        copy_verified(place / "log.ondine", place / "newer.ondine")
    elif kind == "taking_in":
        (place / "card").mkdir()
        for number in range(FRAMES):
            shade = np.full((40, 60, 3), number, np.uint8)
            at = AT + uneven(number) + timedelta(hours=1)
            real_jpeg(place / "card" / f"{number:03d}.jpg", shade, TIDAL_MILL.camera, at)


def _check_copies(kind: str, place: Path, acknowledged: list[str], tally: Tally) -> None:
    """See what stands after the kill, run the work's next run, and see that nothing is left over."""
    for line in acknowledged:
        tally.note(f"{line.split()[0]} acknowledged")
    path, rests = place / "log.ondine", [line.split(" ", 1)[1] for line in acknowledged]
    count = _shots_in(path)
    folder = folder_of(path)
    if kind == "backing_up":
        # One more may have been made than was acknowledged. By what is inside: a name may be used again.
        made = [copy.record.sequence for copy in backups(path)]
        last = made[0] if made else 0
        assert last - len(rests) in (0, 1), f"copy {last} is the newest after {len(rests)} acknowledged ones"
        assert made[:NEWEST] == list(range(last, max(last - NEWEST, 0), -1)), f"copies {made[:NEWEST]} stand"
    elif kind == "merging":
        assert count % SHOTS == 0 and count >= SHOTS * (1 + len(rests)), f"{count} shots after {len(rests)} merges"
    elif kind == "restoring":
        assert count in (SHOTS, 2 * SHOTS), f"{count} shots after a restoring"
        if rests:
            wanted = SHOTS if rests[-1] == "older.ondine" else 2 * SHOTS
            tally.note("as acknowledged" if count == wanted else "one further")
    elif kind == "taking_in":
        book = Logbook.open(path)
        pictures = {shot.id: shot.picture for shot in book.shots.newest(1000)}
        book.close()
        assert all(pictures[int(number)] is not None for number in rests), "an acknowledged picture is gone"
    # The next run, in this process: as if it had just started.
    parts._swept.clear()
    Logbook.open(path).close()
    back_up_now(path, datetime.now(UTC))
    for copy in [path, *folder.glob("*.ondine")]:
        check_sound(copy, copy)
    parts._swept.clear()
    parts.sweep(Path(tempfile.gettempdir()))
    left = [p.name for p in (*place.iterdir(), *folder.iterdir()) if "ondine-" in p.name or p.name.endswith(".lock")]
    left += [p.name for p in Path(tempfile.gettempdir()).iterdir() if parts.is_abandoned(p.name, p.parent)]
    assert not left, f"left over: {left}"


def _shots_in(path: Path) -> int:
    book = Logbook.open(path)
    count = book.shots.count()
    book.close()
    return count


def _check(kind: str, place: Path, acknowledged: list[str], tally: Tally) -> None:
    if kind in COPIES:
        _check_copies(kind, place, acknowledged, tally)
        return
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
