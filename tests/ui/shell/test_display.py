"""Where there is no display, one sentence says so."""

import os
import subprocess
import sys

import pytest


@pytest.mark.parametrize(
    ("display", "says"),
    [({}, "there is no display"), ({"DISPLAY": ":98765"}, "the display :98765 does not answer")],
)
def test_one_sentence_instead_of_an_abort(tmp_path, display, says):
    gone = ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")
    env = {key: value for key, value in os.environ.items() if key not in gone}
    homes = {f"XDG_{what}_HOME": str(tmp_path / what) for what in ("DATA", "STATE")}
    done = subprocess.run(
        [sys.executable, "-m", "ondine"], env={**env, **homes, **display}, capture_output=True, text=True, timeout=60
    )
    assert done.returncode == 2 and says in done.stderr, done.stderr
    assert done.stderr.count("\n") == 1 and "Traceback" not in done.stderr and "ondine forecast" in done.stderr
    assert not (tmp_path / "DATA").exists()
