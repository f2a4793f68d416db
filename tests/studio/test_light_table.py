import threading
from dataclasses import replace
from datetime import timedelta

import pytest

from ondine.core.light.recycle import recycle_s
from ondine.core.setup import Flash, Light, Setup
from ondine.demo.scenario import TIDAL_MILL
from ondine.studio.background import BackgroundSheet, SheetKind
from ondine.studio.events import BenchChanged, BenchState, Notice, SeriesGoesOn, ShotLogged, TrialFrameRead, Trouble
from tests.frames import camera_jpeg
from tests.studio.conftest import Table


@pytest.fixture
def lit(table: Table) -> Table:
    """A table whose waits pass on the test's own clock."""
    table.waited = []

    def sleep(seconds: float) -> None:
        table.waited.append(seconds)
        table.controller.clock.now += timedelta(seconds=seconds)

    table.studio.bench._sleep = sleep
    return table


def test_a_shot_waits_until_the_flash_has_recycled(lit):
    unit = Flash(power=1.0, recycle_full_s=4.0)
    lit.studio.composer.use_setup(Setup(light=Light((unit,))))
    for _ in range(2):
        lit.fire()
        lit.settle()
    assert len(lit.controller.fired) == 2
    assert lit.waited == [pytest.approx(recycle_s(unit), abs=0.2)]
    states = [e.state for e in lit.heard(BenchChanged)]
    assert states.index(BenchState.RECYCLING) > states.index(BenchState.READY)
    # Without flash nothing has to be waited for.
    lit.fire(dark=True)
    lit.settle()
    assert len(lit.waited) == 1 and lit.controller.commands.dark


def test_the_slowest_unit_decides(lit):
    quick, slow = Flash(power=1 / 64), Flash("Unit B", power=1.0, recycle_full_s=2.0, battery=0.5)
    lit.studio.composer.use_setup(Setup(light=Light((quick, slow))))
    for _ in range(2):
        lit.fire()
        lit.settle()
    assert lit.waited == [pytest.approx(4.0, abs=0.2)]


def test_a_series_keeps_its_interval_and_its_flash(lit):
    lit.studio.composer.use_setup(replace(TIDAL_MILL, light=Light((Flash(power=1 / 2, recycle_full_s=3.0),))))
    began = lit.controller.clock.now
    lit.fire(count=4, interval_s=0.5)
    lit.settle()
    assert len(lit.controller.fired) == 4
    # Each needs a second and a half, however short the interval that was asked for.
    assert (lit.controller.clock.now - began).total_seconds() >= 3 * 1.5
    steps = [(e.done, e.of) for e in lit.heard(SeriesGoesOn)]
    assert steps == [(0, 4), (1, 4), (2, 4), (3, 4), (0, 0)]
    assert lit.studio.bench.state is BenchState.READY and len(lit.heard(ShotLogged)) == 4


def test_a_series_is_stopped_between_shots(lit):
    gate = threading.Event()

    def second() -> None:
        if len(lit.controller.fired) == 1:
            lit.studio.bench.stop_series()
            gate.set()

    lit.controller.before = second
    lit.fire(count=50, interval_s=0.0)
    lit.settle()
    assert gate.is_set() and len(lit.controller.fired) == 2


def test_a_frame_is_read_beside_the_window_and_bad_ones_are_told(lit, tmp_path):
    lit.studio.light_table.read(camera_jpeg(tmp_path / "a.jpg", 99))
    (event,) = lit.heard(TrialFrameRead)
    assert event.frame.f_number == 16 and event.frame.pixels.mean() == pytest.approx(99, abs=2)
    lit.studio.light_table.read(tmp_path / "none.jpg")
    assert "is not there any more" in lit.heard(Trouble)[0].message


def test_a_sheet_is_written_beside_the_window(lit, tmp_path):
    lit.studio.light_table.write(BackgroundSheet(), (0.2, 0.1), tmp_path / "sheet.png")
    assert "200 by 100 mm" in lit.heard(Notice)[0].message
    lit.studio.light_table.write(BackgroundSheet(SheetKind.BANDS, bands=99), (0.2, 0.1), tmp_path / "sheet.png")
    assert "2 to 60 bands" in lit.heard(Trouble)[0].message


def test_closing_does_not_wait_for_a_slow_flash_and_fires_nothing_more(table):
    table.studio.bench._sleep = table.studio.bench._stop_series.wait
    table.studio.composer.use_setup(Setup(light=Light((Flash(power=1.0, recycle_full_s=60.0),))))
    table.fire()
    table.settle()
    table.fire()
    table.heard(BenchChanged, 4)
    assert table.studio.bench.state is BenchState.RECYCLING
    closing = threading.Thread(target=table.studio.close)
    closing.start()
    closing.join(timeout=10)
    assert not closing.is_alive() and len(table.controller.fired) == 1
    table.studio = table.open()


def test_the_bench_is_not_free_between_the_shots_of_a_series(lit):
    refused: list[bool] = []
    lit.controller.before = lambda: refused.append(lit.fire())
    lit.fire(count=3, interval_s=1.0)
    lit.settle()
    assert refused == [False] * 3 and len(lit.controller.fired) == 3
    states = [e.state for e in lit.heard(BenchChanged)]
    assert states.count(BenchState.READY) == 1 and states[-1] is BenchState.READY
