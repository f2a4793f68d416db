import numpy as np
import pytest
from PySide6.QtCore import QPoint, QRect, Qt
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractSpinBox,
    QComboBox,
    QLabel,
    QLineEdit,
    QListView,
    QScrollBar,
    QWidget,
)

from ondine.core.timing.arrange import removed
from ondine.core.timing.items import drop
from ondine.ui.kit.stand_in import StandIn
from ondine.ui.kit.tag_board import ShapeButton
from ondine.ui.kit.theme import DARKROOM, DAY
from ondine.ui.kit.words import Words
from tests.ui.hands import grabbed

SIZES = [(1280, 800), (1920, 1080), (1200, 720)]


CONTROLS = (QAbstractButton, QAbstractSpinBox, QLineEdit, QComboBox, QListView)


def visible(window: QWidget, kind: type | tuple[type, ...]) -> list[QWidget]:
    found = [w for w in window.findChildren(QWidget) if isinstance(w, kind) and w.isVisible()]
    # A stand-in is for ears alone.
    return [w for w in found if not isinstance(w, StandIn)]


def test_the_dark_window_gives_almost_no_light(bench, qtbot):
    bench.window.set_theme(DARKROOM)
    bench.window.loader.wait()
    qtbot.wait(50)
    pixels = grabbed(bench.window)
    linear = np.where(pixels <= 0.04045, pixels / 12.92, ((pixels + 0.055) / 1.055) ** 2.4)
    assert pixels[..., 1:].max() < 0.02
    assert (linear @ [0.2126, 0.7152, 0.0722]).mean() < 0.02


@pytest.mark.parametrize("theme", [DAY, DARKROOM])
@pytest.mark.parametrize("drops", [1, 2, 4])
@pytest.mark.parametrize("size", SIZES)
def test_nothing_is_clipped_too_small_or_on_top_of_another(bench, qtbot, size, drops, theme):
    window = bench.window
    sequence = bench.studio.composer.sequence
    while len(sequence.drops) > drops:
        sequence, _ = removed(sequence, frozenset({drop(1)}))
    while len(sequence.drops) < drops:
        sequence = sequence.with_drop_added()
    bench.studio.composer.use_sequence(sequence)
    window.set_theme(theme)
    window.resize(*size)
    qtbot.wait(30)
    assert (window.width(), window.height()) == size
    for label in visible(window, QLabel):
        if label.text() and not label.wordWrap():
            needed = label.fontMetrics().boundingRect(QRect(0, 0, 4000, 4000), 0, label.text())
            assert needed.width() <= label.width() + 1, f"{label.text()!r} is cut"
            assert needed.height() <= label.height() + 1, f"{label.text()!r} is cut"
        elif label.text():
            needed = label.fontMetrics().boundingRect(
                QRect(0, 0, label.width(), 4000), int(Qt.TextFlag.TextWordWrap), label.text()
            )
            assert needed.height() <= label.height() + 1, f"{label.text()!r} is cut"
    for words in visible(window, Words):
        needed = words.needs()
        assert needed.width() <= words.width() + 1 and needed.height() <= words.height() + 1, words.text()
    for control in visible(window, CONTROLS):
        if isinstance(control.parent(), QAbstractSpinBox | QComboBox):
            continue
        assert min(control.width(), control.height()) >= 24, control.accessibleName() or control
        corner = control.mapTo(window, QPoint(0, 0))
        assert window.rect().contains(QRect(corner, control.size())), control.accessibleName() or control
    for button in visible(window, QAbstractButton):
        if button.text() and not isinstance(button, ShapeButton):
            assert button.fontMetrics().horizontalAdvance(button.text()) <= button.width(), button.text()
    assert not visible(window.bench, QScrollBar)
    siblings = [window.bench.chart, window.bench.strip, window.bench.fire, window.bench.splash, window.bench.shot.picture,
                window.bench.shot.note, window.bench.board, window.bench.numbers.interval, window.bench.numbers.flash]  # fmt: skip
    boxes = [QRect(w.mapTo(window, QPoint(0, 0)), w.size()) for w in siblings]
    for i, box in enumerate(boxes):
        for other in boxes[i + 1 :]:
            assert not box.intersects(other), (siblings[i], box, other)


def test_the_waterline_is_one_line(bench, qtbot):
    page = bench.window.bench
    for width, height in SIZES:
        bench.window.resize(width, height)
        qtbot.wait(20)
        splash = page.splash.mapTo(page, QPoint(0, 0)).y() + page.splash.water_line()
        chart = page.chart.mapTo(page, QPoint(0, 0)).y() + page.chart._water_y
        assert abs(splash - chart) < 1.5


def test_every_control_has_a_name_and_can_be_reached_by_tab(bench, qtbot):
    window = bench.window
    for control in [*visible(window, CONTROLS), window.bench.chart, window.bench.splash, window.bench.shot.picture]:
        if isinstance(control.parent(), QAbstractSpinBox | QComboBox):
            continue
        named = control.accessibleName() or (control.text() if isinstance(control, QAbstractButton) else "")
        assert named, control
    start = window.bench.chart
    start.setFocus()
    reached = set()
    for _ in range(80):
        window.focusNextChild()
        reached.add(window.focusWidget())
        if window.focusWidget() is start:
            break
    wanted = {window.bench.numbers.interval, window.bench.numbers.flash, window.bench.fire, window.bench.strip, window.bench.shot.note,
              window.header.log, *window.bench.board.buttons.values()}  # fmt: skip
    assert wanted <= reached


def test_focus_can_be_seen_on_every_kind_of_control(bench, qtbot):
    window = bench.window
    for control in (window.bench.chart, window.bench.fire, window.bench.numbers.interval, window.bench.strip,
                    window.bench.shot.note, window.header.rig, window.bench.board.buttons["crown"]):  # fmt: skip
        window.bench.numbers.add_drop.setFocus()
        qtbot.wait(10)
        before = grabbed(control)
        control.setFocus()
        qtbot.wait(10)
        after = grabbed(control)
        assert np.abs(after - before).max() > 0.15, control


@pytest.mark.parametrize("size", [(1200, 720), (1600, 1000)])
def test_the_waterline_runs_through_edge_and_page_also_under_a_message(bench, qtbot, size):
    window = bench.window
    window.resize(*size)
    qtbot.wait(30)
    assert window.side.edge._water_y == pytest.approx(window.bench.water_line())
    window.messages.trouble("The folder is gone, so no pictures come in.")
    qtbot.wait(30)
    assert window.side.edge._water_y == pytest.approx(window.bench.water_line())
    assert window.bench.chart._water_y == pytest.approx(window.bench.water_line())
