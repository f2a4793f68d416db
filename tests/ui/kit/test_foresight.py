"""The picture before the shot in the window: on the bench, at the light stages, by mouse and by keys."""

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QRectF, Qt
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest

from ondine.core.light.anchor import RatedFrame, Rating, settings_of
from ondine.studio.events import ForeseenLost
from ondine.ui.kit import theme as themes
from ondine.ui.kit.foresight import MARK, Over
from tests.calibrated import RACE_IN_HAND


def pixels(widget) -> np.ndarray:
    image = widget.grab().toImage().convertToFormat(QImage.Format.Format_RGB888)
    rows = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine())
    return rows[:, : 3 * image.width()].reshape(image.height(), image.width(), 3).astype(int)


@pytest.fixture
def window(pictured, qtbot):
    wait_for_picture(pictured.window, qtbot)
    return pictured.window


def wait_for_picture(window, qtbot):
    # The first one of a run compiles what traces it.
    qtbot.waitUntil(lambda: window.foresight._image is not None and window.foresight.is_finished, timeout=240_000)
    qtbot.wait(10)


def test_the_bench_shows_the_picture_at_the_frames_own_place(window):
    shown, foreseen = pixels(window.bench.splash), window.foresight._image
    height, width = shown.shape[:2]
    assert (foreseen.width(), foreseen.height()) == (width, round(width / 1.5))
    # A place where nothing is drawn over it.
    row, col = height // 6, width // 6
    assert shown[row, col] == pytest.approx(foreseen.pixelColor(col, row).getRgb()[:3], abs=3)


def test_f12_takes_the_outlines_away_and_shows_the_drawing(window, qtbot):
    window.bench.chart.setFocus()
    seen = []
    # The first round opens the line that says what is shown, and so moves the page a little.
    for over in (Over.NOTHING, Over.DRAWING, Over.OUTLINES, Over.NOTHING, Over.DRAWING, Over.OUTLINES):
        QTest.keyClick(window, Qt.Key.Key_F12)
        assert window.foresight.over is over
        assert over.value in window.messages.words.text()
        wait_for_picture(window, qtbot)
        seen.append(pixels(window.bench.splash))
    *_, alone, drawn, outlined = seen
    differs = np.abs(outlined - alone).max(axis=2) > 20
    # Thin lines over the middle of the picture, and nothing else.
    assert 0.002 < differs.mean() < 0.2
    assert np.abs(drawn - alone).max(axis=2).mean() > 30


def test_in_the_dark_room_it_is_red_and_dim_until_it_is_asked_for(window, qtbot):
    window.set_theme(themes.DARKROOM)
    dark = pixels(window.bench.splash)
    assert dark[..., 1:].max() == 0
    QTest.keyClick(window, Qt.Key.Key_F7)
    assert pixels(window.bench.splash)[..., 1].mean() > 40
    QTest.keyClick(window, Qt.Key.Key_F7)
    assert np.array_equal(pixels(window.bench.splash), dark)


def test_dragging_the_flash_changes_the_picture(window, qtbot):
    before, number = window.foresight._image.copy(), window.foresight._number
    chart, flash = window.bench.chart, window.studio.composer.sequence.first_flash_us
    at = QPoint(round(chart.time_scale.x(flash / 1e6)), round(chart.lanes().output_y(0) + chart.lanes().px / 2))
    QTest.mousePress(chart, Qt.MouseButton.LeftButton, pos=at)
    for step in range(1, 30):
        QTest.mouseMove(chart, at - QPoint(step, 0))
        qtbot.wait(5)
    QTest.mouseRelease(chart, Qt.MouseButton.LeftButton, pos=at - QPoint(29, 0))
    wait_for_picture(window, qtbot)
    assert window.foresight._number > number
    assert window.foresight._image != before


def test_a_key_that_nudges_changes_it_too(window, qtbot):
    before = window.foresight._image.copy()
    window.bench.chart.setFocus()
    for _ in range(3):
        QTest.keyClick(window.bench.chart, Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier)
    wait_for_picture(window, qtbot)
    assert window.foresight._image != before


def test_what_is_said_over_it_is_that_it_is_foreseen_and_what_is_only_drawn(window):
    assert MARK == "foreseen"
    assert "only drawn" in window.bench.facts.text()


def test_a_plan_that_nothing_is_foreseen_for_is_drawn(window, qtbot):
    pictured = pixels(window.bench.splash)
    window.foresight._lost(ForeseenLost(window.foresight._number - 1))
    assert np.array_equal(pixels(window.bench.splash), pictured)
    window.foresight._lost(ForeseenLost(window.foresight._number))
    assert not np.array_equal(pixels(window.bench.splash), pictured)


@pytest.mark.parametrize("stage", ["flash", "expose", "colour"])
def test_at_the_light_stages_moving_a_lamp_changes_it(window, qtbot, stage):
    window.side.open_stage(stage)
    wait_for_picture(window, qtbot)
    before, figure = window.foresight._image.copy(), window.side.page.stages[stage].figure
    shown = pixels(figure)
    window.side.tools.editor.edit("light.units.0.power", 1 / 128)
    wait_for_picture(window, qtbot)
    grey = [
        np.mean([image.pixelColor(5, y).lightness() for y in range(5, 20)])
        for image in (before, window.foresight._image)
    ]
    assert grey[1] < 0.9 * grey[0]
    assert not np.array_equal(pixels(figure), shown)


def test_a_rated_test_frame_changes_it_though_no_plan_does(window, qtbot):
    before, light = window.foresight._image.copy(), window.side.tools.light
    plan = window.studio.composer.plan
    light.rate_frame("subject", RatedFrame(settings_of(plan.setup), Rating(-2.0, -2.0)))
    wait_for_picture(window, qtbot)
    assert window.studio.composer.plan == plan
    brightness = [image.pixelColor(20, 20).lightness() for image in (before, window.foresight._image)]
    # The table was two stops under right, where its guide numbers say one.
    assert brightness[1] < 0.85 * brightness[0]


def test_nobody_who_looks_costs_nothing(window, qtbot):
    QTest.keyClick(window, Qt.Key.Key_F3)
    number = window.foresight._number
    window.studio.composer.use_plan(RACE_IN_HAND)
    qtbot.wait(50)
    assert window.foresight._number == number
    # Back on the bench it is the picture of what is in hand now.
    QTest.keyClick(window, Qt.Key.Key_Escape)
    wait_for_picture(window, qtbot)
    assert window.foresight._number == number + 1


def test_it_fits_into_a_room_as_the_frame_does(window):
    placed = window.foresight.fitted(QRectF(10, 20, 300, 300))
    assert (placed.width(), placed.height()) == pytest.approx((300, 200))
    assert placed.center() == QRectF(10, 20, 300, 300).center()


def test_closing_in_the_midst_of_a_picture_ends_all_of_it(pictured, qtbot):
    pictured.studio.composer.use_plan(RACE_IN_HAND)
    pictured.window.close()
    assert not pictured.window.isVisible()
    import threading

    assert not [thread for thread in threading.enumerate() if thread.name == "preview"]
