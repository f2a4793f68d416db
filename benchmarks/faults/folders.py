"""Commands of the shell in folders that may not be read or written, under odd names: a sentence and a code, always."""

from __future__ import annotations

import os
import random
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

from benchmarks.faults import Tally
from benchmarks.faults.rights import PLAIN_RIGHTS
from benchmarks.faults.victim import filled
from ondine.logbook.file import check_sound

MODES = (0o000, 0o444, 0o555, 0o755)
NAMES = (b"log.ondine", b"l\xff\xfe.ondine", b"n" * 247 + b".ondine", b"a\nb.ondine", "größer 日本.ondine".encode(),
         b"\x1b[31mred.ondine", b"-v.ondine", b"%2F?#&.ondine")  # fmt: skip
COMMANDS = (
    "find {} crown", "backup {}", "backup {} --to {there}", "backup {other} --to {there}", "merge {} {other}",
    "merge {other} {}", "rescue {} --to {there}/new.ondine", "rescue {other} --to {there}/new.ondine",
    "backup {} --restore {other}", "backup {other} --restore {}", "export {} --csv {there}/o.csv",
    "xmp {} --to {there}", "match {} {there}", "export {other} --sqlite {there}/o.db",
)  # fmt: skip
RUN = "import sys\nfrom ondine.cli import main\nsys.exit(main(sys.argv[1:]))"


def run(count: int, seed: int) -> Tally:
    """Run `count` commands, each in a folder of its own."""
    tally, dice = Tally("commands in closed folders, under odd names"), random.Random(seed)
    with tempfile.TemporaryDirectory() as home:
        whole = Path(home) / "whole.ondine"
        filled(whole, "Evening", 4)
        for number in range(count):
            tally.tried += 1
            command, mode = dice.choice(COMMANDS), dice.choice(MODES)
            fault, code = _once(Path(home) / str(number), whole, command, mode, dice.choice(NAMES))
            tally.note("done" if code == 0 else "told")
            if fault:
                tally.faults.append(f"{command!r} in a folder of mode {mode:o}: {fault}")
    return tally


def _once(place: Path, whole: Path, command: str, mode: int, name: bytes) -> tuple[str, int]:
    there = place / "there"
    there.mkdir(parents=True)
    odd, other = there / os.fsdecode(name), place / "other.ondine"
    shutil.copyfile(whole, odd)
    shutil.copyfile(whole, other)
    words = [str(odd) if word == "{}" else word.format(there=there, other=other) for word in command.split()]
    there.chmod(mode)
    try:
        done = subprocess.run(
            [*PLAIN_RIGHTS, sys.executable, "-c", RUN, *words], capture_output=True, check=False, timeout=120,
            env={**os.environ, "XDG_STATE_HOME": str(place / "state")},
        )  # fmt: skip
    finally:
        there.chmod(0o755)
    said = (done.stdout + done.stderr).decode("utf-8", "replace")
    if done.returncode not in (0, 2) or "Traceback" in said or not (done.returncode == 0 or said.strip()):
        return f"code {done.returncode}, {said[-300:]!r}", done.returncode
    for path in (odd, other):
        # Under a name at which SQLite can have its own files beside it.
        copy = shutil.copyfile(path, place / "copy.ondine")
        check_sound(copy, path)
    return "", done.returncode
