"""A lane for each valve, flash output and the shutter, wherever the chart is."""

from dataclasses import replace

import pytest
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QImage, QPainter

from ondine.core.forecast.prediction import Prediction
from ondine.core.timing.items import flash
from ondine.core.timing.sequence import CameraTimes, FlashPulse, Pulse, Sequence
from ondine.demo.scenario import MILL_RACE, RACE, START, TIDAL_MILL
from ondine.ui.bench.lanes import NAMED_PX, Faults, Lanes
from tests.calibrated import RACE_IN_HAND, TAUGHT
from tests.ui.hands import drag, place

MANY = Sequence(
    tuple(Pulse(80_000 * (n // 4), 20_000, n % 4) for n in range(8)),
    tuple(FlashPulse(350_000 + n, n) for n in range(4)),
)


@pytest.mark.parametrize(
    ("setup", "sequence", "names"),
    [
        (TIDAL_MILL, START, ["shutter", "valve", "flash"]),
        (MILL_RACE, RACE, ["shutter", "valve 1", "valve 2", "out 1", "out 2"]),
        # A valve of the table that nothing falls from has its lane, and so has one that the table has not.
        (MILL_RACE, START, ["shutter", "valve 1", "valve 2", "flash"]),
        (TIDAL_MILL, replace(START, drops=(Pulse(0, 9_000, 2),)), ["shutter", "valve 1", "valve 3", "flash"]),
    ],
)
def test_lanes_are_those_of_table_and_sequence(setup, sequence, names):
    lanes = Lanes.of(Prediction.of(setup, TAUGHT, sequence), 300, 420)
    assert lanes.names() == names and lanes.foot <= 420
    for pulse in sequence.drops:
        assert lanes.valve_at(lanes.valve_y(pulse.valve) + lanes.px / 2) == pulse.valve
    assert lanes.valve_at(lanes.output_y(sequence.flashes[0].output) + lanes.px / 2) is None


def test_lanes_too_low_for_names_have_none():
    lanes = Lanes.of(Prediction.of(MILL_RACE, TAUGHT, MANY), 300, 370)
    assert lanes.px < NAMED_PX and lanes.names() == []


def test_a_pulse_is_dragged_in_its_own_lane_and_a_flash_by_its_own_line(bench):
    composer, chart = bench.studio.composer, bench.window.bench.chart
    composer.use_plan(RACE_IN_HAND)
    first, fourth = RACE.drops[0], RACE.drops[3]
    # In the lane of valve 2, over a time at which valve 1 is open as well.
    at = place(chart, fourth.start_us + 4_000, 2)
    drag(chart, at, at + QPointF(30, 0))
    moved = composer.sequence.drops
    assert moved[3].start_us > fourth.start_us and moved[0] == first and moved[:3] == RACE.drops[:3]
    line = QPointF(chart.time_scale.x(composer.sequence.flashes[1].at_us / 1e6), 60)
    drag(chart, line, line + QPointF(20, 0))
    assert composer.sequence.flashes[1].at_us > RACE.flashes[1].at_us and chart.selection.held == flash(1)
    assert composer.sequence.flashes[0] == RACE.flashes[0]


@pytest.mark.parametrize("second_us", [356_000, 356_500, 361_000, 372_000, 420_000])
def test_the_names_of_flashes_lie_on_no_flash_and_on_no_other_name(bench, second_us):
    window = bench.window
    window.resize(1280, 800)
    sequence = replace(RACE, flashes=(FlashPulse(356_000), FlashPulse(second_us, 1)))
    bench.studio.composer.use_plan(replace(RACE_IN_HAND, sequence=sequence))
    chart = window.bench.chart
    image = QImage(10, 10, QImage.Format.Format_RGB32)
    painter = QPainter(image)
    brush = chart.brush(painter, chart.prediction)
    labels = [room for room, _ in brush.electronics.flash_labels().values()]
    lines = [QRectF(chart.time_scale.x(f.at_us / 1e6) - 2, 0, 4, 200) for f in sequence.flashes]
    painter.end()
    assert not labels[0].intersects(labels[1])
    assert not any(label.intersects(line) for label in labels for line in lines)
    assert all(label.left() >= 0 and label.right() <= chart.width() for label in labels)


def test_what_cannot_be_fired_is_marked_where_it_lies(bench):
    chart, composer = bench.window.bench.chart, bench.studio.composer
    right = chart.grab().toImage()
    # An opening beyond the valve's limit, a flash on an output that drives nothing, a shutter that is shut.
    wrong = replace(
        START,
        drops=(Pulse(0, 22_000), Pulse(95_000, 250_000)),
        flashes=(FlashPulse(356_000, 2),),
        camera=CameraTimes(400_000),
    )
    composer.use_sequence(wrong)
    assert chart._faults.drops == {1} and chart._faults.flashes == {0} and chart._faults.camera
    crossed = chart.grab().toImage()
    chart.show_faults(())
    assert chart.grab().toImage() != crossed
    composer.undo()
    assert chart._faults == Faults() and chart.grab().toImage() == right
