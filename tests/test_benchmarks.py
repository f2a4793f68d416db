"""Each benchmark runs, in its shortest form and as `./dev bench` starts it: what nobody runs breaks unseen."""

import subprocess
import sys
from pathlib import Path

import pytest
from benchmarks.__main__ import ALL, ASKED

ROOT = Path(__file__).parents[1]

# A slow machine takes long for what is short here.
pytestmark = pytest.mark.timeout(300)


def small(name: str) -> list[str]:
    done = subprocess.run(
        [sys.executable, "-m", "benchmarks", "--small", name], cwd=ROOT, capture_output=True, text=True, timeout=280
    )
    assert done.returncode == 0, done.stderr[-2000:]
    assert "Traceback" not in done.stderr, done.stderr[-2000:]
    return [line for line in done.stdout.splitlines() if line.strip()]


@pytest.mark.parametrize("name", [*ALL, "log"])
def test_it_runs_and_says_how_its_bounds_were_met(name):
    lines = small(name)
    assert lines[0] == name and any(": met" in line or ": MISSED" in line for line in lines[1:])


def test_the_coach_is_measured_on_one_rig():
    assert small("coach")[0] == "shots to the first full umbrella on 1 hidden rigs"


def test_what_is_no_benchmark_is_a_sentence():
    done = subprocess.run([sys.executable, "-m", "benchmarks", "speed"], cwd=ROOT, capture_output=True, text=True)
    assert done.returncode == 2 and done.stderr.startswith("There is no benchmark 'speed'. There are: bands, forecast")
    assert set(ASKED) == {"faults", "log"}
