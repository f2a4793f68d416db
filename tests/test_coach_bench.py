"""`./dev bench coach` on a population of somebody else's, as a program of its own."""

import json
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).parents[1]

OTHERS = '''
"""A population that knows no coach: one law, one number a rig."""
from ondine.core.setup import Setup


class Rig:
    setup = Setup()

    def __init__(self, seed):
        self._opens_us = 300_000 + 7_000 * seed

    def fire(self, sequence):
        since = sequence.first_flash_us - self._opens_us - (sequence.drops[-1].start_us - 97_000) // 2
        if len(sequence.drops) < 2:
            return "rising-jet"
        for until, shape in ((-60_000, "in-flight"), (-40_000, "crown"), (-20_000, "crater"), (0, "rising-jet"),
                             (3_000, "opening-umbrella"), (8_000, "full-umbrella"), (14_000, "torn-umbrella")):
            if since < until:
                return shape
        return "collapsed" if since < 30_000 else "ripples"


make_rig = Rig
'''


def run(*arguments: str) -> subprocess.CompletedProcess:
    return subprocess.run(
        [sys.executable, "-m", "benchmarks", "coach", *arguments], cwd=ROOT, capture_output=True, text=True, timeout=110
    )


def test_any_module_with_make_rig_is_searched(tmp_path):
    module = tmp_path / "others.py"
    module.write_text(OTHERS)
    done = run("--rigs", str(module), "--count", "2", "--wrong-tags", "0", "--season", "30", "--json")
    assert done.returncode == 0, done.stderr
    found = json.loads(done.stdout)
    assert found["rigs"] == 2 and len(found["coach"]["shots"]) == 2
    assert all(shots is not None and shots <= 15 for shots in found["coach"]["shots"])
    assert found["calibration"] == {}
    assert found["speed"]["proposal_s"] > 0


def test_a_module_that_is_none_is_a_sentence(tmp_path):
    empty = tmp_path / "empty.py"
    empty.write_text("")
    for rigs in (str(empty), str(tmp_path / "missing.py"), "no.such.module"):
        done = run("--rigs", rigs, "--count", "1")
        assert done.returncode == 2
        assert "Traceback" not in done.stderr and "make_rig" in done.stderr
    assert run("--count", "0").returncode == 2
    assert run("--season", "0").returncode == 2
