"""A logbook with flipped bits, torn pages, missing tables and odd values: a window or a sentence, never a traceback."""

from __future__ import annotations

import random
import shutil
import sqlite3
import sys
import tempfile
from collections.abc import Callable
from contextlib import closing, suppress
from pathlib import Path
from types import TracebackType

from PySide6.QtCore import QCoreApplication, QEvent

from benchmarks.faults import Tally
from benchmarks.faults.mutations import mutated_text
from ondine.demo.install import demo_logbook, install_demo
from ondine.demo.scenario import SEED
from ondine.demo.taught import IN_HAND
from ondine.logbook.errors import LogbookError
from ondine.logbook.export import csv_table
from ondine.logbook.file import COLUMNS
from ondine.logbook.reading import reading
from ondine.logbook.rescue import rescue
from ondine.ui.shell import app as ui
from ondine.ui.shell.opening import Opening
from ondine.ui.shell.windows import open_window

STATE = ("sequence", "setup", "belief", "ledger", "theme", "folder", "light", "weighings", "mixes", "flashes", "units",
         "focus")  # fmt: skip


def run(count: int, seed: int) -> Tally:
    """Corrupt the demo's logbook `count` times and open, read and rescue it."""
    tally, dice = Tally("corrupted logbooks"), random.Random(seed)
    application = ui.application()
    with tempfile.TemporaryDirectory() as folder:
        home = Path(folder) / "demo"
        install_demo(home)
        _settle_in(home)
        for number in range(count):
            place = Path(folder) / str(number)
            place.mkdir()
            path = place / "log.ondine"
            shutil.copyfile(demo_logbook(home), path)
            how = dice.choice(WAYS)
            how(path, dice)
            tally.tried += 1
            try:
                _try(path, tally)
            except Exception as error:  # noqa: BLE001 - that is what is counted
                tally.faults.append(f"{how.__name__}: {type(error).__name__}: {error}")
            application.processEvents()
            shutil.rmtree(place)
    return tally


def _settle_in(home: Path) -> None:
    """Let every value of the desk be there once."""
    window = open_window(Opening(demo_logbook(home), home / "incoming", "Tidal Mill", IN_HAND, rig=SEED))
    tools, studio = window.side.tools, window.studio
    tools.light.set_clouding(0.5)
    tools.checks.tick_focus(0)
    tools.library.keep_mix("Thick", window.studio.composer.setup.mix)
    tools.library.keep_flash(0)
    tools.valve.set_weighing(0, pulses=40)
    tools.editor.set_units()
    studio.composer.use_sequence(studio.composer.sequence.with_flash(0, 350_000))
    studio.log.keep("theme", "dark-room")
    window.close()


def _try(path: Path, tally: Tally) -> None:
    before = path.read_bytes()
    if _opens(path, tally):
        tally.note("windows")
    else:
        tally.note("sentences")
        if path.read_bytes() != before:
            raise AssertionError("a refused logbook was changed")
        if path.with_name(path.name + ".lock").exists():
            raise AssertionError("a lock stayed beside a refused logbook")
    for use in (_export, _rescue):
        try:
            use(path)
            tally.note(f"{use.__name__[1:]}s")
        except LogbookError:
            tally.note(f"{use.__name__[1:]} sentences")


