from PySide6.QtTest import QTest

from ondine.demo.scenario import TIDAL_MILL
from tests.ui.hands import PRESS, opened, typed


def test_set_ups_are_kept_compared_and_restored(bench, qtbot):
    stage = opened(bench, "keep")
    QTest.mouseClick(stage.keep, PRESS)
    bench.settle(qtbot)
    assert stage.kept.list.item(0).text() == "Tidal Mill" and bench.window.side.edge.marks["keep"].share == 1.0
    bench.window.side.tools.editor.edit("valves.0.nozzle_height_m", 0.22)
    stage.kept.list.setCurrentRow(0)
    table = stage.kept.table
    assert table.rowCount() == 1
    assert [table.item(0, c).text() for c in range(3)] == ["Nozzle over the water", "220 mm", "365 mm"]
    QTest.mouseClick(stage.kept.take, PRESS)
    assert bench.studio.composer.setup == TIDAL_MILL
    bench.window.side.tools.editor.edit("mix.temperature_c", 25.0)
    QTest.mouseClick(stage.kept.of_shot, PRESS)
    bench.settle(qtbot)
    assert "shot 2" in stage.kept.title.text() and table.rowCount() == 1
    QTest.mouseClick(stage.kept.take, PRESS)
    assert bench.studio.composer.setup.mix.temperature_c == 19.0
    typed(stage.words["place"], "Mill loft")
    assert bench.studio.sitting.facts.place == "Mill loft"


def test_a_file_that_is_no_set_up_is_refused_with_its_path(bench, qtbot, tmp_path):
    opened(bench, "keep")
    bad = tmp_path / "bad.json"
    bad.write_text('{"format": "ondine-setup", "version": 1, "setup": {"rig": {"nozzle_height_m": 99}}}')
    exchange = bench.studio.exchange
    exchange.read(bad)
    exchange.wait()
    bench.settle(qtbot)
    assert "setup.valves.0.nozzle_height_m" in bench.window.messages.text()
    assert bench.studio.composer.setup == TIDAL_MILL
    good = tmp_path / "good.json"
    bench.window.side.tools.library.write_file(good)
    bench.window.side.tools.editor.edit("valves.0.nozzle_height_m", 0.3)
    exchange.read(good)
    exchange.wait()
    bench.settle(qtbot)
    assert bench.studio.composer.setup == TIDAL_MILL


def test_sittings_begin_anew_and_rooms_have_a_temperature(bench, qtbot):
    stage = opened(bench, "keep")
    typed(stage.temperature, "80")
    assert "A room is between" in bench.window.side.page.refusal.text()
    typed(stage.temperature, "17")
    assert bench.studio.sitting.facts.temperature_c == 17
    QTest.mouseClick(stage.new, PRESS)
    assert not bench.studio.sitting.preflight_done
    bench.settle(qtbot)
    assert "Before" in stage.sittings.item(0).text()
