from PySide6.QtTest import QTest

from ondine.demo.scenario import TIDAL_MILL
from tests.ui.hands import PRESS, opened, typed


def test_white_balance_tints_and_a_sheet(bench, qtbot, tmp_path):
    stage = opened(bench, "colour")
    typed(stage.form.fields["light.white_balance_k"], "3500")
    assert "−104" in stage.says.text().replace("-", "−") and "blue" in stage.says.text()
    bench.window.side.tools.editor.edit("light.background_tint", TIDAL_MILL.bowl.tint)
    assert "bowl and background" in stage.says.text()
    QTest.mouseClick(stage.turned, PRESS)
    assert not stage.sheet.upside_down
    out = tmp_path / "sheet.pdf"
    from ondine.core.light.colour import sheet_size_m

    bench.studio.light_table.write(stage.sheet, sheet_size_m(bench.studio.composer.setup), out)
    bench.studio.light_table.wait()
    qtbot.wait(20)
    assert out.read_bytes().startswith(b"%PDF") and "true size" in bench.window.messages.text()


def test_each_units_colour_is_set_and_told(bench):
    stage = opened(bench, "colour")
    stage.which.setCurrentIndex(1)
    stage.which.activated.emit(1)
    QTest.qWait(20)
    before = stage.palette._palette
    typed(stage.lamps.currentWidget().fields["light.units.1.gel_mired"], "150")
    assert bench.studio.composer.setup.light.units[1].gel_mired == 150
    assert "Unit B: +150 mired, warm, strongly." in stage.says.text() and "Unit A: 0 mired" in stage.says.text()
    assert stage.palette._palette.drop != before.drop
