"""Whatever a shell gives to Ondine, it answers with a sentence and a code: odd names, odd places, odd bytes, full disks.

A code of 70 is a fault of Ondine's own, which is caught at the edge; none of these may meet one.
"""

import contextlib
import io
import os
import resource
import shutil
import subprocess
import sys
from datetime import UTC, datetime
from pathlib import Path

import pytest
from benchmarks.faults.rights import PLAIN_RIGHTS
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from ondine import cli
from ondine.cli import FAULT, main
from ondine.core.setup import BenchKind
from ondine.demo.scenario import SEASON
from ondine.logbook.records import PastShot
from ondine.logbook.store import Logbook
from tests.calibrated import IN_HAND

DATA = Path(__file__).parent / "data"
TABLE = "date;open;flash\n2026-05-09;22;356\n"

COMMANDS = (
    "find {} crown", "find {} x --json", "find {} --csv", "match {} {folder}", "match {} {folder} --apply",
    "match {log} {}", "backup {}", "backup {} --to {folder}/to", "backup {log} --to {}", "backup {} --restore {log}",
    "backup {log} --restore {}", "merge {} {log}", "merge {log} {}", "rescue {} --to {folder}/new.ondine",
    "rescue {log} --to {}", "export {} --csv {folder}/o.csv", "export {} --csv -", "export {} --json {folder}/o.json",
    "export {} --sqlite {folder}/o.db", "export {log} --csv {}", "export {log} --json {}", "export {log} --sqlite {}",
    "xmp {}", "xmp {log} --to {}", "import-table {log} {}", "import-table {} {table} --apply", "forecast {}",
    "forecast {} --json", "notation 95 --recipe {}", "import {} --logbook {log}", "import {picture} --logbook {}",
    "preview {} --out {folder}/p.png --size 320x240", "report {} --pdf {folder}/r.pdf", "report {log} --pdf {}",
)  # fmt: skip
SLOW = ("preview", "report")
"""They draw, so they are tried with fewer names."""

NAMES = (
    b"log.ondine", b"l\xff\xfe.ondine", b"n" * 247 + b".ondine", b"x" * 251, b"x" * 255, b"a\nb.ondine", b" .ondine",
    "日本 größer.ondine".encode(), b"it's \"q\".ondine", b"\x1b[31mred.ondine", b"%2F?#&.ondine", b"-v.ondine", b".ondine",
    b"\xc3\x28.csv", b"r\xff.json", b"a:b.xmp", b"~.db",
)  # fmt: skip


@pytest.fixture(scope="module")
def contents(tmp_path_factory, empty_logbook) -> dict[str, bytes]:
    path = tmp_path_factory.mktemp("odd") / "log.ondine"
    shutil.copyfile(empty_logbook, path)
    book = Logbook.open(path)
    at = datetime(2026, 5, 9, 12, 0, tzinfo=UTC)
    book.shots.add_history([PastShot("s", at, IN_HAND, ("crown",), note="\x1b[2Jnote", bench=BenchKind.BY_HAND)])
    book.close()
    whole = path.read_bytes()
    return {
        "logbook": whole, "torn": whole[: len(whole) // 2], "older": (DATA / "logbook-v2.ondine").read_bytes(),
        "cut": (DATA / "logbook-v2.ondine").read_bytes()[:95_222], "empty": b"", "table": TABLE.encode(),
        "recipe": (DATA / "recipe-v2.json").read_bytes(), "json": b"{}", "zeros": bytes(9000),
        "header": whole[:100] + b"\xff" * 5000,
    }  # fmt: skip


class Place:
    """A folder with one odd file, and beside it what commands need besides."""

    def __init__(self, folder: Path, name: bytes, whole: bytes) -> None:
        self.folder = folder
        self.odd = folder / os.fsdecode(name)
        self.others = {"folder": folder, "log": folder / "own.ondine", "table": folder / "own.csv"}
        self.others["picture"] = folder / "own.jpg"
        self.others["log"].write_bytes(whole)
        self.others["table"].write_text(TABLE)
        shutil.copyfile(SEASON / "060.jpg", self.others["picture"])

    def words(self, command: str) -> list[str]:
        return [str(self.odd) if word == "{}" else word.format(**self.others) for word in command.split()]


def answered(words: list[str]) -> tuple[int, str]:
    """Run a command here; return its code and all it said."""
    said = io.TextIOWrapper(io.BytesIO(), encoding="utf-8")
    with contextlib.redirect_stdout(said), contextlib.redirect_stderr(said):
        try:
            code = main(words)
        except SystemExit as usage:
            code = int(usage.code or 0)
    said.flush()
    return code, said.buffer.getvalue().decode("utf-8")


def holds(words: list[str]) -> None:
    code, said = answered(words)
    assert code in (0, 2), (code, words, said)
    assert "Traceback" not in said and (code == 0 or said.strip()), (words, said)


@pytest.mark.parametrize("name", NAMES, ids=repr)
def test_any_name_is_a_name(tmp_path, contents, name):
    for number, command in enumerate(COMMANDS):
        if command.startswith(SLOW) and name not in NAMES[1:3]:
            continue
        (tmp_path / str(number)).mkdir()
        place = Place(tmp_path / str(number), name, contents["logbook"])
        kind = "table" if "import-table {log}" in command else "recipe" if "forecast" in command else "logbook"
        with contextlib.suppress(OSError):
            place.odd.write_bytes(contents[kind])
        holds(place.words(command))


@pytest.mark.parametrize("command", COMMANDS)
def test_any_content_and_any_kind_of_place_is_an_answer(tmp_path, contents, command):
    kinds = ["logbook", "torn", "empty", "header"] if command.startswith(SLOW) else [*contents]
    for kind in (*kinds, "nothing", "folder", "pipe", "endless", "loop", "dangling", "in a file"):
        folder = tmp_path / kind
        folder.mkdir()
        place = Place(folder, b"odd.ondine", contents["logbook"])
        match kind:
            case "nothing":
                pass
            case "folder":
                place.odd.mkdir()
            case "pipe":
                os.mkfifo(place.odd)
            case "endless":
                place.odd.symlink_to("/dev/zero")
            case "loop":
                place.odd.symlink_to(place.odd)
            case "dangling":
                place.odd.symlink_to(folder / "none" / "x.ondine")
            case "in a file":
                place.odd = place.others["table"] / "x.ondine"
            case _:
                place.odd.write_bytes(contents[kind])
        holds(place.words(command))


@settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    command=st.sampled_from([command for command in COMMANDS if not command.startswith(SLOW)]),
    name=st.binary(min_size=1, max_size=255).filter(lambda n: not set(n) & {0, 47} and n not in (b".", b"..")),
    content=st.one_of(st.binary(max_size=300), st.binary(max_size=300).map(lambda b: b"SQLite format 3\0" + b)),
)
def test_any_bytes_are_an_answer(tmp_path_factory, contents, command, name, content):
    place = Place(tmp_path_factory.mktemp("any"), name, contents["logbook"])
    if place.odd.parent.resolve() == place.folder and place.odd not in place.others.values():
        place.odd.write_bytes(content)
    holds(place.words(command))


