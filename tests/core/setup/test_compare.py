from dataclasses import replace

from ondine.core.setup.compare import differences
from ondine.core.table.edit import edited
from ondine.demo.scenario import TIDAL_MILL


def test_only_what_differs_is_compared():
    other = edited(edited(TIDAL_MILL, "valves.0.nozzle_height_m", 0.40), "light.units.1.power", 1 / 32)
    found = differences(TIDAL_MILL, other)
    assert [(d.path, d.one, d.other) for d in found] == [
        ("valves.0.nozzle_height_m", 0.365, 0.40),
        ("light.units.1.power", 1 / 64, 1 / 32),
    ]
    assert found[1].says == "Flash 2: power"
    assert differences(TIDAL_MILL, TIDAL_MILL) == []
    fewer = replace(TIDAL_MILL, light=replace(TIDAL_MILL.light, units=TIDAL_MILL.light.units[:1]))
    assert all(d.other is None for d in differences(TIDAL_MILL, fewer))
