"""The command line: opens the window, or does one thing without it."""

from __future__ import annotations

import argparse
import io
import json
import os
import sys
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from ondine import __version__
from ondine.cli import exchange_commands, log_commands
from ondine.cli.visible import visible_output
from ondine.ui.table.stages import STAGES

if TYPE_CHECKING:
    from ondine.studio.places import Places
    from ondine.ui.shell.opening import Opening

Progress = Callable[[int, int], None]

OK, FAILED = 0, 2
FAULT, INTERRUPTED = 70, 130
"""A fault of Ondine itself (EX_SOFTWARE of sysexits.h), and Ctrl C (128 + SIGINT), as shells have them."""


VIEWS = (
    "bench",
    "start",
    "close-up",
    "times",
    "coach",
    "map",
    "practice",
    "log",
    "log-table",
    "atlas",
    "timings",
    "compare",
    "film",
    "import",
    "in-and-out",
    "sitting",
    "shapes",
    "keys",
    "card",
    *(stage.key for stage in STAGES),
)


def main(argv: list[str] | None = None) -> int:
    """Run one command; return the exit code."""
    for stream in (sys.stdout, sys.stderr):
        # A file's name may hold what is no text, and shall be told all the same.
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="backslashreplace")
    arguments = list(sys.argv[1:] if argv is None else argv)
    if arguments[:1] and arguments[0] in COMMANDS:
        with visible_output():
            return _guarded(_command_parser().parse_args(arguments))
    parsed = _window_parser().parse_args(arguments)
    if parsed.install_desktop or parsed.remove_desktop:
        return _desktop(parsed)
    return _window(parsed)


def _guarded(parsed: argparse.Namespace) -> int:
    """Run a command that needs no window; what it did not foresee ends as a sentence too."""
    try:
        return COMMANDS[parsed.command](parsed)
    except KeyboardInterrupt:
        return INTERRUPTED
    except OSError as error:
        what = os.fsdecode(error.filename) if isinstance(error.filename, (str, bytes, os.PathLike)) else "A file"
        return _complain(f"{what} cannot be read or written ({error.strerror or error}). See where it lies.")
    except Exception as error:  # noqa: BLE001 - the shell's edge: a fault of Ondine is logged, and said
        from ondine.studio.log_file import keep_log
        from ondine.studio.worker import LOG

        place = keep_log()
        LOG.exception("ondine %s failed", parsed.command)
        where = f" Its details are in {place}." if place is not None else ""
        _complain(f"This is a fault of Ondine ({type(error).__name__}: {error}).{where}")
        return FAULT


def _window_parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="ondine",
        description="Plans, fires and remembers water-drop collisions.",
        epilog=f"Without a window: ondine {{{','.join(COMMANDS)}}} --help",
    )
    parser.add_argument("--version", action="version", version=f"ondine {__version__}")
    parser.add_argument("file", type=Path, nargs="?", metavar="FILE", help="a logbook, recipe or set-up to open")
    parser.add_argument("--demo", action="store_true", help="open the demo, Tidal Mill")
    parser.add_argument("--practice", action="store_true", help="open the practice logbook and its simulated bench")
    parser.add_argument("--logbook", type=Path, help="the logbook to open or begin")
    parser.add_argument("--folder", type=Path, help="the folder that pictures arrive in")
    parser.add_argument("--theme", choices=("day", "dark-room"))
    parser.add_argument("--screenshot", type=Path, metavar="PNG", help="draw a view into a file and quit")
    parser.add_argument("--view", default="bench", choices=VIEWS)
    parser.add_argument("--install-desktop", action="store_true", help="menu entry, icons, file types for this user")
    parser.add_argument("--remove-desktop", action="store_true", help="take them away again")
    parser.add_argument("--size", type=_size, default=(1280, 800), metavar="1280x800")
    return parser


def _command_parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="ondine")
    commands = parser.add_subparsers(dest="command", required=True)
    forecast = commands.add_parser("forecast", help="print what a recipe will do")
    forecast.add_argument("recipe", type=Path)
    forecast.add_argument("--json", action="store_true")
    notation = commands.add_parser("notation", help="read a sequence written as one line, and tell it another way")
    notation.add_argument("text", help="the line, or - to read it from standard input")
    notation.add_argument("--to", default="", metavar="CONVENTION", help="for example: us, start to start")
    notation.add_argument("--json", action="store_true", help="whole microseconds from the trigger, as JSON")
    notation.add_argument("--recipe", type=Path, help="the table that touchdown and meeting are predicted for")
    preview = commands.add_parser("preview", help="trace the picture that a recipe will give")
    preview.add_argument("recipe", type=Path)
    preview.add_argument("--at", type=_milliseconds, metavar="MS", help="one flash at this time instead of its own")
    preview.add_argument("--out", type=Path, required=True, metavar="PNG")
    preview.add_argument("--size", type=_size, metavar="1200x800", help="the frame is fitted into it")
    bring = commands.add_parser("import", help="log picture files, each with the shot of its time")
    bring.add_argument("files", type=Path, nargs="+")
    bring.add_argument("--logbook", type=Path)
    save = commands.add_parser("rescue", help="save what can be read of a damaged logbook into a new one")
    save.add_argument("logbook", type=Path)
    save.add_argument("--to", type=Path, required=True, metavar="NEW")
    log_commands.add_parsers(commands)
    exchange_commands.add_parsers(commands)
    return parser