RUN = "import sys\nfrom ondine.cli import main\nsys.exit(main(sys.argv[1:]))"


def ran(words: list[str], state: Path, **how: object) -> tuple[int, str]:
    done = subprocess.run(
        [*PLAIN_RIGHTS, sys.executable, "-c", RUN, *words], capture_output=True, check=False,
        env={**os.environ, "XDG_STATE_HOME": str(state)}, **how,
    )  # fmt: skip
    return done.returncode, (done.stdout + done.stderr).decode("utf-8", "replace")


LOCKED = ("find {}", "backup {}", "backup {} --to {folder}", "merge {} {other}", "merge {other} {}",
          "rescue {} --to {folder}/new.ondine", "rescue {other} --to {folder}/new.ondine",
          "backup {} --restore {other}", "xmp {other} --to {folder}", "export {} --csv {folder}/o.csv",
          "import-table {} {table} --apply")  # fmt: skip


@pytest.mark.parametrize("mode", [0o000, 0o444, 0o555], ids=oct)
@pytest.mark.parametrize("command", LOCKED)
def test_a_locked_folder_is_a_sentence(tmp_path, contents, mode, command):
    folder = tmp_path / "locked"
    folder.mkdir()
    place = Place(folder, b"log.ondine", contents["logbook"])
    place.odd.write_bytes(contents["logbook"])
    shutil.copytree(folder, tmp_path / "open")
    place.others |= {"other": tmp_path / "open" / "log.ondine", "table": tmp_path / "open" / "own.csv"}
    folder.chmod(mode)
    try:
        code, said = ran(place.words(command), tmp_path / "state")
    finally:
        folder.chmod(0o755)
    assert code in (0, 2) and said.strip() and "Traceback" not in said, said
    if code == 2:
        assert said.rstrip().endswith((".", ")"))


@pytest.mark.parametrize("most", [0, 5_000, 60_000, 200_000])
@pytest.mark.parametrize(
    "command", ["rescue {} --to {folder}/new.ondine", "backup {}", "merge {} {log}", "export {} --csv {folder}/o.csv"]
)
def test_a_full_disk_is_a_sentence(tmp_path, contents, most, command):
    place = Place(tmp_path, b"log.ondine", contents["logbook"])
    place.odd.write_bytes(contents["logbook"])

    def limit() -> None:
        resource.setrlimit(resource.RLIMIT_FSIZE, (most, most))

    code, said = ran(place.words(command), tmp_path / "state", preexec_fn=limit)
    assert code in (0, 2) and said.strip() and "Traceback" not in said, said
    assert place.odd.read_bytes()[:16] == contents["logbook"][:16]


def test_a_fault_of_our_own_is_said_and_logged(monkeypatch, tmp_path, capsys):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path))

    def fails(parsed: object) -> int:
        raise IndexError("out of range")

    monkeypatch.setitem(cli.COMMANDS, "find", fails)
    assert main(["find", "x"]) == FAULT
    said = capsys.readouterr().err
    assert "fault of Ondine (IndexError: out of range)" in said and "Traceback" not in said
    assert "IndexError" in (tmp_path / "ondine" / "ondine.log").read_text()


def test_a_terminal_is_told_no_commands_by_a_note(tmp_path, contents):
    """Of before: what a note held of escape sequences was obeyed."""
    path = tmp_path / "log.ondine"
    path.write_bytes(contents["logbook"])
    code, said = answered(["find", str(path)])
    assert code == 0 and "note" in said and "\x1b" not in said
