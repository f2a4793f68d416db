"""The simulated camera's processes: they compile beside the window, and never outlive it."""

import math
import os
import signal
import subprocess
import sys
import time
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

import numpy as np
import pytest

from ondine.bench.protocol import BenchError
from ondine.bench.simulated import devices
from ondine.bench.simulated.devices import SimulatedCamera, SimulatedController, SimulatedTable, simulated_bench
from ondine.bench.simulated.fluid import fluid_of
from ondine.core.forecast.instant import at_instant
from ondine.core.forecast.whole import forecast
from ondine.core.setup import FlashFiredBy, Setup, Triggers
from ondine.core.setup.fields import put
from ondine.core.table.lag_series import lag_between
from ondine.core.table.weighing import Weighing, flow_from
from ondine.core.timing.latency import commands_for
from ondine.core.timing.sequence import Pulse, Sequence
from ondine.demo.scenario import SEED, START, TIDAL_MILL
from ondine.demo.taught import TAUGHT
from ondine.logbook.intake import read_picture
from ondine.studio.pouring import pour_of

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


NOW = datetime(2026, 5, 9, 19, 0, tzinfo=UTC)


ONE = Sequence.with_one_flash((Pulse(0, 22_000),), 258_000)


HIGH = ONE.with_flash(0, 230_000)
"""The drop is well over the frame, and will still be in the air a little later."""


def wait_for_file(folder: Path, within_s: float = 60) -> Path:
    end = time.monotonic() + within_s
    while time.monotonic() < end:
        found = list(folder.glob("*.JPG"))
        if found:
            return found[0]
        time.sleep(0.05)
    raise AssertionError("no picture came")


class DeafCamera(SimulatedCamera):
    """Notes whether light fell."""

    def __init__(self, table: SimulatedTable) -> None:
        super().__init__(table)
        self.lit: list[bool] = []
        self.light_us: list[int] = []

    def expose(self, *words: object) -> None:
        assert isinstance(words[0], Sequence)
        lights = words[1]
        assert isinstance(lights, tuple)
        self.lit.append(bool(lights))
        self.light_us += [light.at_us for light in lights]


def height_at(setup: Setup, time_s: float) -> float:
    what = forecast(setup, TAUGHT, HIGH)
    return float(at_instant(what, round(time_s * 1e6)).drop_height_m[0, 0])


def test_the_bench_drops_a_jpeg_into_the_folder_after_firing(tmp_path):
    slept: list[float] = []
    controller, camera = simulated_bench(SEED, lambda: NOW, slept.append)
    camera.deliver_to(tmp_path, lambda error: pytest.fail(str(error)))
    report = controller.fire(commands_for(TIDAL_MILL, START), TIDAL_MILL)
    assert report.flashes_us == (START.first_flash_us,) and slept[0] > START.first_flash_us / 1e6
    facts = read_picture(wait_for_file(tmp_path))
    camera.close()
    assert (facts.width_px, facts.height_px, facts.taken_at) == (1200, 800, NOW)
    assert facts.f_number == 16 and facts.iso == 200 and facts.exposure_s == 0.5
    assert not list(tmp_path.glob(".*"))


def test_a_picture_that_cannot_be_written_is_reported(tmp_path):
    controller, camera = simulated_bench(SEED, lambda: NOW, lambda _: None)
    errors: list[BenchError] = []
    camera.deliver_to(tmp_path / "none", errors.append)
    controller.fire(commands_for(TIDAL_MILL, START), TIDAL_MILL)
    end = time.monotonic() + 60
    while not errors and time.monotonic() < end:
        time.sleep(0.05)
    camera.close()
    assert "could not be written" in str(errors[0])


def test_the_level_drifts_and_an_empty_reservoir_refuses():
    table = SimulatedTable(SEED, lambda: NOW, lambda _: None)
    controller = SimulatedController(table, DeafCamera(table))
    full = table.head_m(0)
    controller.fire(commands_for(TIDAL_MILL, START), TIDAL_MILL)
    assert table.head_m(0) < full
    table.heads_m[0] = 0
    with pytest.raises(BenchError, match="Refill"):
        controller.fire(commands_for(TIDAL_MILL, START), TIDAL_MILL)
    table.refill()
    assert table.head_m(0) == full


