from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ondine.core.setup import Box, Counts, FlashFrom
from ondine.core.timing.dials import DialError, changed, dialled, dials, off_by_us
from ondine.core.timing.sequence import Pulse, Sequence

PAIR = Sequence.with_one_flash((Pulse(0, 22_000), Pulse(95_000, 26_000)), 356_000)
BOXES = [Box(counts=counts, flash_from=flash) for counts in Counts for flash in FlashFrom]


def values(sequence: Sequence, box: Box) -> dict[str, int]:
    return {d.name: d.set_us for d in dials(sequence, box)}


@pytest.mark.parametrize(
    ("counts", "wait"),
    [(Counts.ABSOLUTE, 95_000), (Counts.START_TO_START, 95_000), (Counts.CLOSING_TO_OPENING, 73_000)],
)
def test_the_wait_in_each_convention(counts, wait):
    # Worked by hand: opening at 95 ms, the drop before closed at 22 ms.
    assert values(PAIR, Box(counts=counts))["Wait 2"] == wait


@pytest.mark.parametrize(
    ("flash_from", "delay"),
    [
        (FlashFrom.TRIGGER, 356_000),
        (FlashFrom.FIRST_OPENING, 346_000),
        (FlashFrom.LAST_OPENING, 251_000),
        (FlashFrom.LAST_CLOSING, 225_000),
    ],
)
def test_the_flash_in_each_convention(flash_from, delay):
    # Worked by hand, first opening at 10 ms, last from 105 to 131 ms.
    late = Sequence.with_one_flash((Pulse(10_000, 22_000), Pulse(105_000, 26_000)), 356_000)
    box = Box(counts=Counts.ABSOLUTE, flash_from=flash_from)
    assert values(late, box)["Flash"] == delay


@given(
    st.sampled_from(BOXES),
    st.integers(1, 40).map(lambda n: n * 1000),
    st.integers(40, 200).map(lambda n: n * 1000),
    st.integers(0, 50).map(lambda n: n * 1000),
)
def test_what_the_box_can_set_exactly_comes_back(box, opens, interval, start):
    sequence = Sequence.with_one_flash(
        (Pulse(start, opens), Pulse(start + opens + interval, opens)), start + 2 * (opens + interval) + 100_000
    )
    real = dialled(sequence, box)
    shift = sequence.drops[0].start_us - real.drops[0].start_us
    assert [p.start_us + shift for p in real.drops] == [p.start_us for p in sequence.drops]
    assert real.first_flash_us + shift == sequence.first_flash_us
    assert off_by_us(sequence, box) == 0


@given(st.sampled_from(BOXES), st.integers(1, 5_000), st.integers(10_000, 40_000), st.integers(41_000, 150_000))
def test_rounding_never_adds_up(box, step, opens, interval):
    box = replace(box, step_us=step)
    drops = tuple(Pulse(k * (opens + interval), opens) for k in range(3))
    sequence = Sequence.with_one_flash(drops, drops[-1].end_us + 120_000)
    # Half a step for the dial itself, and half for the end of an opening that a wait is counted from.
    assert off_by_us(sequence, box) <= step


def test_what_a_box_cannot_express_is_said():
    with pytest.raises(DialError, match="knows one drop, the sequence has 2"):
        dials(PAIR, Box(max_drops=1))
    with pytest.raises(DialError, match="counts from 0 ms to 200 ms"):
        dials(PAIR, Box(most_us=200_000))
    early = PAIR.with_flash(0, 100_000)
    with pytest.raises(DialError, match="Start it later, or count another way"):
        dials(early, Box(flash_from=FlashFrom.LAST_CLOSING))
    with pytest.raises(DialError, match="Rounded to steps of 60 ms"):
        dialled(Sequence.with_one_flash((Pulse(0, 22_000),), 100_000), Box(step_us=60_000))


def test_what_to_turn_since_the_last_shot():
    before = dials(PAIR, Box())
    now = dials(PAIR.with_flash(0, 360_000), Box())
    assert changed(now, before) == (False, False, False, True)
    assert changed(now, None) == (False,) * 4
