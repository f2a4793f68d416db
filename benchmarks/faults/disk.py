"""A disk that is full at every write: what was there stays, what fails is a sentence, and nothing acknowledged is lost.

A limit on the size of files stands for the full disk: the system refuses every byte beyond it, as a full disk does.
"""

from __future__ import annotations

import json
import resource
import subprocess
import sys
import tempfile
from pathlib import Path

from benchmarks.faults import Tally
from ondine.logbook.errors import LogbookError
from ondine.logbook.records import ShotRecord
from ondine.logbook.store import Logbook
from ondine.logbook.writing import WriteError

DATA = Path(__file__).parents[2] / "tests" / "data"
LIMITS = (0, 100, 1000, 4096, 9000, 20_000, 45_000, 70_000, 100_000, 130_000, 200_000, 400_000)
WRITES = ("fire", "tag", "export", "setup", "sheet", "screenshot", "begin", "migrate", "rescue")


def run(seed: int, limits: tuple[int, ...] = LIMITS, writes: tuple[str, ...] = WRITES) -> Tally:
    """Do each write under each limit, in a process of its own."""
    tally = Tally("full disk")
    for what in writes:
        for limit in limits:
            tally.tried += 1
            with tempfile.TemporaryDirectory() as folder:
                done = subprocess.run(
                    [sys.executable, "-m", "benchmarks.faults.disk", what, str(limit), folder],
                    capture_output=True,
                    text=True,
                    check=False,
                    timeout=120,
                )
                if done.returncode != 0:
                    tally.faults.append(f"{what} under {limit}: {(done.stderr or done.stdout).strip()[-400:]}")
                    continue
                tally.note(done.stdout.strip().splitlines()[-1])
    return tally


def _limit(most: int) -> None:
    _, hard = resource.getrlimit(resource.RLIMIT_FSIZE)
    resource.setrlimit(resource.RLIMIT_FSIZE, (most, hard))


def _unlimited() -> None:
    _, hard = resource.getrlimit(resource.RLIMIT_FSIZE)
    resource.setrlimit(resource.RLIMIT_FSIZE, (hard, hard))


def _stays(place: Path, before: bytes) -> None:
    assert place.read_bytes() == before, f"{place.name} was changed"
    left = [p.name for p in place.parent.iterdir() if p.name.startswith(".ondine")]
    assert not left, f"left behind: {left}"


def _written(place: Path, before: bytes, most: int, write: object) -> str:
    """Write over a file on a disk that is full; it is the old one or a new one, whole."""
    place.write_bytes(before)
    _limit(most)
    try:
        write(place)  # type: ignore[operator]
    except WriteError as error:
        assert "cannot be written" in str(error), error
        _unlimited()
        _stays(place, before)
        return "told"
    assert place.read_bytes() != before
    return "written"


def _export(folder: Path, most: int) -> str:
    from ondine.logbook.export import export_csv

    book = _filled(folder / "log.ondine")
    said = _written(folder / "log.csv", b"old\n", most, lambda place: export_csv(book, place))
    _unlimited()
    book.close()
    return said


def _setup(folder: Path, most: int) -> str:
    from ondine.demo.scenario import TIDAL_MILL
    from ondine.demo.taught import TAUGHT
    from ondine.logbook.setup_file import write_setup

    return _written(folder / "s.json", b"{}", most, lambda place: write_setup(TIDAL_MILL, TAUGHT, place))


def _sheet(folder: Path, most: int) -> str:
    from ondine.studio.background import BackgroundSheet, write_sheet

    png = b"\x89PNG\r\n\x1a\n old"
    return _written(folder / "s.png", png, most, lambda place: write_sheet(BackgroundSheet(), (0.2, 0.1), place))


def _screenshot(folder: Path, most: int) -> str:
    from ondine.ui.shell import app
    from ondine.ui.shell.opening import fresh

    _filled(folder / "log.ondine").close()
    png = b"\x89PNG\r\n\x1a\n old"

    def draw(place: Path) -> None:
        opening = fresh(folder / "log.ondine", None)
        if app.screenshot(opening, None, app.Shot(place, "bench", (1280, 800))) != 0:
            raise WriteError("cannot be written")

    try:
        said = _written(folder / "s.png", png, most, draw)
    except LogbookError as error:
        assert "damaged" not in str(error), error
        said = "told"
    _unlimited()
    _sound(folder / "log.ondine", 3)
    return said