def test_a_flash_that_has_not_recycled_stays_dark():
    table = SimulatedTable(SEED, lambda: NOW, lambda _: None)
    camera = DeafCamera(table)
    controller = SimulatedController(table, camera)
    assert controller.fire(commands_for(TIDAL_MILL, START), TIDAL_MILL).note == ""
    assert "not ready" in controller.fire(commands_for(TIDAL_MILL, START), TIDAL_MILL).note
    assert camera.lit == [True, False]


def test_weighing_the_simulated_valve_finds_what_it_hides():
    table = SimulatedTable(SEED, lambda: NOW, lambda _: None)
    controller = SimulatedController(table, DeafCamera(table))
    density = fluid_of(TIDAL_MILL).density
    weighings = []
    for open_us, pulses in ((12_000, 80), (25_000, 60), (45_000, 40)):
        table.refill()
        poured = controller.pour(pour_of(TIDAL_MILL, 0, open_us, pulses), TIDAL_MILL, lambda _: True)
        assert poured.pulses == pulses and poured.grams is not None
        weighings.append(Weighing(open_us, pulses, poured.grams, 0.02))
    found = flow_from(weighings, density)
    # The head sinks a little while it is weighed.
    hidden = table.rig.discharge_m3_s_sqrt_m * math.sqrt(table.rig.head_m)
    assert found.flow_m3_s == pytest.approx(hidden, rel=0.02)
    assert found.dead_time_s == pytest.approx(table.rig.dead_time_s, abs=0.4e-3)
    stopped = controller.pour(pour_of(TIDAL_MILL, 0, 20_000, 50), TIDAL_MILL, lambda done: done < 7)
    assert stopped.pulses == 7


def test_the_cameras_school_has_a_lag_that_two_series_find():
    table = SimulatedTable(SEED, lambda: NOW, lambda _: None)
    camera = DeafCamera(table)
    controller = SimulatedController(table, camera)
    through = {}
    for school in FlashFiredBy:
        setup = replace(TIDAL_MILL, triggers=Triggers(flash_fired_by=school))
        camera.light_us.clear()
        table.flashed_s.clear()
        for _ in range(8):
            table.flashed_s.clear()
            controller.fire(commands_for(setup, HIGH), setup)
        through[school] = np.array(camera.light_us) / 1e6
    late = through[FlashFiredBy.CAMERA].mean() - through[FlashFiredBy.CONTROLLER].mean()
    known = Triggers().shutter_lag_s + Triggers().wire_lag_s
    assert late == pytest.approx(table.rig.camera_lag_s - known, abs=1.5e-3)
    # What the pictures would show, measured: each drop as high as it was when the light came.
    fallen = {s: [height_at(TIDAL_MILL, t) for t in times] for s, times in through.items()}
    found = lag_between(fallen[FlashFiredBy.CONTROLLER], fallen[FlashFiredBy.CAMERA], TIDAL_MILL, TAUGHT, HIGH.drops[0])
    assert found.lag_s == pytest.approx(late, abs=1e-4)


def test_a_shutter_that_is_shut_is_told_and_a_dark_frame_is_dark():
    table = SimulatedTable(SEED, lambda: NOW, lambda _: None)
    camera = DeafCamera(table)
    controller = SimulatedController(table, camera)
    short = put(put(TIDAL_MILL, "camera.exposure_s", 0.05), "triggers.shutter_lead_s", 0.25)
    assert "shutter was shut" in controller.fire(commands_for(short, START), short).note
    table.flashed_s.clear()
    dark = replace(commands_for(TIDAL_MILL, START), dark=True)
    assert controller.fire(dark, TIDAL_MILL).note == "flash off" and camera.lit == [False, False]
