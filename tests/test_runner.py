"""The task runner, on machines of other kinds: everything it calls is a stand-in on the PATH."""

import os
import shutil
import subprocess
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
TOOLS = ("bash", "dirname", "cat", "cksum", "sed", "grep", "env", "printf", "rm", "mkdir", "cp")


@pytest.fixture
def machine(tmp_path: Path) -> Path:
    """A copy of the runner and of what it reads, with a PATH of its own."""
    for name in ("dev", "pyproject.toml", "requirements"):
        source = ROOT / name
        (shutil.copytree if source.is_dir() else shutil.copy)(source, tmp_path / name)
    tools = tmp_path / "bin"
    tools.mkdir()
    for tool in TOOLS:
        found = shutil.which(tool)
        if found:
            (tools / tool).symlink_to(found)
    return tmp_path


def tool(machine: Path, name: str, does: str) -> None:
    path = machine / "bin" / name
    path.write_text(f"#!/usr/bin/env bash\n{does}\n")
    path.chmod(0o755)


def run(machine: Path, *words: str) -> subprocess.CompletedProcess[str]:
    env = {**os.environ, "PATH": str(machine / "bin")}
    return subprocess.run([str(machine / "dev"), *words], capture_output=True, text=True, env=env, check=False)


def test_help_and_a_task_that_is_not_there(machine):
    assert "./dev demo" in run(machine, "help").stdout
    wrong = run(machine, "fly")
    assert wrong.returncode == 2 and "no task 'fly'" in wrong.stderr


def test_without_root_the_install_line_is_printed(machine):
    tool(machine, "dpkg-query", "exit 1")
    tool(machine, "id", "echo 1000")
    done = run(machine, "demo")
    assert done.returncode != 0
    assert "sudo apt-get install libegl1" in done.stderr
    assert "xvfb" not in done.stderr
    assert "xvfb" in run(machine, "test").stderr


def test_a_python_that_is_too_old_is_said(machine):
    tool(machine, "dpkg-query", "echo installed")
    tool(machine, "python3", "exit 1")
    done = run(machine, "demo")
    assert done.returncode != 0 and "needs Python 3.11" in done.stderr


def test_the_first_start_sets_up_and_the_second_does_not(machine):
    tool(machine, "dpkg-query", "echo installed")
    log = machine / "log"
    fake = f'echo "$*" >>{log}; if [ "$2" = venv ]; then mkdir -p "$3/bin"; cp "$0" "$3/bin/python"; fi'
    tool(machine, "python3.11", fake)
    # Nothing is really installed, so that the last step, starting the program, must fail.
    run(machine, "demo")
    first = log.read_text()
    assert "--require-hashes -r requirements/run.lock" in first and "ondine.picture.warm" in first
    run(machine, "demo")
    assert log.read_text() == first


def test_a_python_without_venv_is_named_before_anything_is_made(machine):
    tool(machine, "dpkg-query", "echo installed")
    said = 'case "$2" in *ensurepip*) exit 1;; *version_info*print*) ;; *print*) echo python3.11-venv;; esac'
    tool(machine, "python3.11", said)
    done = run(machine, "demo")
    assert done.returncode == 1 and "sudo apt-get install python3-venv" in done.stderr
    assert "python3.11-venv" in done.stderr and not (machine / ".venv").exists()


def test_what_is_half_made_is_taken_away_and_made_anew(machine):
    tool(machine, "dpkg-query", "echo installed")
    # As Debian's does without its package: it makes half of it, then fails.
    tool(machine, "python3.11", 'if [ "$2" = venv ]; then mkdir -p "$3/bin"; cp "$0" "$3/bin/python"; exit 1; fi')
    done = run(machine, "demo")
    assert done.returncode == 1 and "could not be made" in done.stderr and not (machine / ".venv").exists()
    # One that an older runner left behind has no pip.
    half = machine / ".venv" / "bin"
    half.mkdir(parents=True)
    tool(machine, "python", 'if [ "$2" = pip ]; then echo "No module named pip" >&2; exit 1; fi')
    (machine / "bin" / "python").rename(half / "python")
    test_the_first_start_sets_up_and_the_second_does_not(machine)
    assert "No module named pip" not in run(machine, "demo").stderr


def test_a_changed_lock_is_set_up_again(machine):
    test_the_first_start_sets_up_and_the_second_does_not(machine)
    before = (machine / "log").read_text()
    with (machine / "requirements" / "run.lock").open("a") as lock:
        lock.write("# another\n")
    run(machine, "demo")
    assert len((machine / "log").read_text()) > len(before)


def test_every_locked_package_has_a_hash_and_no_host():
    for lock in (ROOT / "requirements").glob("*.lock"):
        text = lock.read_text()
        pinned = [line for line in text.splitlines() if line and not line.startswith((" ", "#"))]
        assert pinned and all("==" in line and line.endswith("\\") for line in pinned)
        assert "--hash=sha256:" in text and "://" not in text
