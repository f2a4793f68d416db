"""A short form of the faults that `./dev bench faults` makes on purpose by the thousand."""

import pytest
from benchmarks.faults import Tally, clocks, copies, corruption, disk, kills, mutations, pictures


def no_fault(tally: Tally, tried: int) -> None:
    assert tally.tried == tried
    assert tally.faults == [], str(tally)


def test_kill_9_loses_nothing_that_was_acknowledged():
    tally = kills.run(5, 11)
    no_fault(tally, 5)
    assert any("acknowledged" in kind for kind in tally.notes)


def test_kill_9_while_copies_are_made_loses_nothing_and_leaves_nothing():
    tally = kills.run(4, 21, kills.COPIES)
    no_fault(tally, 4)


def test_copies_stand_whatever_the_clock():
    no_fault(copies.run(22, days=40), 80)


def test_a_corrupted_logbook_is_a_window_or_a_sentence(qtbot):
    tally = corruption.run(8, 12)
    no_fault(tally, 8)
    assert tally.notes["windows"] and tally.notes["sentences"]


def test_texts_with_anything_in_them_are_taken_or_refused():
    tally = mutations.run(1500, 13)
    no_fault(tally, 1500)
    assert tally.notes["taken"] > 100 and tally.notes["refused or set aside"] > 500


def test_after_each_odd_picture_a_good_one_arrives():
    no_fault(pictures.run(12, 14), 12)


@pytest.mark.parametrize("what", ["fire", "export", "migrate", "rescue"])
def test_a_full_disk_loses_nothing(what):
    tally = disk.run(15, (4096, 100_000), (what,))
    no_fault(tally, 2)
    assert tally.notes["told"]


def test_clocks_may_jump():
    no_fault(clocks.run(16, rounds=1), 2 * len(clocks.JUMPS))
