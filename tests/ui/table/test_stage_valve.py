from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from ondine.core.timing.sequence import Pulse, Sequence
from tests.ui.hands import PRESS, opened


def test_the_bowl_remembers_its_drops_until_it_is_changed(bench, qtbot):
    stage = opened(bench, "liquid")
    qtbot.keyClick(bench.window, Qt.Key.Key_F2)
    qtbot.keyClick(bench.window.bench.chart, Qt.Key.Key_Space)
    bench.settle(qtbot)
    opened(bench, "liquid")
    assert stage.glass._bowl[1].startswith("2 drops have gone in")
    QTest.mouseClick(stage.changed, PRESS)
    bench.settle(qtbot)
    assert stage.glass._bowl[1].startswith("0 drops have gone in")


def test_a_limit_that_what_is_in_hand_breaks_is_said_at_once_and_again_before_firing(bench, qtbot):
    long = Sequence.with_one_flash((Pulse(0, 150_000), Pulse(300_000, 20_000)), 600_000)
    bench.studio.composer.use_sequence(long)
    stage = opened(bench, "valve")
    assert bench.window.side.tools.editor.edit("valves.0.max_open_us", 30_000)
    refusal = bench.window.side.page.refusal
    assert "over the valve's limit of 30 ms" in refusal.text()
    # Black on black it said nothing once.
    image = refusal.grab().toImage()
    shades = {image.pixelColor(x, y).lightness() for x in range(image.width()) for y in range(image.height())}
    assert max(shades) - min(shades) > 100
    assert stage is not None
    qtbot.keyClick(bench.window, Qt.Key.Key_F2)
    assert "over the valve's limit" in bench.window.bench.facts.text()
    QTest.mouseClick(bench.window.bench.fire, PRESS)
    assert bench.controller.fired == [] and "over the valve's limit" in bench.window.messages.text()
    # The hand can only make it shorter, down to the limit.
    bench.window.bench_actions._compose(lambda s: s.with_open(0, 140_000), "open 0")
    assert bench.studio.composer.sequence.drops[0].open_us == 30_000
    QTest.mouseClick(bench.window.bench.fire, PRESS)
    bench.settle(qtbot)
    assert len(bench.controller.fired) == 1
