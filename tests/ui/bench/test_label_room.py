"""Labels keep clear of curves and of each other, and stay near what they name."""

from itertools import pairwise

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import QPointF, QRectF

from ondine.ui.bench.label_room import AROUND_PX, CELL_PX, Labels

INSIDE = QRectF(54, 24, 760, 200)


def crossed(room: QRectF, xs: np.ndarray, ys: np.ndarray) -> bool:
    """By brute force: a hundred points on each piece."""
    x = np.concatenate([np.linspace(a, b, 100) for a, b in pairwise(xs)])
    y = np.concatenate([np.linspace(a, b, 100) for a, b in pairwise(ys)])
    inner = room.adjusted(1, 1, -1, -1)
    return bool(((x > inner.left()) & (x < inner.right()) & (y > inner.top()) & (y < inner.bottom())).any())


@given(
    st.lists(st.tuples(st.floats(54, 814), st.floats(54, 814)), min_size=1, max_size=4),
    st.floats(100, 780), st.floats(60, 210), st.floats(60, 190),
)  # fmt: skip
def test_no_curve_runs_through_a_label_where_there_is_any_room(falls, x, y, wide):
    lines = [(np.linspace(a, b, 30), 24 + 200 * np.linspace(0, 1, 30) ** 2) for a, b in falls]
    labels = Labels(lines, [], INSIDE)
    first, second = (labels.room(QPointF(x, y), wide, 16) for _ in range(2))
    for room in labels.taken:
        assert INSIDE.contains(room)
        assert not any(crossed(room, xs, ys) for xs, ys in lines)
    assert len(labels.taken) < 2 or not first.intersects(second)


def test_a_label_with_room_beside_its_spot_stands_there():
    room = Labels([], [], INSIDE).room(QPointF(300, 100), 120, 16)
    assert abs(room.center().y() - 100) <= 14 and min(abs(room.left() - 312), abs(room.right() - 288)) < 6


def test_where_all_is_taken_the_label_stands_beside_its_spot():
    room = Labels([], [INSIDE.adjusted(-9, -9, 9, 9)], INSIDE).room(QPointF(300, 100), 120, 16)
    assert room.left() == 312


def test_a_label_stays_where_it_lay_while_that_is_free():
    spot, kept = QPointF(300, 100), QPointF(-200, -40)
    stays = Labels([], [], INSIDE).room(spot, 120, 16, kept)
    assert stays.topLeft() == spot + kept
    through = [(np.array([60.0, 400.0]), np.array([68.0, 68.0]))]
    for labels in (Labels(through, [], INSIDE), Labels([], [stays], INSIDE)):
        moved = labels.room(spot, 120, 16, kept)
        assert moved.topLeft() != spot + kept and not moved.intersects(stays)
    outside = Labels([], [], INSIDE).room(spot, 120, 16, QPointF(600, 0))
    assert INSIDE.contains(outside)


@given(st.floats(-40, 640), st.floats(-40, 240), st.floats(5, 200), st.floats(8, 30), st.integers(0, 1000))
def test_one_room_is_free_as_many_are(x, y, wide, high, seed):
    """But for the size of the squares, in which lines are noted for many rooms."""
    lines = some_lines(seed)
    labels = Labels(lines, [QRectF(100, 50, 40, 20), QRectF(400, 10, 18, 18)], QRectF(0, 0, 600, 200))
    many = labels._is_free(np.array([x]), np.array([y]), wide, high)[0]
    around = QRectF(x, y, wide, high).adjusted(-AROUND_PX, 0, AROUND_PX, 0)
    less, more = (around.adjusted(-by, -by, by, by) for by in (-CELL_PX, CELL_PX))
    if labels._is_crossed(less) == labels._is_crossed(more):
        assert labels._is_free_room(QRectF(x, y, wide, high)) == many


@given(st.floats(0, 600), st.floats(0, 200), st.floats(1, 200), st.floats(1, 30), st.integers(0, 1000))
def test_a_room_is_crossed_where_a_point_of_a_line_lies_in_it(x, y, wide, high, seed):
    lines, room = some_lines(seed), QRectF(x, y, wide, high)
    share = np.linspace(0, 1, 20_001)
    inside = [
        np.any((x < xs) & (xs < x + wide) & (y < ys) & (ys < y + high))
        for xs, ys in (
            (np.interp(share, [0, 1], xs[[0, -1]]), np.interp(share, [0, 1], ys[[0, -1]])) for xs, ys in lines
        )
    ]
    crossed = Labels(lines, [], INSIDE)._is_crossed(room)
    # Between two points of 20 000 a line may just touch a corner.
    assert crossed or not any(inside)
    assert (
        not crossed
        or any(inside)
        or Labels(lines, [], INSIDE)._is_crossed(room.adjusted(0.1, 0.1, -0.1, -0.1)) is False
    )


def some_lines(seed: int) -> list[tuple[np.ndarray, np.ndarray]]:
    at = np.random.default_rng(seed).uniform(0, 1, (2, 3, 2)) * [[[600, 200]]]
    return [(np.linspace(a[0], b[0], 20), np.linspace(a[1], b[1], 20)) for a, b in zip(*at, strict=True)]


def test_between_the_end_of_a_line_and_the_start_of_the_next_there_is_room():
    lines = [(np.array([10.0, 200.0]), np.array([50.0, 50.0])), (np.array([400.0, 590.0]), np.array([50.0, 50.0]))]
    labels = Labels(lines, [], INSIDE)
    kept = QPointF(-40, -8)
    assert labels.room(QPointF(300, 50), 80, 16, kept).topLeft() == QPointF(260, 42)
    assert labels.room(QPointF(180, 50), 80, 16, kept).topLeft() != QPointF(140, 42)
