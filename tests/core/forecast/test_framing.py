from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ondine.core.belief.priors import Belief
from ondine.core.forecast.framing import crop, framing_note
from ondine.core.forecast.instant import at_instant
from ondine.core.forecast.outline import outline
from ondine.core.forecast.whole import forecast
from ondine.core.light.depth import camera_depth_m
from ondine.core.setup import Camera, Setup
from ondine.core.setup.fields import put
from ondine.core.timing.sequence import Pulse, Sequence
from ondine.demo.scenario import START, TIDAL_MILL
from tests.calibrated import TAUGHT

ONE = Sequence.with_one_flash((Pulse(0, 22_000),), 300_000)


def test_each_remedy_of_the_frame_helps():
    """The sentence names a remedy; doing it makes the jet fit, or brings it nearer."""
    tight = replace(TIDAL_MILL, camera=replace(TIDAL_MILL.camera, magnification=0.44, water_line_share=0.30))
    what = forecast(tight, TAUGHT, ONE)
    said = framing_note(what, outline(what, at_instant(what, 300_000)))
    assert "aim the camera higher" in said
    aimed = put(tight, "camera.water_line_share", 0.10)
    what = forecast(aimed, TAUGHT, ONE)
    assert framing_note(what, outline(what, at_instant(what, 300_000))) == ""
    tall = put(put(TIDAL_MILL, "camera.magnification", 0.50), "camera.water_line_share", 0.09)
    what = forecast(tall, TAUGHT, ONE)
    note = framing_note(what, outline(what, at_instant(what, 300_000)))
    if "portrait" in note:
        what = forecast(put(tall, "camera.portrait", True), TAUGHT, ONE)
        assert framing_note(what, outline(what, at_instant(what, 300_000))) == ""


@given(st.floats(1.0, 4.0), st.floats(0.1, 1.0))
def test_cropping_trades_pixels_for_depth_everywhere(wider, m):
    camera = Camera(magnification=m)
    filled, cropped = crop(camera, 1.0), crop(camera, wider)
    assert cropped.depth_m >= filled.depth_m * 0.999
    assert cropped.across_px <= filled.across_px and cropped.print_ppi <= filled.print_ppi + 1e-9
    assert cropped.room_m >= -1e-12


def test_shooting_wider_buys_depth_and_costs_pixels():
    filled, wide = crop(Camera(), 1.0), crop(Camera(), 2.0)
    assert filled.depth_m == pytest.approx(camera_depth_m(Camera()))
    assert wide.across_px == 3000 and wide.print_ppi == pytest.approx(filled.print_ppi / 2)
    assert wide.depth_m > 1.5 * filled.depth_m
    assert wide.room_m == pytest.approx(Camera().frame_top_m)


def test_a_jet_over_the_frame_is_said():
    high = Setup(camera=Camera(magnification=0.8))
    what = forecast(high, Belief(), Sequence.with_one_flash((Pulse(0, 20_000),), 380_000))
    assert "leaves the frame by about" in framing_note(what, outline(what, at_instant(what, 380_000)))
    wide = Setup(camera=Camera(magnification=0.1))
    what = forecast(wide, Belief(), Sequence.with_one_flash((Pulse(0, 20_000),), 380_000))
    assert framing_note(what, outline(what, at_instant(what, 380_000))) == ""


def test_a_sheet_a_little_wider_than_the_frame_is_said_with_how_much():
    what = forecast(TIDAL_MILL, TAUGHT, START)
    shape = outline(what, at_instant(what, START.first_flash_us))
    rim = float(shape.sheets[0].profile[:, 0].max())
    for spare_m, says in ((-1e-3, "Frame 2 mm too narrow: widen it."), (1e-3, "")):
        wide = TIDAL_MILL.camera.frame_width_m / (2 * (rim + spare_m))
        closer = put(TIDAL_MILL, "camera.magnification", TIDAL_MILL.camera.magnification * wide)
        note = framing_note(forecast(closer, TAUGHT, START), shape)
        assert note == says or (not says and "sheet" not in note)
