"""Which shot a picture is taken for, and when that is asked."""

from datetime import UTC, datetime, timedelta

import pytest

from ondine.logbook.pairing import Candidate, Pairing, agreed, pair_by_arrival, pair_by_clock

NOON = datetime(2026, 5, 9, 12, 0, tzinfo=UTC)


def shot_at(seconds: float, number: int, taken: bool = False) -> Candidate:
    return Candidate(number, NOON + timedelta(seconds=seconds), taken)


def after(seconds: float) -> datetime:
    return NOON + timedelta(seconds=seconds)


def test_an_arrival_goes_to_the_shot_fired_last_and_is_sure_where_no_other_waits():
    shots = [shot_at(0, 1, taken=True), shot_at(30, 2), shot_at(60, 3)]
    assert pair_by_arrival(after(33), shots) == Pairing(2, sure=True)
    assert pair_by_arrival(after(63), shots) == Pairing(3, sure=False)
    assert pair_by_arrival(after(400), shots) == Pairing(None)
    assert pair_by_arrival(after(29), shots) == Pairing(None)


def test_a_clock_is_sure_where_one_shot_alone_fired_about_then():
    shots = [shot_at(0, 1), shot_at(41, 2), shot_at(44, 3)]
    assert pair_by_clock(after(-2), shots) == Pairing(1, sure=True)
    assert pair_by_clock(after(41.2), shots) == Pairing(2, sure=False)
    assert pair_by_clock(after(20), shots) == Pairing(None)
    assert pair_by_clock(None, shots) == Pairing(None)


def test_a_clock_whose_offset_is_known_tells_quick_shots_apart():
    shots, slow = [shot_at(0, 1), shot_at(3, 2), shot_at(6, 3)], timedelta(hours=-2)
    assert pair_by_clock(after(3.4) + slow, shots, slow) == Pairing(2, sure=True)
    assert pair_by_clock(after(3.4), shots, slow) == Pairing(None)


@pytest.mark.parametrize(
    ("arrival", "clock", "known", "joined"),
    [
        # Both say the same.
        (Pairing(1), Pairing(1), False, Pairing(1)),
        (Pairing(1, False), Pairing(1, False), False, Pairing(1)),
        # One of them is silent: a late picture; a camera without a clock.
        (Pairing(), Pairing(1), False, Pairing(1)),
        (Pairing(), Pairing(1, False), False, Pairing(1, False)),
        (Pairing(1), Pairing(), False, Pairing(1)),
        (Pairing(1, False), Pairing(), False, Pairing(1, False)),
        # A clock that was right until now fits no shot: perhaps a stray picture.
        (Pairing(1), Pairing(), True, Pairing(1, False)),
        # They differ: it is asked, but where one of them knows.
        (Pairing(1), Pairing(2), False, Pairing(1, False)),
        (Pairing(1), Pairing(2, False), False, Pairing(1)),
        (Pairing(1, False), Pairing(2), False, Pairing(2, False)),
        (Pairing(1, False), Pairing(2), True, Pairing(2)),
        (Pairing(), Pairing(), False, Pairing()),
    ],
)
def test_what_arrival_and_clock_say_is_joined(arrival, clock, known, joined):
    assert agreed(arrival, clock, known) == joined
