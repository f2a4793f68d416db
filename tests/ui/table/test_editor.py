import json

import pytest

from ondine.core.units import Length, Temperature
from tests.ui.hands import opened, typed


def test_what_cannot_be_is_said_where_it_happens_and_the_last_good_value_stays(bench):
    stage = opened(bench, "rig")
    page, before = bench.window.side.page, bench.studio.composer.setup
    typed(stage.valves.form.fields["valves.0.nozzle_height_m"], "5")
    assert "Nozzle over the water: 5 mm cannot be" in page.refusal.text() and page.refusal.isVisible()
    assert bench.studio.composer.setup == before
    assert stage.valves.form.fields["valves.0.nozzle_height_m"].value() == 365
    typed(stage.form.fields["bowl.landing_m"], "400")
    assert "fall beside the bowl" in page.refusal.text()
    typed(stage.valves.form.fields["valves.0.nozzle_height_m"], "400")
    assert not page.refusal.isVisible() and bench.studio.composer.setup.valves[0].nozzle_height_m == 0.4
    liquid = opened(bench, "liquid")
    typed(liquid.forms.currentWidget().fields["mix.glycerine_mass_fraction"], "120")
    assert "Glycerine: 120.0 % cannot be" in page.refusal.text()
    assert bench.studio.composer.setup.mix.glycerine_mass_fraction == 0.15


def test_units_change_what_is_shown_and_nothing_else(bench, qtbot):
    stage = opened(bench, "rig")
    before = bench.studio.composer.setup
    for length in [*Length, *Length, Length.INCH]:
        bench.window.side.tools.editor.set_units(length=length)
    bench.window.side.tools.editor.set_units(temperature=Temperature.FAHRENHEIT)
    qtbot.wait(10)
    assert bench.studio.composer.setup == before
    assert stage.valves.form.fields["valves.0.nozzle_height_m"].text() == "14.37 in"
    assert "14.37 in" in bench.window.header.table.text() and "66 °F" in bench.window.header.table.text()
    typed(stage.valves.form.fields["valves.0.nozzle_height_m"], "15")
    assert bench.studio.composer.setup.valves[0].nozzle_height_m == pytest.approx(0.381)
    bench.settle(qtbot)
    assert json.loads(bench.studio.writer.logbook.state.get("units")) == {"length": "in", "temperature": "°F"}
