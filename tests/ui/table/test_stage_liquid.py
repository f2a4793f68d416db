import pytest
from PySide6.QtTest import QTest

from ondine.core.setup import Mix
from ondine.demo.scenario import TIDAL_MILL
from tests.calibrated import RACE_IN_HAND
from tests.ui.hands import PRESS, opened, typed


def test_mixing_for_a_viscosity_and_measuring_one(bench):
    stage = opened(bench, "liquid")
    typed(stage.target, "3")
    QTest.mouseClick(stage.mix_for, PRESS)
    assert bench.studio.composer.setup.mix.liquid().viscosity_pa_s == pytest.approx(3e-3, rel=1e-6)
    typed(stage.target, "0.2")
    QTest.mouseClick(stage.mix_for, PRESS)
    assert "glycerine and water reach" in bench.window.side.page.refusal.text()
    measured = stage.measured["measured_viscosity_pa_s"]
    typed(measured.field, "4.2")
    assert bench.studio.composer.setup.mix.measured_viscosity_pa_s == pytest.approx(4.2e-3)
    QTest.mouseClick(measured.back, PRESS)
    assert bench.studio.composer.setup.mix.measured_viscosity_pa_s is None
    stage.name.setText("Mine")
    QTest.mouseClick(stage.keep, PRESS)
    kept = bench.studio.composer.setup.mix
    stage.library.activated.emit(stage.library.findText("Whole milk"))
    assert bench.studio.composer.setup.mix.milk_mass_fraction == 1.0
    stage.library.activated.emit(stage.library.findText("Mine"))
    assert bench.studio.composer.setup.mix == kept


def test_a_mix_with_no_path_back_is_not_needed_undo_brings_it(bench):
    opened(bench, "liquid")
    bench.window.side.tools.library.use_mix(Mix(milk_mass_fraction=0.5))
    bench.window.studio.composer.undo()
    assert bench.studio.composer.setup == TIDAL_MILL


def test_batches_that_cannot_be_mixed_are_refused(bench):
    stage = opened(bench, "liquid")
    typed(stage.batch, "0")
    assert "batch of nothing" in bench.window.side.page.refusal.text()
    typed(stage.batch, "250")
    assert stage.glass._grams["water"] == pytest.approx(250 * 0.84)
    typed(stage.forms.currentWidget().fields["mix.milk_mass_fraction"], "90")
    assert "make 106 %" in bench.window.side.page.refusal.text()
    assert bench.studio.composer.setup.mix.milk_mass_fraction == 0


def test_a_valve_holds_a_liquid_of_its_own_until_it_is_given_back(bench):
    stage, composer = opened(bench, "liquid"), bench.studio.composer
    assert not stage.which.isVisible()
    composer.use_plan(RACE_IN_HAND)
    QTest.qWait(20)
    stage.which.setCurrentIndex(2)
    stage.which.activated.emit(2)
    QTest.qWait(20)
    # While it shares the liquid of all, its fields only show it.
    assert stage.which.currentText() == "Valve B: as all valves" and not (
        stage.forms.isEnabled() or stage.library.isEnabled()
    )
    QTest.mouseClick(stage.own, PRESS)
    assert stage.which.currentText() == "Valve B: its own" and composer.setup.valves[1].liquid == composer.setup.mix
    before = composer.foresee(None)
    typed(stage.forms.currentWidget().fields["valves.1.liquid.glycerine_mass_fraction"], "40")
    typed(stage.measured["measured_density_kg_m3"].field, "1090")
    setup = composer.setup
    assert setup.valves[1].liquid.glycerine_mass_fraction == 0.4 and setup.mix == RACE_IN_HAND.setup.mix
    assert setup.mix_of(1).liquid().density_kg_m3 == 1090 and setup.mix_of(0) == setup.mix
    # The second valve's drops fall otherwise, the first one's as before.
    after = composer.foresee(None)
    landed = [
        [course.forecast.falls.touchdown_s[drop, 0] for drop in range(4)] for course in (before.course, after.course)
    ]
    assert landed[0][0::2] == landed[1][0::2] and landed[0][1] != landed[1][1]
    stage.library.activated.emit(stage.library.findText("Whole milk"))
    assert composer.setup.valves[1].liquid.milk_mass_fraction == 1.0 and composer.setup.mix == RACE_IN_HAND.setup.mix
    QTest.mouseClick(stage.own, PRESS)
    assert composer.setup.valves[1].liquid is None
    bench.window.studio.composer.undo()
    assert composer.setup.valves[1].liquid.milk_mass_fraction == 1.0
    # A valve that goes takes its liquid along.
    bench.window.side.tools.editor.remove_valve(1)
    QTest.qWait(20)
    assert not stage.which.isVisible() and stage._stem() == "mix"
