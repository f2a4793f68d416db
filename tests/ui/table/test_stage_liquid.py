import pytest
from PySide6.QtTest import QTest

from ondine.core.setup import Mix
from ondine.demo.scenario import TIDAL_MILL
from tests.ui.hands import PRESS, opened, typed


def test_mixing_for_a_viscosity_and_measuring_one(bench):
    stage = opened(bench, "liquid")
    typed(stage.target, "3")
    QTest.mouseClick(stage.mix_for, PRESS)
    assert bench.studio.composer.setup.mix.liquid().viscosity_pa_s == pytest.approx(3e-3, rel=1e-6)
    typed(stage.target, "0.2")
    QTest.mouseClick(stage.mix_for, PRESS)
    assert "glycerine and water reach" in bench.window.side.page.refusal.text()
    measured = stage.measured["mix.measured_viscosity_pa_s"]
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
    typed(stage.form.fields["mix.milk_mass_fraction"], "90")
    assert "make 106 %" in bench.window.side.page.refusal.text()
    assert bench.studio.composer.setup.mix.milk_mass_fraction == 0
