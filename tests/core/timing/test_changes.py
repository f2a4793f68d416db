from dataclasses import replace

import pytest

from ondine.core.timing.arrange import removed
from ondine.core.timing.changes import change_words
from ondine.core.timing.items import drop, flash
from ondine.core.timing.sequence import CameraTimes, FlashPulse, Pulse, Sequence

PAIR = Sequence((Pulse(0, 22_000), Pulse(95_000, 20_000)), (FlashPulse(350_000), FlashPulse(360_000, 1)))


@pytest.mark.parametrize(
    ("after", "words"),
    [
        (PAIR.with_start(1, 99_000), "move drop 2"),
        (PAIR.with_flash(1, 361_000), "move flash 2"),
        (PAIR.with_start(1, 99_000).with_flash(0, 1), "move drop 2 and flash 1"),
        (PAIR.with_start(0, 5).with_start(1, 99_000).with_flash(0, 1), "move drops 1, 2 and flash 1"),
        (PAIR.with_open(0, 23_000), "open drop 1 longer"),
        (PAIR.with_open(1, 9_000), "open drop 2 shorter"),
        (PAIR.with_drop_added(), "add drop 3"),
        (removed(PAIR, frozenset({drop(0)}))[0], "remove drop 1"),
        (removed(PAIR, frozenset({flash(0)}))[0], "remove flash 1"),
        (PAIR.with_flash_added(370_000, 2), "add flash 3"),
        (PAIR.with_pulse(1, Pulse(95_000, 20_000, 1)), "drop 2 from another valve"),
        (replace(PAIR, camera=CameraTimes(opens_us=100_000)), "move the shutter"),
        (replace(PAIR, flashes=(FlashPulse(350_000), FlashPulse(360_000, 2))), "put a flash on another output"),
        (Sequence.with_one_flash((Pulse(3, 4_000),), 9), "other timings"),
        (PAIR, "change nothing"),
    ],
)
def test_each_change_of_the_hand_has_a_name(after, words):
    assert change_words(PAIR, after) == words
