from ondine.core.timing.snapping import Mark, beside, nearest, on_grid

MARKS = [Mark(100, "one"), Mark(250, "two"), Mark(260, "three")]


def test_the_nearest_mark_within_reach_is_taken():
    assert nearest(254, MARKS, 20) == Mark(250, "two")
    assert nearest(256, MARKS, 20) == Mark(260, "three")
    assert nearest(180, MARKS, 20) is None


def test_the_marks_beside_a_time_are_other_ones():
    assert beside(250, MARKS, later=True) == Mark(260, "three")
    assert beside(250, MARKS, later=False) == Mark(100, "one")
    assert beside(260, MARKS, later=True) is None and beside(100, MARKS, later=False) is None


def test_round_times():
    assert [on_grid(us, 5_000) for us in (2_400, 2_600, 97_500)] == [0, 5_000, 100_000]
