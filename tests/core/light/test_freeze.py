import pytest

from ondine.core.forecast.instant import at_instant
from ondine.core.forecast.outline import outline
from ondine.core.forecast.whole import forecast
from ondine.core.light.blur import Edge
from ondine.core.light.freeze import cleanest, freeze_table, print_target_px, sharpest, unlit, waiting
from ondine.core.setup import Camera, DurationPoint, Flash
from ondine.demo.scenario import START, TIDAL_MILL
from tests.calibrated import TAUGHT


def test_waiting_for_the_sheet_of_the_demo_is_found_by_itself():
    what = forecast(TIDAL_MILL, TAUGHT, START)

    def edges(time_us):
        return outline(what, at_instant(what, time_us)).edges

    key = TIDAL_MILL.light.key
    found = [waiting(edges, t, key, TIDAL_MILL.camera) for t in range(351_500, 356_000, 500)]
    assert any(w is not None and w.edge == "sheet rim" for w in found)
    for w in (w for w in found if w is not None):
        assert w.later_px < w.stop_px < w.now_px


PRACTICE = (DurationPoint(1, 1 / 1000), DurationPoint(1 / 16, 1 / 11_000), DurationPoint(1 / 128, 1 / 41_600))


EDGES = [Edge("drop 2", 2.9, 0.002, 0.02), Edge("jet tip", 0.6, 0.002, 0.02)]


CAMERA = Camera(sensor_width_m=24e-3, width_px=6000, magnification=0.25)


@pytest.mark.parametrize(("power", "pixels"), [(1 / 16, 16), (1 / 128, 4.4)])
def test_worked_blur(power, pixels):
    # Worked by hand: 2.9 m/s at 1:4 on pixels of 4 µm.
    (row,) = freeze_table(EDGES, Flash(durations=PRACTICE, power=power), [power], CAMERA, 200)
    assert row.worst_px == pytest.approx(pixels, rel=0.03) and row.blurs_px[1] < row.blurs_px[0]


def test_both_schools_choose():
    flash = Flash(durations=PRACTICE, power=1 / 16)
    rows = freeze_table(EDGES, flash, [1 / n for n in (1, 2, 4, 8, 16, 32, 64, 128)], CAMERA, 200)
    assert [row.iso for row in rows] == pytest.approx([12.5, 25, 50, 100, 200, 400, 800, 1600])
    assert sharpest(rows, 800).power == 1 / 64 and sharpest(rows, 10) is None
    assert cleanest(rows, 16.5).power == 1 / 16 and cleanest(rows, 0.5) is None
    assert unlit(EDGES, 1 / 4000, CAMERA) == pytest.approx(45, rel=0.02)
    # Two pixels of the print: one arc minute from 0.8 m on 0.6 m of 6000 px.
    assert print_target_px(Camera()) == pytest.approx(2.33, abs=0.01)


def test_waiting_for_the_jet_to_stand_buys_more_than_a_stop():
    def edges(time_us):
        return [Edge("jet tip", abs(1.5 - 9.8 * (time_us - 100_000) / 1e6 * 60), 0.002, 0.03)]

    found = waiting(edges, 100_000, Flash(durations=PRACTICE, power=1 / 16), CAMERA)
    assert found is not None and found.wait_us == 2_000 and found.later_px < found.stop_px
    assert "Wait 2 ms" in found.words
    falling = lambda time_us: [Edge("drop 1", 2.5, 0.002, 0.02)]  # noqa: E731
    assert waiting(falling, 100_000, Flash(durations=PRACTICE, power=1 / 16), CAMERA) is None


def test_one_unit_among_others_asks_for_less_change_of_iso_than_one_alone():
    unit = Flash(power=1 / 32, durations=PRACTICE)
    alone, among = (freeze_table(EDGES, unit, [1 / 64, 1 / 32, 1 / 16], Camera(), 400, share) for share in (1.0, 0.25))
    assert [row.iso for row in alone] == pytest.approx([800, 400, 200])
    # A quarter of the light: halved, 7/8 of it is left; doubled, 5/4.
    assert [row.iso for row in among] == pytest.approx([400 / 0.875, 400, 400 / 1.25])
    assert [row.blurs_px for row in alone] == [row.blurs_px for row in among]
