"""From what cannot be fired to the nearest that can, and what was changed is said."""

from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ondine.core.setup.fields import put
from ondine.core.table.firing import least_gap_us, problems
from ondine.core.table.mending import mended
from ondine.core.timing.limits import Outputs
from ondine.core.timing.sequence import MAX_TIME_US, CameraTimes, FlashPulse, Pulse, Sequence
from ondine.demo.scenario import MILL_RACE, RACE, START, TIDAL_MILL

TIMES = st.integers(-10_000, MAX_TIME_US + 10_000)


@pytest.mark.parametrize("plan", [(START, TIDAL_MILL), (RACE, MILL_RACE)])
def test_what_can_be_fired_stays_as_it_is(plan):
    sequence, setup = plan
    found = mended(sequence, setup)
    assert found is not None and found.sequence == sequence and found.changes == ()


@pytest.mark.parametrize(
    ("sequence", "says", "drops"),
    [
        (replace(START, drops=(Pulse(0, 300_000), Pulse(400_000, 9_000))), "drop 1 open 200 ms", [0, 400_000]),
        (replace(START, drops=(Pulse(0, 30_000), Pulse(20_000, 9_000))), "drop 2 at", [0, None]),
        (replace(START, drops=(Pulse(0, 22_000), Pulse(24_000, 22_000))), "drop 2 at", [0, None]),
        (replace(START, drops=(*START.drops, Pulse(200_000, 9_000, 3))), "drop 3 from valve 1", [0, 95_000, 200_000]),
        (replace(START, flashes=(FlashPulse(356_000, 3),)), "the flash on output 1", [0, 95_000]),
        (START.with_flash_added(360_000, 0), "flash 2 taken out, its unit needs 188 ms", [0, 95_000]),
        (replace(START, camera=CameraTimes(360_000)), "shutter and mirror as the table says", [0, 95_000]),
        (replace(START, flashes=(FlashPulse(-5),) * 5), "1 of the flashes taken out", [None, None]),
    ],
)
def test_each_fault_is_mended_where_it_lies_and_said(sequence, says, drops):
    assert problems(sequence, TIDAL_MILL)
    found = mended(sequence, TIDAL_MILL)
    assert found is not None and problems(found.sequence, TIDAL_MILL) == ()
    assert any(says in change for change in found.changes)
    starts = [pulse.start_us for pulse in found.sequence.drops]
    assert all(wanted in (None, start) for wanted, start in zip(drops, starts, strict=True))


def test_a_light_that_would_be_late_moves_everything_alike():
    slow = put(put(TIDAL_MILL, "triggers.radio_lag_s", 0.4), "camera.exposure_s", 1.0)
    found = mended(START, slow)
    assert found is not None and found.changes == ("everything 44 ms later",)
    assert found.sequence.intervals_us == START.intervals_us
    assert found.sequence.first_flash_us - found.sequence.first_opening_us == START.first_flash_us


def test_what_only_the_table_can_mend_is_left_to_it():
    assert mended(START, put(TIDAL_MILL, "camera.exposure_s", 0.01)) is None
    assert mended(START, put(TIDAL_MILL, "valves.0.nozzle_height_m", 9.0)) is None


@settings(max_examples=150, deadline=None)
@given(
    st.lists(st.builds(Pulse, TIMES, TIMES, st.integers(0, 5)), min_size=1, max_size=9),
    st.lists(st.builds(FlashPulse, TIMES, st.integers(0, 4)), min_size=1, max_size=5),
)
def test_whatever_is_mended_can_be_fired(drops, flashes):
    sequence = Sequence(tuple(drops), tuple(flashes))
    outputs = Outputs(2, 2)
    found = mended(sequence, MILL_RACE, outputs)
    if found is not None:
        assert problems(found.sequence, MILL_RACE, outputs=outputs) == ()
        assert bool(found.changes) == (found.sequence != sequence)
        again = mended(found.sequence, MILL_RACE, outputs)
        assert again is not None and again.changes == ()


def test_drops_nearer_than_a_fifth_of_the_capillary_time_surely_merge():
    # Worked: 50 µL is 4.57 mm; √(1035·(4.57e-3)³/0.0715) is 37 ms, a fifth of it 7.4.
    least = least_gap_us(Pulse(0, 22_000), TIDAL_MILL)
    assert 7_000 < least < 8_000
    for gap_us, merges in ((least - 100, True), (least, False)):
        pair = replace(START, drops=(Pulse(0, 22_000), Pulse(22_000 + gap_us, 22_000)))
        assert any("surely runs into drop 1" in problem.says for problem in problems(pair, TIDAL_MILL)) == merges
