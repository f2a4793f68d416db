"""A logbook with two names, hard links as snapshots make them: opened by one, tried by the other, plug pulled."""

from __future__ import annotations

import contextlib
import io
import os
import random
import shutil
import tempfile
import time
from datetime import UTC, datetime
from pathlib import Path

from benchmarks.faults import Tally
from benchmarks.faults.kills import started
from benchmarks.faults.victim import filled
from ondine.cli import main
from ondine.logbook.backup import back_up_now
from ondine.logbook.errors import LogbookError, LogbookInUseError
from ondine.logbook.locking import unfinished_beside
from ondine.logbook.store import Logbook

LONGEST_S = 0.3


def run(count: int, seed: int) -> Tally:
    """Let a process fire into a logbook, try its other name meanwhile, kill it, and try again."""
    tally, dice = Tally("two names of one logbook"), random.Random(seed)
    before = os.environ.get("XDG_STATE_HOME")
    with tempfile.TemporaryDirectory() as folder:
        # The note of who has which file open is kept there.
        os.environ["XDG_STATE_HOME"] = folder
        try:
            for number in range(count):
                place = Path(folder) / str(number)
                place.mkdir()
                tally.tried += 1
                try:
                    _once(place, dice, tally)
                except (AssertionError, LogbookError) as error:
                    tally.faults.append(f"{type(error).__name__}: {error}")
                shutil.rmtree(place)
        finally:
            del os.environ["XDG_STATE_HOME"]
            if before is not None:
                os.environ["XDG_STATE_HOME"] = before
    return tally


def _once(place: Path, dice: random.Random, tally: Tally) -> None:
    name, elsewhere = place / "log.ondine", place / dice.choice((".", "snapshot"))
    other = elsewhere / "b.ondine"
    elsewhere.mkdir(exist_ok=True)
    filled(name, "Evening", 3)
    filled(place / "source.ondine", "Source", 2)
    os.link(name, other)
    with started("firing", place) as said:
        time.sleep(dice.uniform(0, LONGEST_S))
        _is_refused(other, LogbookInUseError)
        if dice.random() < 0.5:
            _cannot_merge(place / "source.ondine", other)
        time.sleep(dice.uniform(0, LONGEST_S))
    fired = {int(line.split()[1]) for line in said}
    tally.note("left changes beside a name" if unfinished_beside(name) else "left a whole file")
    if unfinished_beside(name):
        _is_refused(other, LogbookError)
        _cannot_merge(place / "source.ondine", other)
    for path in (name, other):
        book = Logbook.open(path)
        shots = {shot.id for shot in book.shots.newest(10_000)}
        book.close()
        assert fired <= shots and len(shots) >= 3, f"{len(fired - shots)} acknowledged shots are not in {path.name}"
        assert not unfinished_beside(path), f"changes stay beside {path.name}"
    assert back_up_now(other, datetime.now(UTC)).exists()


def _is_refused(path: Path, error: type[LogbookError]) -> None:
    try:
        Logbook.open(path).close()
    except error as said:
        assert str(said).endswith("."), said
    else:
        raise AssertionError(f"{path.name} was opened beside its other name")


def _cannot_merge(source: Path, into: Path) -> None:
    said = io.StringIO()
    with contextlib.redirect_stdout(said), contextlib.redirect_stderr(said):
        code = main(["merge", str(into), str(source)])
    assert code == 2, f"code {code} for a merge into {into.name} beside its other name: {said.getvalue()}"