def _opens(path: Path, tally: Tally) -> bool:
    """Open a window, look at everything, close it; return whether there was one."""
    uncaught: list[str] = []

    def hook(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        uncaught.append(f"{kind.__name__}: {error}")

    before, sys.excepthook = sys.excepthook, hook
    try:
        window = open_window(Opening(path, path.parent / "incoming", "Test", IN_HAND))
    except LogbookError:
        return False
    finally:
        sys.excepthook = before
    unexpected: list[str] = []
    sys.excepthook = hook
    real = window.messages.trouble

    def trouble(message: str, details: str = "") -> None:
        if details:
            unexpected.append(details)
        if message:
            tally.note("troubles told")
        real(message, details)

    window.messages.trouble = trouble  # type: ignore[method-assign]
    try:
        window.show()
        window.studio.log.wait()
        window.navigation.toggle_log()
        for stage in ("rig", "valve", "expose", "freeze", "keep"):
            window.side.open_stage(stage)
        window.studio.log.wait()
        ui.application().processEvents()
        window.grab()
        window.close()
        window.close()
    finally:
        sys.excepthook = before
    window.deleteLater()
    # No event loop runs here that would do it.
    QCoreApplication.sendPostedEvents(window, QEvent.Type.DeferredDelete)
    if unexpected or uncaught:
        raise AssertionError("; ".join([*uncaught, *(text[-300:] for text in unexpected)]))
    return True


def _export(path: Path) -> None:
    with reading(path) as logbook:
        csv_table(logbook)


def _rescue(path: Path) -> None:
    rescue(path, path.with_name("new.ondine"))
    with reading(path.with_name("new.ondine")) as logbook:
        logbook.shots.count()


# Ways to break a file


def flip_bits(path: Path, dice: random.Random) -> None:
    """Flip up to three bits anywhere."""
    content = bytearray(path.read_bytes())
    for _ in range(dice.randint(1, 3)):
        content[dice.randrange(len(content))] ^= 1 << dice.randrange(8)
    path.write_bytes(content)


def flip_header(path: Path, dice: random.Random) -> None:
    """Flip a bit in the first hundred bytes."""
    content = bytearray(path.read_bytes())
    content[dice.randrange(100)] ^= 1 << dice.randrange(8)
    path.write_bytes(content)


def tear_pages(path: Path, dice: random.Random) -> None:
    """Replace pages by zeros or noise."""
    content = bytearray(path.read_bytes())
    for _ in range(dice.randint(1, 3)):
        page = dice.randrange(len(content) // 4096)
        content[page * 4096 : (page + 1) * 4096] = dice.choice((bytes(4096), dice.randbytes(4096)))
    path.write_bytes(content)


def cut_short(path: Path, dice: random.Random) -> None:
    """Truncate."""
    path.write_bytes(path.read_bytes()[: dice.randrange(1, path.stat().st_size)])


def drop_table(path: Path, dice: random.Random) -> None:
    """Lose a table."""
    _execute(path, f"DROP TABLE {dice.choice(sorted(COLUMNS))}")


def lose_rows(path: Path, dice: random.Random) -> None:
    """Lose rows that others hang on."""
    table = dice.choice(("sitting", "setup_revision", "belief_revision", "shot", "picture"))
    _execute(path, f"DELETE FROM {table} WHERE rowid % {dice.randint(1, 3)} = 0")


def leave_garbage_beside(path: Path, dice: random.Random) -> None:
    """Leave a file of unfinished changes that is none."""
    path.with_name(path.name + dice.choice(("-wal", "-shm", "-journal", ".lock"))).write_bytes(dice.randbytes(40_000))


def odd_state(path: Path, dice: random.Random) -> None:
    """Put odd values on the desk."""
    with closing(sqlite3.connect(path)) as raw:
        kept = dict(raw.execute("SELECT key, value FROM state"))
    for key in dice.sample(STATE, 3):
        _execute(path, "INSERT OR REPLACE INTO state VALUES (?, ?)", (key, mutated_text(kept.get(key, "{}"), dice)))


def odd_cells(path: Path, dice: random.Random) -> None:
    """Put odd values into shots, set-ups, sittings and pictures."""
    table = dice.choice(("shot", "setup_revision", "belief_revision", "sitting", "picture", "kept_setup", "tag"))
    column = dice.choice(sorted(COLUMNS[table]))
    with closing(sqlite3.connect(path)) as raw:
        rows = raw.execute(f"SELECT rowid, {column} FROM {table}").fetchall()
    for rowid, value in dice.sample(rows, min(3, len(rows))):
        odd = dice.choice((mutated_text(str(value), dice), dice.randbytes(12), -1, 10**18, 1.5, ""))
        # What not even SQLite takes, no file can hold.
        with suppress(sqlite3.IntegrityError):
            _execute(path, f"UPDATE OR IGNORE {table} SET {column} = ? WHERE rowid = ?", (odd, rowid))


def _execute(path: Path, statement: str, values: tuple[object, ...] = ()) -> None:
    with closing(sqlite3.connect(path)) as raw:
        raw.execute(statement, values)
        raw.commit()


WAYS: tuple[Callable[[Path, random.Random], None], ...] = (
    flip_bits, flip_bits, flip_header, tear_pages, cut_short, drop_table, lose_rows, leave_garbage_beside, odd_state,
    odd_state, odd_cells, odd_cells,
)  # fmt: skip
