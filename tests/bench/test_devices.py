"""The simulated camera's processes: they compile beside the window, and never outlive it."""

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from ondine.bench.simulated import devices
from ondine.bench.simulated.devices import SimulatedCamera, SimulatedTable

OWNER = """
import time
from datetime import datetime, UTC
from ondine.bench.simulated.devices import SimulatedCamera, SimulatedTable, _process
import os
if __name__ == "__main__":
    camera = SimulatedCamera(SimulatedTable(1, lambda: datetime.now(UTC), lambda _: None))
    worker = _process()
    print(worker.submit(os.getpid).result(), flush=True)
    time.sleep(60)
"""


def alive(pid: int) -> bool:
    stat = Path(f"/proc/{pid}/stat")
    return stat.exists() and stat.read_text().rsplit(")", 1)[1].split()[0] != "Z"


@pytest.mark.parametrize("how", [signal.SIGTERM, signal.SIGHUP, signal.SIGKILL])
def test_the_cameras_process_ends_with_the_window_however_that_ends(tmp_path, how):
    script = tmp_path / "owner.py"
    script.write_text(OWNER)
    owner = subprocess.Popen([sys.executable, str(script)], stdout=subprocess.PIPE, text=True)
    worker = int(owner.stdout.readline())
    assert alive(worker)
    os.kill(owner.pid, how)
    owner.wait()
    owner.stdout.close()
    until = time.monotonic() + 10
    while alive(worker) and time.monotonic() < until:
        time.sleep(0.05)
    assert not alive(worker)


def test_closing_does_not_wait_for_the_compiler(monkeypatch):
    monkeypatch.setattr(devices, "PATIENCE_S", 0.05)
    camera, told = SimulatedCamera(SimulatedTable(1, lambda: None, lambda _: None)), []

    class Slow:
        """Stands for a process that compiles for a minute."""

        exitcode = None

        def __init__(self, target, daemon):
            self.ended = devices.threading.Event()

        def start(self):
            pass

        def join(self, seconds=60.0):
            self.ended.wait(seconds)

        def terminate(self):
            self.exitcode = -15
            self.ended.set()

    class Context:
        Process = Slow

    monkeypatch.setattr("multiprocessing.get_context", lambda _: Context)
    camera.prepare(told.append)
    until = time.monotonic() + 5
    while not told and time.monotonic() < until:
        time.sleep(0.01)
    began = time.monotonic()
    camera.close()
    assert time.monotonic() - began < 5
    time.sleep(0.05)
    # Said that it takes a while, and nothing more: it never got ready.
    assert told == [False]


def test_what_is_ready_in_a_moment_is_not_worth_a_word(monkeypatch):
    monkeypatch.setattr(devices, "PATIENCE_S", 100.0)
    camera, told = SimulatedCamera(SimulatedTable(1, lambda: None, lambda _: None)), []
    camera.prepare(told.append)
    # Asked again and again, not joined: the camera's own thread joins it, and of two only one is told how it ended.
    until = time.monotonic() + 120
    while camera._warming.exitcode is None and time.monotonic() < until:
        time.sleep(0.01)
    assert camera._warming.exitcode == 0
    camera.close()
    assert told == []
