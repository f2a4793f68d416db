import math
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ondine.core.light.recycle import burst_frames, burst_words, frames_until_hot, recycle_s
from ondine.core.setup import Flash


@given(st.sampled_from([1, 1 / 4, 1 / 16, 1 / 64]), st.floats(0.02, 2.0))
def test_bursts_are_those_of_a_charge_counted_frame_by_frame(power, interval):
    flash = Flash(power=power, recycle_full_s=3.0)
    frames = burst_frames(flash, interval)
    charge, counted = 1.0, 0
    while counted < 3000 and charge >= power - 1e-9:
        charge = min(charge - power + interval / 3.0, 1.0)
        counted += 1
    if counted == 3000:
        assert math.isinf(frames) or frames >= 3000
    else:
        assert frames == pytest.approx(counted, abs=1)
    assert recycle_s(flash) == pytest.approx(3.0 * power)
    assert recycle_s(replace(flash, battery=0.5)) == pytest.approx(6.0 * power)


def test_heat_is_said():
    hot = Flash(power=1.0, recycle_full_s=1.0)
    assert frames_until_hot(hot, 1.0) < 30 and "hot" in burst_words(hot, 1.0)
    assert math.isinf(frames_until_hot(Flash(power=1 / 64), 2.0))
