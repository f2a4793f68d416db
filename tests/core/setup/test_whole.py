import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ondine.core.belief.priors import Belief
from ondine.core.forecast.framing import framing_note
from ondine.core.forecast.instant import at_instant
from ondine.core.forecast.outline import outline
from ondine.core.forecast.whole import forecast
from ondine.core.light.blur import blur_px
from ondine.core.light.flash import DEFAULT_CURVES
from ondine.core.setup import Camera, FlashKind, Rig, Setup
from ondine.core.setup.wire import setup_from_json
from ondine.core.timing.sequence import Pulse, Sequence


@pytest.mark.parametrize(("power", "per_second"), [(1, 1_000), (1 / 16, 11_000), (1 / 128, 41_600)])
def test_flash_durations_of_practice(power, per_second):
    # Common practice, no published source: one unit's manual.
    assert DEFAULT_CURVES[FlashKind.CUT_OFF].duration_s(power) == pytest.approx(1 / per_second, rel=0.10)


def test_less_power_is_shorter():
    durations = DEFAULT_CURVES[FlashKind.CUT_OFF].duration_s(np.array([1 / 256, 1 / 64, 1 / 16, 1 / 4, 1.0]))
    assert np.all(np.diff(durations) > 0)


@pytest.mark.parametrize(("per_second", "pixels"), [(1_000, 181), (4_000, 45), (11_000, 16), (41_600, 4.4)])
def test_blur_worked_values(per_second, pixels):
    # Worked by hand: 2.9 m/s at 1:4 on pixels of 4 µm.
    assert blur_px(2.9, 1 / per_second, 4e-6 / 0.25) == pytest.approx(pixels, rel=0.03)


def test_a_setup_is_addressed_by_its_content():
    assert Setup().revision == Setup().revision
    assert Setup().revision != Setup(rig=Rig(nozzle_height_m=0.366)).revision


@given(st.floats(0.02, 3, allow_nan=False), st.text(max_size=20))
def test_a_setup_survives_its_json(height, name):
    setup = Setup(name=name, rig=Rig(nozzle_height_m=height))
    assert setup_from_json(setup.to_json()) == setup


def test_frame_of_an_aps_c_body_at_one_to_four():
    camera = Camera()
    assert camera.frame_width_m == pytest.approx(0.094)
    assert camera.pixel_on_subject_m == pytest.approx(0.094 / 6000)


def test_a_jet_over_the_frame_is_said():
    high = Setup(camera=Camera(magnification=0.8))
    what = forecast(high, Belief(), Sequence((Pulse(0, 20_000),), 380_000))
    assert "leaves the frame by about" in framing_note(what, outline(what, at_instant(what, 380_000)))
    wide = Setup(camera=Camera(magnification=0.1))
    what = forecast(wide, Belief(), Sequence((Pulse(0, 20_000),), 380_000))
    assert framing_note(what, outline(what, at_instant(what, 380_000))) == ""
