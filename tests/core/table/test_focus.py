from ondine.core.table.edit import edited
from ondine.core.table.focus import STEPS, Focus
from ondine.demo.scenario import TIDAL_MILL


def test_focus_is_void_when_something_has_moved():
    focus = Focus()
    for step in range(len(STEPS)):
        focus = focus.ticked(step, TIDAL_MILL)
    assert all(focus.done) and focus.moved(TIDAL_MILL) == ()
    higher = edited(TIDAL_MILL, "valves.0.nozzle_height_m", 0.40)
    assert focus.moved(higher) == ("Nozzle over the water",)
    assert not any(focus.voided(higher).done)
    other_lens = edited(TIDAL_MILL, "camera.focal_length_m", 0.105)
    assert "Focal length" in focus.moved(other_lens)
    assert focus.voided(edited(TIDAL_MILL, "mix.temperature_c", 25.0)) == focus
    assert Focus.from_json(focus.to_json()) == focus
