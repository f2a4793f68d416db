from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from ondine.core.light.anchor import BLACK, RatedFrame
from ondine.core.table.focus import STEPS
from ondine.core.units import Length
from ondine.demo.scenario import TIDAL_MILL
from ondine.logbook.file import claim
from ondine.logbook.snapshot import take_snapshot
from ondine.logbook.store import Logbook
from ondine.studio.studio import Studio
from ondine.ui.kit.bridge import Bridge
from ondine.ui.kit.foresight import Foresight
from ondine.ui.kit.shot_in_view import ShotInView
from ondine.ui.table.stages import STAGES
from ondine.ui.table.tools import TableTools
from tests.conftest import driven
from tests.ui.hands import PRESS, opened, typed


def test_f2_and_the_edge_lead_to_the_stages_and_back(bench, qtbot):
    window = bench.window
    qtbot.keyClick(window, Qt.Key.Key_F2)
    assert window.pages.currentWidget() is window.side.page and window.side.page.open_key == "rig"
    for stage in STAGES:
        QTest.mouseClick(window.side.edge.marks[stage.key], PRESS)
        assert window.side.page.open_key == stage.key and window.side.edge.marks[stage.key].isChecked()
    qtbot.keyClick(window, Qt.Key.Key_PageUp, Qt.KeyboardModifier.ControlModifier)
    assert window.side.page.open_key == "dials"
    qtbot.keyClick(window, Qt.Key.Key_Escape)
    assert window.pages.currentWidget() is window.bench and not any(
        m.isChecked() for m in window.side.edge.marks.values()
    )


def test_a_restart_brings_back_all_that_was_done_at_the_table(bench, qtbot):
    tools = bench.window.side.tools
    valve = opened(bench, "valve")
    typed(valve.rows.grams[0], "1.61")
    tools.editor.set_units(length=Length.CM)
    for step in range(len(STEPS)):
        tools.checks.tick_focus(step)
    tools.library.keep_mix("Mine", bench.studio.composer.setup.mix)
    tools.library.keep_flash(1)
    tools.light.rate_frame("subject", RatedFrame(tools.light.settings_of_trial(), BLACK))
    tools.light.set_clouding(1.5)
    tools.editor.edit("valves.0.nozzle_height_m", 0.42)
    bench.settle(qtbot)
    bench.window.close()
    claimed = claim(bench.path)
    again = Studio(
        lambda: Logbook(claimed), take_snapshot(claimed, 10), driven(bench.controller), bench.clock, lambda _: None,
        bench.studio.composer.plan, "Again",
    )  # fmt: skip
    kept = TableTools(again, ShotInView(), Foresight(again.preview, Bridge()))
    try:
        assert again.composer.setup.valves[0].nozzle_height_m == 0.42
        assert kept.valve.weighings[0].grams == 1.61 and kept.editor.units.length is Length.CM
        assert all(kept.checks.focus.done) and kept.checks.focus.moved(again.composer.setup) == (
            "Nozzle over the water",
        )
        assert kept.library.mixes == {"Mine": TIDAL_MILL.mix}
        assert kept.library.flashes["Unit B"] == TIDAL_MILL.light.units[1]
        assert kept.light.session.clouding_stops == 1.5 and kept.light.session.subject[0].rating == BLACK
    finally:
        again.close()