def _size(text: str) -> tuple[int, int]:
    try:
        width, height = (int(part) for part in text.lower().split("x"))
    except ValueError as error:
        raise argparse.ArgumentTypeError(f"{text!r} is not a size like 1280x800") from error
    if not (320 <= width <= 8000 and 240 <= height <= 8000):
        raise argparse.ArgumentTypeError(f"{text} is not between 320x240 and 8000x8000")
    return width, height


def _milliseconds(text: str) -> int:
    """Read a time in ms; return whole microseconds."""
    from ondine.core.numbers import NumberError, read_number

    try:
        return round(read_number(text, "ms") * 1000)
    except NumberError as error:
        raise argparse.ArgumentTypeError(str(error)) from error


def _complain(message: object) -> int:
    print(message, file=sys.stderr)
    return FAILED


# Without a window


def _forecast(parsed: argparse.Namespace) -> int:
    from ondine.core.forecast.events import events
    from ondine.core.forecast.shapes import shape_probabilities
    from ondine.core.forecast.whole import forecast
    from ondine.core.table.firing import problems
    from ondine.logbook.recipe import RecipeError, read_recipe
    from ondine.studio.report import events_as_json, events_as_table

    try:
        plan = read_recipe(parsed.recipe)
    except RecipeError as error:
        return _complain(error)
    for problem in problems(plan.sequence, plan.setup):
        print(f"It cannot be fired so. {problem.says}", file=sys.stderr)
    what = forecast(plan.setup, plan.belief, plan.sequence)
    flashes = [(flash, shape_probabilities(what, flash.at_us)) for flash in plan.sequence.flashes]
    if parsed.json:
        print(json.dumps(events_as_json(events(what), flashes), indent=2, allow_nan=False))
    else:
        print(events_as_table(events(what), flashes))
    return OK


def _notation(parsed: argparse.Namespace) -> int:
    from dataclasses import asdict

    from ondine.core.forecast.landmarks import predicts_for
    from ondine.core.table.firing import problems
    from ondine.core.timing.conventions import ConventionError, nothing_predicted
    from ondine.core.timing.limits import timing_problems
    from ondine.core.timing.notation import MOST_CHARACTERS, NotationError, read, read_convention, write
    from ondine.logbook.recipe import RecipeError, read_recipe

    # Nobody waits for megabytes of something else.
    text = sys.stdin.read(MOST_CHARACTERS + 2).strip() if parsed.text == "-" else parsed.text
    try:
        plan = read_recipe(parsed.recipe) if parsed.recipe else None
        predicts = nothing_predicted if plan is None else predicts_for(plan.setup, plan.belief)
        line = read(text, predicts)
        found = timing_problems(line.sequence) if plan is None else problems(line.sequence, plan.setup)
        for problem in found:
            _complain(f"It cannot be fired so. {problem.says}")
        if parsed.json:
            told = {"format": "ondine-notation", "version": 1, "sequence": asdict(line.sequence)}
            print(json.dumps(told, indent=2))
        else:
            convention, unit = read_convention(parsed.to) if parsed.to else (line.convention, line.unit)
            print(write(line.sequence, convention, unit, predicts))
    except (NotationError, ConventionError, RecipeError) as error:
        return _complain(error)
    return OK


def _preview(parsed: argparse.Namespace) -> int:
    from ondine.core.table.firing import problems
    from ondine.logbook.recipe import RecipeError, read_recipe
    from ondine.logbook.writing import WriteError
    from ondine.studio.foreseen.file import PreviewError, write_preview

    try:
        plan = read_recipe(parsed.recipe)
        for problem in problems(plan.sequence, plan.setup):
            print(f"It cannot be fired so. {problem.says}", file=sys.stderr)
        width, height = write_preview(plan, parsed.at, parsed.size, parsed.out)
    except (RecipeError, PreviewError, WriteError) as error:
        return _complain(error)
    print(f"{width} × {height} pixels written to {parsed.out}")
    return OK


