"""Cells, lines round shots, and nearest shots: held against plain counting, and polygons against Qt's own."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ondine.core.forecast.shapes import SHAPES
from ondine.core.log.atlas import KEYS, UNTAGGED, Points, cells, nearest, weight_of, within

THOUSANDTHS = st.integers(-50_000, 50_000).map(lambda n: n / 1000)
EVERYWHERE = (-1e6, 1e6, -1e6, 1e6)


def points(x, y, shape=None, comparable=None) -> Points:
    n = len(x)
    return Points(
        np.arange(100, 100 + n),
        np.array(x, float),
        np.array(y, float),
        np.full(n, UNTAGGED) if shape is None else np.array(shape),
        np.ones(n, bool) if comparable is None else np.array(comparable),
    )


@settings(max_examples=60, deadline=None)
@given(
    # To a thousandth, as figures are: what is next to nothing beside a cell's edge is told by rounding alone.
    st.lists(st.tuples(THOUSANDTHS, THOUSANDTHS, st.integers(-1, 5)), max_size=60),
    st.sampled_from([0.5, 1.0, 3.0, 40.0]),
)
def test_cells_hold_every_shot_once(listed, size):
    made = points([p[0] for p in listed], [p[1] for p in listed], [p[2] for p in listed])
    found = cells(made, EVERYWHERE, size, size)
    assert found.count.sum() == len(listed)
    wide = 2.0 ** np.ceil(np.log2(size))
    by_cell: dict[tuple[float, float], list[int]] = {}
    for x, y, shape in listed:
        by_cell.setdefault((x // wide, y // wide), []).append(shape)
    assert sorted(found.count.tolist()) == sorted(len(own) for own in by_cell.values())
    for cell in range(len(found.x)):
        own = by_cell[(found.x[cell] // wide, found.y[cell] // wide)]
        tagged = [shape for shape in own if shape != UNTAGGED]
        if not tagged:
            assert found.shape[cell] == UNTAGGED and found.purity[cell] == 0
        else:
            most = max(tagged.count(shape) for shape in set(tagged))
            assert tagged.count(found.shape[cell]) == most
            assert found.purity[cell] == pytest.approx(most / len(tagged))


def test_cells_stay_while_the_view_pans():
    rng = np.random.default_rng(1)
    made = points(rng.uniform(0, 100, 500), rng.uniform(0, 100, 500), rng.integers(0, 4, 500))
    here, there = (cells(made, view, 5, 5) for view in ((0, 64, 0, 64), (8, 72, 8, 72)))
    both = {(round(x, 9), round(y, 9)) for x, y in zip(here.x, here.y, strict=True)}
    again = {(round(x, 9), round(y, 9)) for x, y in zip(there.x, there.y, strict=True)}
    inside = [(x, y) for x, y in both if 8 <= x < 64 and 8 <= y < 64]
    assert len(inside) > 20 and all(place in again for place in inside)


def test_one_that_can_be_compared_makes_its_cell_so():
    found = cells(points([0.1, 0.2, 9], [0.1, 0.2, 9], comparable=[False, True, False]), EVERYWHERE, 1, 1)
    assert dict(zip(found.count.tolist(), found.comparable.tolist(), strict=True)) == {2: True, 1: False}


def test_nothing_in_view_is_no_cell():
    assert len(cells(points([], []), EVERYWHERE, 1, 1).x) == 0
    assert len(cells(points([5], [5]), (0, 1, 0, 1), 1, 1).x) == 0


def test_the_nearest_shot_within_reach():
    made = points([0, 10, 10.5], [0, 10, 10])
    assert nearest(made, 10.1, 10, 1, 1) == 1 and nearest(made, 10.4, 10, 1, 1) == 2
    assert nearest(made, 5, 5, 1, 1) is None and nearest(points([], []), 0, 0, 1, 1) is None
    # What is far across may be near in pixels.
    assert nearest(made, 3, 0.0, 4, 0.1) == 0


@settings(max_examples=40, deadline=None)
@given(st.lists(st.tuples(st.integers(-20, 20), st.integers(-20, 20)), min_size=3, max_size=9))
def test_what_lies_inside_a_line_is_what_qt_says(corners):
    from PySide6.QtCore import QPointF, Qt
    from PySide6.QtGui import QPolygonF

    rng = np.random.default_rng(2)
    made = points(rng.uniform(-20, 20, 80) + 0.013, rng.uniform(-20, 20, 80) + 0.017)
    polygon = QPolygonF([QPointF(x, y) for x, y in corners])
    wanted = [
        int(number) for number, x, y in zip(made.ids, made.x, made.y, strict=True)
        if polygon.containsPoint(QPointF(x, y), Qt.FillRule.OddEvenFill)
    ]  # fmt: skip
    assert within(made, [(float(x), float(y)) for x, y in corners]).tolist() == wanted


def test_a_line_that_encloses_nothing_takes_nothing():
    made = points([0, 1], [0, 1])
    assert within(made, []).tolist() == [] and within(made, [(0, 0), (1, 1)]).tolist() == []


def test_bounds_of_one_shot_have_a_span():
    assert points([3], [7]).bounds == (2.5, 3.5, 6.5, 7.5) and points([], []).bounds == (0, 1, 0, 1)


def test_what_met_in_the_air_says_more_than_a_fault():
    assert weight_of("full-umbrella") > weight_of("crown") > weight_of("blurred")
    assert weight_of("own-twin-crown") == weight_of("full-umbrella") and len(KEYS) == len(SHAPES)
