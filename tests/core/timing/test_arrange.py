import pytest
from hypothesis import given
from hypothesis import strategies as st

from ondine.core.setup import Setup
from ondine.core.timing.arrange import ArrangeError, added, lengthened, moved, part_of, removed, with_camera
from ondine.core.timing.items import FIRST_FLASH, SHUTTER, Item, Kind, drop, flash, items_of, time_us
from ondine.core.timing.sequence import MAX_TIME_US, MIN_GAP_US, FlashPulse, Pulse, Sequence
from tests.core.timing.sequences import sequences

TABLE = Setup()
THREE = Sequence(
    (Pulse(0, 20_000), Pulse(95_000, 20_000), Pulse(150_000, 20_000)), (FlashPulse(350_000), FlashPulse(360_000, 1))
)


def chosen(data, sequence: Sequence) -> frozenset[Item]:
    return frozenset(data.draw(st.sets(st.sampled_from(items_of(sequence, TABLE)), min_size=1)))


@given(st.data(), sequences(), st.integers(-MAX_TIME_US, MAX_TIME_US))
def test_what_is_moved_together_keeps_its_distances_and_the_rest_stays(data, sequence, later_us):
    items = chosen(data, sequence)
    made = moved(sequence, items, later_us, TABLE)
    shifts = {time_us(made, item, TABLE) - time_us(sequence, item, TABLE) for item in items if item != SHUTTER}
    assert len(shifts) <= 1
    for item in set(items_of(sequence, TABLE)) - items - {SHUTTER}:
        assert time_us(made, item, TABLE) == time_us(sequence, item, TABLE)
    shift = next(iter(shifts), 0)
    # Never against the hand, and never further.
    assert 0 <= shift <= later_us or later_us <= shift <= 0
    assert all(0 <= time_us(made, item, TABLE) <= MAX_TIME_US for item in items)


@given(st.data(), st.integers(-400_000, 400_000))
def test_no_drop_is_moved_into_another_of_its_valve(data, later_us):
    made = moved(THREE, chosen(data, THREE), later_us, TABLE)
    for before, after in zip(made.drops, made.drops[1:], strict=False):
        assert after.start_us - before.end_us >= MIN_GAP_US


def test_a_drop_alone_is_held_by_its_neighbours_and_with_them_by_nothing():
    assert moved(THREE, frozenset({drop(1)}), 300_000, TABLE).drops[1].end_us == 149_000
    all_of_them = moved(THREE, frozenset({drop(0), drop(1), drop(2)}), 300_000, TABLE)
    assert [pulse.start_us for pulse in all_of_them.drops] == [300_000, 395_000, 450_000]


def test_a_shutter_that_keeps_the_tables_lead_goes_with_its_flash_but_once():
    together = moved(THREE, frozenset({SHUTTER, FIRST_FLASH, flash(1)}), 10_000, TABLE)
    assert together.camera.opens_us is None and together.first_flash_us == 360_000
    alone = moved(THREE, frozenset({SHUTTER}), 10_000, TABLE)
    assert alone.camera.opens_us == 110_000 and alone.flashes == THREE.flashes
    # One that has a time of its own is moved like the rest.
    again = moved(alone, frozenset({SHUTTER, FIRST_FLASH}), 5_000, TABLE)
    assert (again.camera.opens_us, again.first_flash_us) == (115_000, 355_000)


def test_openings_are_lengthened_together_each_as_far_as_it_can_be():
    made = lengthened(THREE, frozenset({drop(1), drop(2), FIRST_FLASH}), 60_000)
    assert [pulse.open_us for pulse in made.drops] == [20_000, 54_000, 80_000]


def test_what_is_taken_out_is_told_and_one_of_each_kind_stays():
    made, gone = removed(THREE, frozenset({drop(0), drop(2), flash(1)}))
    assert made.drops == (THREE.drops[1],) and made.flashes == (FlashPulse(350_000),) and len(gone) == 3
    made, gone = removed(THREE, frozenset({drop(0), drop(1), drop(2), FIRST_FLASH, flash(1)}))
    assert (made.drops, made.flashes) == (THREE.drops[:1], THREE.flashes[:1])
    assert gone == {drop(1), drop(2), flash(1)}
    asked = with_camera(THREE, Kind.MIRROR, 50_000)
    assert removed(asked, frozenset({Item(Kind.MIRROR)}))[0] == THREE


def test_a_part_is_put_in_where_it_is_wanted_with_its_own_distances():
    part = part_of(THREE, frozenset({drop(1), flash(1)}))
    assert part == Sequence((Pulse(0, 20_000),), (FlashPulse(265_000, 1),))
    made, new = added(THREE, part, 200_000)
    assert made.drops[3:] == (Pulse(200_000, 20_000),) and made.flashes[2:] == (FlashPulse(465_000, 1),)
    assert new == {drop(3), flash(2)}


@pytest.mark.parametrize(
    ("part", "at_us", "says"),
    [
        (Sequence(tuple(Pulse(30_000 * n, 9_000) for n in range(6)), ()), 0, "9 drops"),
        (Sequence((), tuple(FlashPulse(n) for n in range(3))), 0, "5 flashes"),
        (Sequence((Pulse(0, 20_000),), ()), MAX_TIME_US - 10_000, "five seconds"),
    ],
)
def test_what_would_be_too_much_is_said(part, at_us, says):
    with pytest.raises(ArrangeError, match=says):
        added(THREE, part, at_us)


def test_what_overlaps_already_is_let_out_and_never_pushed_against_the_hand():
    over = Sequence((Pulse(0, 20_000), Pulse(10_000, 20_000)), (FlashPulse(0),))
    assert moved(over, frozenset({drop(1)}), -3_000, TABLE) == over
    assert moved(over, frozenset({drop(1)}), 3_000, TABLE).drops[1].start_us == 13_000