def _import(parsed: argparse.Namespace) -> int:
    from ondine.logbook.errors import LogbookError
    from ondine.logbook.store import Logbook
    from ondine.studio.intake import Taken, import_files
    from ondine.studio.places import Places
    from ondine.studio.studio import now

    refused = 0

    def told(taken: Taken) -> None:
        shot = f"shot {taken.shot_id}" if taken.shot_id is not None else "no shot fits, kept without one"
        if taken.shot_id is not None and not taken.sure:
            shot += "? Others fired about then: the window asks"
        print(f"{taken.path}: {shot}" + ("" if taken.new else " (was logged before)"))

    def complained(error: Exception) -> None:
        nonlocal refused
        refused += 1
        print(error, file=sys.stderr)

    try:
        logbook = Logbook.open(parsed.logbook or Places.of_user().table_logbook())
        try:
            import_files(logbook, parsed.files, now(), told, complained)
        finally:
            logbook.close()
    except LogbookError as error:
        return _complain(f"{error} Or copy the pictures into the folder that the open window watches.")
    return FAILED if refused else OK


def _rescue(parsed: argparse.Namespace) -> int:
    from ondine.logbook.errors import LogbookError
    from ondine.logbook.rescue import rescue

    try:
        saved = rescue(parsed.logbook, parsed.to)
    except LogbookError as error:
        return _complain(error)
    print(f"{saved.words} Open it with: ondine --logbook {parsed.to}")
    return OK


def _desktop(parsed: argparse.Namespace) -> int:
    from ondine.studio.desktop import Desktop, DesktopError

    desktop = Desktop.of_user()
    try:
        if parsed.remove_desktop:
            gone = desktop.remove()
            print("\n".join(f"Taken away: {path}" for path in gone) or "Nothing of Ondine was there.")
        else:
            placed = desktop.install()
            print("\n".join(f"In place: {path}" for path in placed))
            print(f"The menu starts {desktop.command}. ondine --remove-desktop takes all of it away.")
    except DesktopError as error:
        return _complain(error)
    return OK


COMMANDS = {
    "forecast": _forecast,
    "notation": _notation,
    "preview": _preview,
    "import": _import,
    "rescue": _rescue,
    **log_commands.COMMANDS,
    **exchange_commands.COMMANDS,
}


# With a window


def _window(parsed: argparse.Namespace) -> int:
    if parsed.screenshot is not None and "DISPLAY" not in os.environ and "WAYLAND_DISPLAY" not in os.environ:
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from ondine.logbook.errors import LogbookError
    from ondine.logbook.file_kind import FileKindError
    from ondine.logbook.writing import WriteError
    from ondine.studio.places import Places
    from ondine.ui.shell.loading import uncollected

    with uncollected():
        from ondine.ui.shell import app

    places = Places.of_user()
    try:
        opening, prepare = _opening(parsed, places)
    except FileKindError as error:
        return _complain(error)
    if parsed.screenshot is None:
        return app.run(lambda: opening, parsed.theme, prepare, places, remembers=not parsed.demo)
    try:
        if prepare is not None:
            prepare(lambda done, of: None)
        return app.screenshot(opening, parsed.theme, app.Shot(parsed.screenshot, parsed.view, parsed.size))
    except (LogbookError, WriteError) as error:
        return _complain(error)
    except OSError as error:
        return _complain(
            f"{error.filename} cannot be written ({error.strerror}). Choose a place that you may write to."
        )


def _opening(parsed: argparse.Namespace, places: Places) -> tuple[Opening, Callable[[Progress], None] | None]:
    """Return how the window opens, and what is to be laid out before it. Raises FileKindError."""
    from ondine.core.setup import BenchKind
    from ondine.logbook.file_kind import FileKind, kind_of_file
    from ondine.ui.shell.opening import Opening

    logbook, take = parsed.logbook, None
    if parsed.file is not None:
        if kind_of_file(parsed.file) is FileKind.LOGBOOK:
            logbook = parsed.file
        else:
            take = parsed.file
    if parsed.demo:
        return _demo(logbook, parsed.folder, take, places)
    if parsed.practice:
        logbook = logbook or places.practice_logbook()
        return Opening(logbook, parsed.folder, "Practice", bench=BenchKind.SIMULATED, take=take), None
    words = ""
    if logbook is None:
        logbook = places.last_logbook()
        if logbook is not None and not logbook.exists():
            words = f"The logbook that was open last, {logbook}, is not there now. This is your usual one."
            logbook = None
    return Opening(logbook or places.table_logbook(), parsed.folder, take=take, words=words), None


def _demo(
    logbook: Path | None, folder: Path | None, take: Path | None, places: Places
) -> tuple[Opening, Callable[[Progress], None] | None]:
    from ondine.core.setup import BenchKind
    from ondine.demo.install import demo_logbook, install_demo, is_installed
    from ondine.demo.scenario import SEED
    from ondine.demo.taught import IN_HAND
    from ondine.ui.shell.opening import Opening

    where, prepare = places.demo, None
    if logbook is None and not is_installed(where):
        prepare = lambda progress: install_demo(where, progress)  # noqa: E731
    opened = logbook or demo_logbook(where)
    return Opening(opened, folder, "Tidal Mill", IN_HAND, BenchKind.SIMULATED, SEED, take), prepare
