from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import QPointF, QSizeF

from ondine.ui.kit.pictures import WHOLE
from ondine.ui.log.best_of import BestOf
from ondine.ui.log.lens import CLOSEST, Lens

share = st.floats(0.0, 1.0)
side = st.floats(50.0, 2000.0)


def test_the_whole_picture_is_fitted_into_the_middle():
    part, place = Lens().looked_at(QSizeF(3000, 2000), QSizeF(300, 400))
    assert part == WHOLE and (place.x(), place.y(), place.width(), place.height()) == (0, 100, 300, 200)


@given(side, side, side, side, st.floats(1.0, CLOSEST), share, share)
def test_what_is_seen_lies_in_the_picture_and_in_the_pane_undistorted(w, h, pw, ph, closeness, x, y):
    (left, top, width, height), place = Lens(closeness, x, y).looked_at(QSizeF(w, h), QSizeF(pw, ph))
    assert left >= -1e-9 and left + width <= 1 + 1e-9 and top >= -1e-9 and top + height <= 1 + 1e-9
    assert place.width() <= pw + 1e-6 and place.height() <= ph + 1e-6
    across, down = place.width() / (width * w), place.height() / (height * h)
    assert abs(across / down - 1) < 1e-6


def test_zooming_holds_what_is_under_the_hand():
    picture, pane = QSizeF(3000, 2000), QSizeF(300, 200)
    for at in (QPointF(0.4, 0.6), QPointF(0.7, 0.3)):
        lens = Lens(2.0)
        places = []
        for one in (lens, lens.closer(1.5, at)):
            (left, top, width, height), _ = one.looked_at(picture, pane)
            places.append(((at.x() - left) / width, (at.y() - top) / height))
        assert abs(places[0][0] - places[1][0]) < 1e-9 and abs(places[0][1] - places[1][1]) < 1e-9


def test_nothing_zooms_past_its_ends():
    assert Lens().closer(0.5, QPointF(0.5, 0.5)).closeness == 1.0
    assert Lens().closer(1e6, QPointF(0.5, 0.5)).closeness == CLOSEST
    assert Lens(4.0).moved(99, -99) == Lens(4.0, 1.0, 0.0)


def test_the_next_takes_the_place_of_the_one_struck_out():
    best = BestOf(range(1, 9))
    assert best.in_view == (1, 2, 3, 4, 5, 6) and best.waiting == 2
    assert best.strike(1) and best.in_view == (1, 7, 3, 4, 5, 6)
    assert best.strike(1) and best.in_view == (1, 8, 3, 4, 5, 6) and best.waiting == 0
    assert best.strike(0) and best.in_view == (8, 3, 4, 5, 6) and best.struck == 3


@given(st.lists(st.integers(0, 7), max_size=30), st.integers(1, 12))
def test_one_always_stays_and_all_comes_back(strikes: list[int], count: int):
    best = BestOf(range(count))
    done = sum(best.strike(place) for place in strikes)
    assert len(best.in_view) + best.waiting == count - done >= 1
    for _ in range(done):
        assert best.put_back()
    assert not best.put_back() and best.in_view == tuple(range(count))[:6]
