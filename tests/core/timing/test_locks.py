from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ondine.core.setup import Setup
from ondine.core.timing.arrange import moved, removed, with_camera
from ondine.core.timing.conventions import Landmarks
from ondine.core.timing.items import FIRST_FLASH, SHUTTER, Item, Kind, drop, flash, time_us
from ondine.core.timing.locks import Follows, Lock, holding, kept, locked, renewed, with_followers
from ondine.core.timing.sequence import FlashPulse, Pulse, Sequence

TABLE = Setup()
THREE = Sequence(
    (Pulse(0, 20_000), Pulse(95_000, 20_000), Pulse(150_000, 20_000)), (FlashPulse(350_000), FlashPulse(360_000, 1))
)


def predicts(drops: tuple[Pulse, ...]) -> Landmarks:
    """Invented: a touchdown long after the first drop, a meeting long after the second, if there is one."""
    meeting = drops[1].start_us + 250_000 if len(drops) > 1 else None
    return Landmarks(drops[0].start_us + 270_000, meeting)


def lock(item: Item, follows: Follows, sequence: Sequence = THREE, locks=()):
    made = locked(locks, sequence, item, follows, TABLE, predicts)
    assert made is not None
    return made


def edit(made: Sequence, locks, before: Sequence = THREE):
    return kept(made, before, locks, TABLE, predicts)


def test_a_gap_is_kept_where_the_drop_before_opens_longer_or_later():
    locks = lock(drop(1), Follows.CLOSING)
    assert locks == (Lock(drop(1), Follows.CLOSING, 75_000),)
    made, after = edit(THREE.with_open(0, 26_000), locks)
    assert made.drops[1].start_us == 101_000 and after == locks
    made, after = edit(THREE.with_start(0, 4_000), locks)
    assert made.drops[1].start_us == 99_000 and after == locks


def test_a_drop_moved_by_hand_keeps_its_new_gap_from_then_on():
    locks = lock(drop(1), Follows.CLOSING)
    made, locks = edit(THREE.with_start(1, 100_000), locks)
    assert made.drops[1].start_us == 100_000 and locks[0].offset_us == 80_000
    made, _ = edit(made.with_open(0, 21_000), locks, made)
    assert made.drops[1].start_us == 101_000


def test_locks_follow_one_another():
    locks = lock(drop(2), Follows.CLOSING, locks=lock(drop(1), Follows.CLOSING))
    made, after = edit(THREE.with_open(0, 30_000), locks)
    assert [pulse.start_us for pulse in made.drops] == [0, 105_000, 160_000] and after == locks
    # A hand that moves the first moves all three, however far.
    together = with_followers(frozenset({drop(0)}), locks)
    assert together == {drop(0), drop(1), drop(2)}
    made, after = edit(moved(THREE, together, 500_000, TABLE), locks)
    assert [pulse.start_us for pulse in made.drops] == [500_000, 595_000, 650_000] and after == locks


def test_a_flash_stays_after_the_meeting_and_the_shutter_before_the_flash():
    locks = lock(SHUTTER, Follows.FIRST_FLASH, locks=lock(FIRST_FLASH, Follows.MEETING))
    assert [one.offset_us for one in locks] == [5_000, -250_000]
    made, after = edit(THREE.with_start(1, 96_000), locks)
    assert made.first_flash_us == 351_000 and made.camera.opens_us == 101_000 and after == locks


def test_a_flash_whose_meeting_is_gone_waits_where_it_is():
    locks = lock(FIRST_FLASH, Follows.MEETING)
    one = replace(THREE, drops=THREE.drops[:1])
    made, after = kept(one, one, locks, TABLE, predicts)
    assert made == one and after == locks
    assert locked((), one, FIRST_FLASH, Follows.MEETING, TABLE, predicts) is None
    assert locked((), THREE, drop(0), Follows.CLOSING, TABLE, predicts) is None


def test_taking_drops_out_moves_nothing_and_numbers_the_locks_anew():
    locks = lock(drop(2), Follows.CLOSING, locks=lock(flash(1), Follows.TOUCHDOWN))
    made, gone = removed(THREE, frozenset({drop(1)}))
    after = renewed(locks, made, TABLE, predicts, gone)
    assert after == (Lock(drop(1), Follows.CLOSING, 130_000), Lock(flash(1), Follows.TOUCHDOWN, 90_000))
    assert kept(made, made, after, TABLE, predicts) == (made, after)
    assert renewed(locks, made, TABLE, predicts, frozenset({drop(2), flash(1)})) == ()


@given(st.lists(st.tuples(st.integers(0, 2), st.integers(-60_000, 60_000)), max_size=8))
def test_whatever_a_hand_does_every_lock_holds(steps):
    locks = lock(drop(1), Follows.CLOSING)
    locks = lock(flash(1), Follows.MEETING, locks=lock(SHUTTER, Follows.FIRST_FLASH, locks=locks))
    made = THREE
    for index, later_us in steps:
        before = made
        items = with_followers(frozenset({drop(index)}), locks)
        made, locks = kept(moved(before, items, later_us, TABLE), before, locks, TABLE, predicts)
    offsets = {one.item: one.offset_us for one in locks}
    assert made.drops[1].start_us - made.drops[0].end_us == offsets[drop(1)]
    landmarks = predicts(made.drops)
    assert landmarks.meeting_us is not None
    assert time_us(made, flash(1), TABLE) == landmarks.meeting_us + offsets[flash(1)]
    assert time_us(made, SHUTTER, TABLE) == made.first_flash_us + offsets[SHUTTER]


@pytest.mark.parametrize(
    "lock",
    [
        Lock(drop(3), Follows.CLOSING, 0),
        Lock(drop(-1), Follows.CLOSING, 0),
        Lock(flash(2), Follows.MEETING, 0),
        Lock(drop(1), Follows.MEETING, 0),
        Lock(Item(Kind.SHUTTER, 0), Follows.MEETING, 0),
    ],
)
def test_locks_that_a_file_has_and_the_sequence_cannot_are_dropped(lock):
    good = Lock(drop(1), Follows.CLOSING, 5)
    assert holding((lock, good), with_camera(THREE, Kind.MIRROR, 5)) == (good,)
