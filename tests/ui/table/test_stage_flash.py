from PySide6.QtCore import QPointF
from PySide6.QtTest import QTest

from ondine.core.setup import FlashKind, Measure
from ondine.demo.scenario import TIDAL_MILL
from tests.ui.hands import PRESS, drag_handle, opened, typed


def test_a_unit_is_described_by_its_manual(bench):
    stage = opened(bench, "flash")
    before = stage.chart.accessibleDescription()
    power, speed = stage.manual.cells[5]
    typed(power, "32")
    typed(speed, "18000")
    assert len(bench.studio.composer.setup.light.key.durations) == 6
    typed(stage.manual.cells[3][1], "5000")
    assert "fall with the power" in bench.window.side.page.refusal.text()
    assert stage.manual.cells[3][1].value() != 5000
    stage.measure.edited.emit(Measure.TENTH)
    assert {p.measure for p in bench.studio.composer.setup.light.key.durations} == {Measure.TENTH}
    stage.measure.edited.emit(Measure.HALF)
    bench.window.side.tools.editor.edit("light.units.0.power", 1 / 16)
    assert stage.chart.accessibleDescription() != before
    stage.forms.currentWidget().fields["light.units.0.kind"].edited.emit(FlashKind.VOLTAGE)
    assert "studio flash" in stage.cautions.text()


def test_powers_outside_the_unit_and_a_dial_that_counts_speed(bench):
    from ondine.core.setup import DialKind

    stage = opened(bench, "flash")
    field = stage.forms.currentWidget().fields["light.units.0.power"]
    assert field.itemText(field.count() - 1) == "1/128"
    assert not bench.window.side.tools.editor.edit("light.units.0.power", 1 / 512)
    assert "goes down to 1/128" in bench.window.side.page.refusal.text()
    bench.window.side.tools.editor.edit("light.units.0.dial", DialKind.SPEED)
    assert field.currentText() == "1/27800 s"


def test_flashes_come_and_go(bench):
    stage = opened(bench, "rig")
    QTest.mouseClick(stage.flashes.add, PRESS)
    assert [f.name for f in bench.studio.composer.setup.light.units] == ["Unit A", "Unit B", "Unit C"]
    stage.flashes.which.setCurrentIndex(2)
    QTest.mouseClick(stage.flashes.remove, PRESS)
    assert len(bench.studio.composer.setup.light.units) == 2
    drag_handle(bench.window.side.page.drawing, "flash 1", QPointF(20, -10))
    assert stage.flashes.which.currentText() == "Unit B"


def test_a_unit_of_the_library_stands_where_the_one_before_stood(bench):
    stage = opened(bench, "flash")
    tools = bench.window.side.tools
    tools.library.keep_flash(1)
    stage.library.activated.emit(stage.library.findText("Unit B"))
    taken = bench.studio.composer.setup.light.key
    stood = TIDAL_MILL.light.key
    assert taken.guide_number_m == TIDAL_MILL.light.units[1].guide_number_m
    assert (taken.x_m, taken.height_m, taken.place) == (stood.x_m, stood.height_m, stood.place)
    bench.window.studio.composer.undo()
    assert bench.studio.composer.setup == TIDAL_MILL