def _fire(folder: Path, most: int) -> str:
    return _studio(folder, most, tag=False)


def _tag(folder: Path, most: int) -> str:
    return _studio(folder, most, tag=True)


def _studio(folder: Path, most: int, tag: bool) -> str:
    from benchmarks.faults.victim import studio
    from ondine.studio.events import ShotChanged, Trouble

    _filled(folder / "log.ondine").close()
    fired: set[int] = set()
    tagged: set[int] = set()
    told: list[str] = []

    def heard(event: object) -> None:
        if isinstance(event, ShotChanged):
            if event.shot.state.value == "fired":
                fired.add(event.shot.id)
            if event.shot.note == "x" * 3000:
                tagged.add(event.shot.id)
        elif isinstance(event, Trouble):
            assert not event.details, event.details
            assert "damaged" not in event.message, event.message
            told.append(event.message)

    made = studio(folder / "log.ondine", heard)
    made.log.wait()
    _limit(most)
    for number in range(6):
        if tag:
            made.log.annotate(1 + number % 3, "x" * 3000)
        else:
            made.bench.fire(made.composer.plan)
            made.bench.wait()
    made.log.wait()
    words = made.settle()
    _unlimited()
    # Room was made: what waited is written.
    again = made.settle()
    assert again == "", again
    made.close()
    shots = _sound(folder / "log.ondine", 3)
    assert all(shots[number].state.value == "fired" for number in fired), "a fired shot is lost"
    assert all(shots[number].note == "x" * 3000 for number in tagged), "a note is lost"
    planned = [n for n, shot in shots.items() if n > 3 and shot.state.value != "fired"]
    assert not planned, f"shots {planned} have no outcome"
    return "told" if told or words else "written"


def _begin(folder: Path, most: int) -> str:
    _limit(most)
    try:
        Logbook.open(folder / "log.ondine").close()
    except LogbookError as error:
        assert "damaged" not in str(error), error
        _unlimited()
        assert not list(folder.iterdir()), [p.name for p in folder.iterdir()]
        return "told"
    return "written"


def _migrate(folder: Path, most: int) -> str:
    path = folder / "log.ondine"
    path.write_bytes((DATA / "logbook-v2.ondine").read_bytes())
    _limit(most)
    try:
        Logbook.open(path).close()
        said = "written"
    except LogbookError as error:
        assert "damaged" not in str(error) and ("as it was" in str(error) or "full" in str(error)), error
        said = "told"
    _unlimited()
    _sound(path, 7)
    return said


def _rescue(folder: Path, most: int) -> str:
    from ondine.logbook.rescue import rescue

    path = folder / "log.ondine"
    _filled(path).close()
    before = path.read_bytes()
    _limit(most)
    try:
        rescue(path, folder / "new.ondine")
        said = "written"
    except LogbookError as error:
        assert "damaged" not in str(error), error
        said = "told"
        assert not (folder / "new.ondine").exists()
    _unlimited()
    _stays(path, before)
    assert said == "told" or len(_sound(folder / "new.ondine", 3)) == 3, "a row was counted as damaged"
    return said


def _filled(path: Path) -> Logbook:
    from datetime import UTC, datetime

    from ondine.core.forecast.plan import Plan
    from ondine.demo.scenario import START, TIDAL_MILL
    from ondine.logbook.records import PastShot

    book = Logbook.open(path)
    at = datetime(2026, 5, 9, tzinfo=UTC)
    book.shots.add_history([PastShot("s", at, Plan(START, TIDAL_MILL), note=str(n)) for n in range(3)])
    return book


def _sound(path: Path, least: int) -> dict[int, ShotRecord]:
    book = Logbook.open(path)
    found = {shot.id: shot for shot in book.shots.newest(1000)}
    book.close()
    assert len(found) >= least, f"{len(found)} shots of {least}"
    return found


if __name__ == "__main__":
    import os

    what, most, folder = sys.argv[1], int(sys.argv[2]), Path(sys.argv[3])
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    os.environ["XDG_STATE_HOME"] = str(folder / "state")
    result = globals()[f"_{what}"](folder, most)
    print(json.dumps(result).strip('"'))
