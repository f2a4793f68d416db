from dataclasses import replace
from datetime import timedelta

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import QPoint, QPointF, QRectF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from ondine.core.log.regions import Regions
from ondine.core.timing.sequence import FlashPulse, Pulse, Sequence
from ondine.logbook.intake import read_picture
from ondine.logbook.records import PastShot
from ondine.logbook.store import Logbook
from ondine.ui.kit.pictures import PictureLoader
from ondine.ui.kit.theme import DAY
from ondine.ui.log.atlas_scale import AtlasScale, ticks
from ondine.ui.log.atlas_view import AtlasView
from ondine.ui.log.frame_paint import Frames
from ondine.ui.log.kinds import ATLAS, SHEET
from ondine.ui.shell import app as ui_app
from tests.calibrated import IN_HAND
from tests.ui.conftest import SEASON, Bench, shown
from tests.ui.seen import recorded

CONTROL = Qt.KeyboardModifier.ControlModifier
SHIFT, NONE = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.NoModifier


@pytest.fixture
def atlas(tmp_path, clock, qtbot):
    """A window on the atlas of 100 pairs on a lattice of intervals and flashes, and five single drops."""
    book = Logbook.open(tmp_path / "log.ondine")
    past = []
    for number in range(100):
        drops = (Pulse(0, 22_000), Pulse(80_000 + 4000 * (number % 10), 22_000))
        sequence = Sequence(drops, (FlashPulse(340_000 + 4000 * (number // 10)),))
        shapes = ("full-umbrella",) if number // 10 >= 5 else ("crown",)
        at = clock() - timedelta(days=1) + timedelta(minutes=number)
        past.append(PastShot("Lattice", at, replace(IN_HAND, sequence=sequence), shapes))
    one = replace(IN_HAND, sequence=Sequence((Pulse(0, 22_000),), (FlashPulse(300_000),)))
    past += [PastShot("Singles", clock() - timedelta(hours=1, minutes=n), one, ("crown",)) for n in range(5)]
    book.shots.add_history(past)
    book.close()
    ui_app.application()
    for made in shown(Bench(tmp_path, clock), qtbot):
        qtbot.keyClick(made.window, Qt.Key.Key_F3)
        made.settle(qtbot)
        made.window.log.show_as(ATLAS)
        wait(made, qtbot)
        yield made


def wait(bench, qtbot) -> None:
    bench.settle(qtbot)
    page = bench.window.log.atlas
    qtbot.waitUntil(lambda: page.is_foreseen, timeout=20_000)
    bench.settle(qtbot)


def place(bench, x: float, y: float) -> QPoint:
    return bench.window.log.atlas.view.scale.place(x, y).toPoint()


def test_all_shots_that_have_both_figures_are_in_view(atlas):
    page = atlas.window.log.atlas
    assert len(page.view.points.ids) == 100 and "5 shots have no such figures" in page.words.text()
    assert page.view.cells().count.sum() == 100
    low_x, high_x, low_y, high_y = page.view.view
    assert low_x < 80 and high_x > 116 and low_y < 340 and high_y > 376
    # What the belief in hand expects lies under them.
    assert page.view.regions is not None and (page.view.regions.shape >= 0).any()


def test_the_shot_under_the_cursor_shows_on_the_card(atlas, qtbot):
    view, log = atlas.window.log.atlas.view, atlas.window.log
    QTest.mouseMove(view, place(atlas, 88, 352))
    atlas.settle(qtbot)
    assert view.under_cursor == 33 and log.current_number() == 33
    atlas.settle(qtbot)
    assert log.card.head.text().startswith("Shot 33") and "shot 33" in view.accessibleDescription()
    QTest.mouseMove(view, place(atlas, 90, 354))
    assert view.under_cursor is None and "interval 90" in view.accessibleDescription()


def test_a_line_round_shots_makes_them_a_sheet(atlas, qtbot):
    view, log = atlas.window.log.atlas.view, atlas.window.log
    corners = [(82, 350), (94, 350), (94, 362), (82, 362)]
    QTest.mousePress(view, Qt.MouseButton.LeftButton, NONE, place(atlas, *corners[0]))
    for corner in (*corners[1:], corners[0]):
        QTest.mouseMove(view, place(atlas, *corner))
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, NONE, place(atlas, *corners[0]))
    atlas.settle(qtbot)
    assert log.views.currentWidget() is log.sheet and log.kinds[SHEET].isChecked()
    wanted = [n + 1 for n in range(100) if 82 < 80 + 4 * (n % 10) < 94 and 350 < 340 + 4 * (n // 10) < 362]
    assert sorted(log.model.ids.tolist()) == wanted and log.tally.text() == f"{len(wanted)} shots of the atlas"
    # A search brings the others back.
    log.text.setText("crown")
    log.text.ask()
    atlas.settle(qtbot)
    assert log.tally.text() == "55 shots"


def test_an_empty_spot_is_taken_in_hand_as_the_next_shot(atlas, qtbot):
    view = atlas.window.log.atlas.view
    spot = view.scale.figures(QPointF(place(atlas, 102, 358)))
    QTest.mouseDClick(view, Qt.MouseButton.LeftButton, NONE, place(atlas, 102, 358))
    sequence = atlas.studio.composer.plan.sequence
    assert sequence.intervals_us[0] / 1000 == pytest.approx(spot[0], abs=0.01)
    assert sequence.first_flash_us / 1000 == pytest.approx(spot[1], abs=0.01)
    assert "In hand now" in atlas.window.messages.text()
    qtbot.keyClick(atlas.window, Qt.Key.Key_Z, CONTROL)
    assert atlas.studio.composer.plan.sequence == IN_HAND.sequence


def test_a_spot_that_is_no_timing_is_said(atlas, qtbot):
    page = atlas.window.log.atlas
    page.up.setCurrentIndex(page.up.findData("height_mm"))
    wait(atlas, qtbot)
    assert len(page.view.points.ids) == 100 and page.view.regions is None
    low_x, high_x, _, high_y = page.view.view
    QTest.mouseDClick(page.view, Qt.MouseButton.LeftButton, NONE, place(atlas, (low_x + high_x) / 2, high_y - 0.01))
    assert "cannot be moved to this spot" in atlas.window.messages.text()
    assert atlas.studio.composer.plan.sequence == IN_HAND.sequence


def test_wheel_and_right_button_zoom_and_pan(atlas, qtbot):
    view = atlas.window.log.atlas.view
    before = view.view
    spot = QPointF(view.rect().center())
    under = view.scale.figures(spot)
    from PySide6.QtGui import QWheelEvent

    wheel = QWheelEvent(
        spot, QPointF(view.mapToGlobal(spot.toPoint())), QPoint(), QPoint(0, 240), Qt.MouseButton.NoButton, NONE,
        Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    QApplication.sendEvent(view, wheel)
    assert view.view[1] - view.view[0] < before[1] - before[0]
    assert view.scale.figures(spot) == pytest.approx(under)
    QTest.mousePress(view, Qt.MouseButton.RightButton, NONE, spot.toPoint())
    QTest.mouseMove(view, spot.toPoint() + QPoint(40, -25))
    QTest.mouseRelease(view, Qt.MouseButton.RightButton, NONE, spot.toPoint() + QPoint(40, -25))
    assert view.scale.figures(spot + QPointF(40, -25)) == pytest.approx(under)
    qtbot.keyClick(view, Qt.Key.Key_Home)
    assert view.view == pytest.approx(before)


def test_keys_alone_reach_a_shot_and_a_spot(atlas, qtbot):
    view, log = atlas.window.log.atlas.view, atlas.window.log
    view.setFocus()
    for step in range(200):
        if view.under_cursor is not None:
            break
        qtbot.keyClick(view, (Qt.Key.Key_Right, Qt.Key.Key_Up)[step % 2])
    assert view.under_cursor is not None
    number = view.under_cursor
    qtbot.keyClick(view, Qt.Key.Key_Return)
    atlas.settle(qtbot)
    assert log.views.currentWidget() is log.sheet and log.current_number() == number
    log.show_as(ATLAS)
    wait(atlas, qtbot)
    zoomed = view.view
    qtbot.keyClick(view, Qt.Key.Key_Plus)
    assert view.view[1] - view.view[0] < zoomed[1] - zoomed[0]
    # Far to one side the view follows.
    for _ in range(80):
        qtbot.keyClick(view, Qt.Key.Key_Left)
    assert view.view[0] < zoomed[0] and view.scale.area.contains(view.scale.place(*view._cursor))


def test_time_of_flight_is_an_axis_like_any_other(atlas, qtbot):
    page = atlas.window.log.atlas
    page.across.setCurrentIndex(page.across.findData("after_touchdown_ms"))
    wait(atlas, qtbot)
    # Single drops have a touchdown too, and the flash.
    assert len(page.view.points.ids) == 105 and page.keys == ("after_touchdown_ms", "flash_ms")
    assert np.isfinite(page.view.points.x).all()


def test_a_tag_changes_the_glyph_where_it_lies(atlas, qtbot):
    view = atlas.window.log.atlas.view
    before = view.points.shape[view.points.ids.tolist().index(1)]
    atlas.studio.log.tag_shots([1], "double-umbrella", True)
    atlas.settle(qtbot)
    qtbot.waitUntil(lambda: view.points.shape[view.points.ids.tolist().index(1)] != before, timeout=3000)


def test_both_themes_draw_it(atlas, qtbot):
    view = atlas.window.log.atlas.view
    day = view.grab().toImage()
    atlas.window.toggle_theme()
    dark = view.grab().toImage()
    atlas.window.toggle_theme()
    assert day != dark
    assert all(dark.pixelColor(x, y).green() < 8 for x in range(0, dark.width(), 9) for y in range(0, dark.height(), 9))


def test_an_empty_search_leaves_the_atlas_without_shots(atlas, qtbot):
    log = atlas.window.log
    log.text.setText("ghosted")
    log.text.ask()
    atlas.settle(qtbot)
    assert log.empty.isVisible() and len(log.atlas.view.points.ids) == 0


@given(
    st.tuples(st.floats(-50, 50), st.floats(1, 50), st.floats(-50, 50), st.floats(1, 50)),
    st.floats(0, 400), st.floats(0, 300), st.floats(0.2, 3),
)  # fmt: skip
def test_places_and_figures_are_each_other_s_reverse(spans, px, py, factor):
    view = spans[0], spans[0] + spans[1], spans[2], spans[2] + spans[3]
    scale = AtlasScale(view, QRectF(10, 20, 400, 300))
    spot = QPointF(10 + px, 20 + py)
    again = scale.place(*scale.figures(spot))
    assert (again.x(), again.y()) == pytest.approx((spot.x(), spot.y()), abs=1e-6)
    zoomed = AtlasScale(scale.zoomed(spot, factor), scale.area)
    assert zoomed.figures(spot) == pytest.approx(scale.figures(spot), abs=1e-6)
    moved = AtlasScale(scale.moved(QPointF(30, -7)), scale.area)
    assert moved.figures(spot + QPointF(30, -7)) == pytest.approx(scale.figures(spot), abs=1e-6)


@given(st.floats(-1e4, 1e4), st.floats(1e-2, 1e5), st.floats(40, 900), st.floats(20, 90))
def test_ticks_are_round_and_have_room(low, span, length, room):
    found = ticks(low, low + span, length, room)
    assert all(low - 1e-6 * span <= value <= low + span + 1e-6 * span for value in found)
    gaps = np.diff(found) * length / span
    assert (gaps >= room * (1 - 1e-6)).all() and len(found) <= length / room + 2
    assert ticks(1, 1, 100, 20) == [] and ticks(0, float("nan"), 100, 20) == []


def test_names_of_regions_do_not_lie_on_each_other(qtbot):
    view = AtlasView(Frames(PictureLoader(), DAY))
    qtbot.addWidget(view)
    view.resize(400, 150)
    keys = ("crown", "crater")
    # One lies within the other: both have their midst there.
    shape = np.zeros((12, 12), np.int64)
    shape[5:7, 2:10] = 1
    grid = np.linspace(0.0, 1.0, 12)
    for chance in (np.ones((12, 12)), np.where(shape == 1, 0.9, 0.4)):
        view.show_regions(Regions(grid, grid, shape, chance, keys))
        with recorded() as found:
            view.grab()
        named = [text for text in found if text.text in keys]
        assert named and named[0].text == "crown"
        assert not any(a.room.intersects(b.room) for i, a in enumerate(named) for b in named[i + 1 :])


def test_a_series_is_fired_from_what_is_in_hand_to_a_spot(atlas, qtbot):
    window, view = atlas.window, atlas.window.log.atlas.view
    x, y = view.in_hand
    assert (x, y) == (IN_HAND.sequence.intervals_us[0] / 1000, IN_HAND.sequence.first_flash_us / 1000)
    before = atlas.studio.writer.logbook.shots.count()
    QTest.mouseDClick(view, Qt.MouseButton.LeftButton, SHIFT, place(atlas, x, y + 4))
    assert "A series of 5 shots" in window.messages.text() and window.messages.use.text() == "Fire 5 shots"
    # Nothing is fired before somebody says so, and what is in hand stays.
    assert atlas.studio.composer.plan.sequence == IN_HAND.sequence
    qtbot.mouseClick(window.messages.use, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: atlas.studio.writer.logbook.shots.count() == before + 5, timeout=8000)
    atlas.settle(qtbot)
    assert window.bench.isVisible()
    fired = atlas.studio.writer.logbook.shots.newest(5)[::-1]
    flashes = [shot.sequence.first_flash_us for shot in fired]
    assert flashes == sorted(set(flashes)) and flashes[0] == IN_HAND.sequence.first_flash_us
    assert (
        flashes[-1] / 1000 == pytest.approx(y + 4, abs=0.5) and atlas.studio.composer.plan.sequence == IN_HAND.sequence
    )


def test_escape_ends_a_series_and_no_series_leads_where_no_sequence_can_stand(atlas, qtbot):
    window, view = atlas.window, atlas.window.log.atlas.view
    page = window.log.atlas
    before = atlas.studio.writer.logbook.shots.count()
    window.log_door.room.actions.atlas.fire_all([atlas.studio.composer.plan] * 12)
    qtbot.waitUntil(lambda: atlas.studio.writer.logbook.shots.count() > before, timeout=8000)
    qtbot.keyClick(window, Qt.Key.Key_Escape)
    atlas.settle(qtbot)
    assert atlas.studio.writer.logbook.shots.count() < before + 12
    qtbot.keyClick(window, Qt.Key.Key_F3)
    wait(atlas, qtbot)
    window.log.show_as(ATLAS)
    wait(atlas, qtbot)
    page.up.setCurrentIndex(page.up.findData("height_mm"))
    wait(atlas, qtbot)
    view.reached.emit(100.0, 300.0)
    assert "No series leads" in window.messages.text()


def test_from_near_the_spots_have_their_pictures(atlas, qtbot):
    window, view = atlas.window, atlas.window.log.atlas.view
    book = atlas.studio.writer.logbook
    points = view.points
    numbers = [int(number) for number in points.ids[:4]]
    for n, number in enumerate(numbers):
        book.pictures.give(read_picture(SEASON / f"{60 + n:03d}.jpg"), number, True, atlas.clock())
    x, y = float(points.x[0]), float(points.y[0])
    assert view.near.missing(points, view.cells(), view.scale) == []
    view._look((x - 0.4, x + 0.4, y - 0.4, y + 0.4))
    wait(atlas, qtbot)
    qtbot.wait(250)
    atlas.settle(qtbot)
    view.grab()
    window.loader.wait()
    qtbot.wait(30)
    pictured = view.grab().toImage()
    known, view.near._shots = view.near._shots, {}
    assert view.grab().toImage() != pictured
    view.near.take(known)
    assert view.near.missing(points, view.cells(), view.scale) == []
    # From afar nothing is read.
    view.show_all()
    assert view.near.spots(view.cells(), view.scale) == []
