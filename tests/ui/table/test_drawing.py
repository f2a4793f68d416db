from dataclasses import replace

import pytest
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QImage, QPainter
from PySide6.QtTest import QTest

from ondine.core.units import Length, Units
from ondine.demo.scenario import TIDAL_MILL
from ondine.ui.kit.theme import DAY
from ondine.ui.table.drawing_paint import DrawingPainter
from tests.ui.hands import PRESS, drag_handle, opened


@pytest.mark.parametrize(
    ("handle", "by", "path", "sign"),
    [
        ("nozzle 0", QPointF(0, -40), "valves.0.nozzle_height_m", 1),
        ("head 0", QPointF(0, 20), "valves.0.head_m", -1),
        ("rim", QPointF(20, 0), "bowl.diameter_m", 1),
        ("floor", QPointF(0, 20), "bowl.depth_m", 1),
        ("landing", QPointF(-20, 0), "bowl.landing_m", 1),
        ("aim", QPointF(0, -4), "camera.water_line_share", -1),
        ("camera", QPointF(40, 0), "camera.front_glass_m", 1),
        ("flash 0", QPointF(-30, 0), "light.units.0.x_m", -1),
    ],
)
def test_every_handle_moves_its_number_and_one_undo_takes_it_back(bench, handle, by, path, sign):
    from ondine.core.setup.fields import read

    opened(bench, "rig")
    before = bench.studio.composer.setup
    drag_handle(bench.window.side.page.drawing, handle, by)
    assert (read(bench.studio.composer.setup, path) - read(before, path)) * sign > 0
    assert bench.studio.composer.setup.revision != before.revision
    bench.window.studio.composer.undo()
    assert bench.studio.composer.setup == before


def test_a_drag_changes_the_results_where_they_stand(bench):
    opened(bench, "rig")
    drawing = bench.window.side.page.drawing
    before = drawing._results
    drag_handle(drawing, "nozzle 0", QPointF(0, -30))
    after = drawing._results
    assert after.fall_s.mean > before.fall_s.mean and after.impact_m_s.mean > before.impact_m_s.mean
    assert "falls" not in drawing.accessibleDescription() or f"{after.fall_s.mean * 1e3:.0f} ms" in (
        drawing.accessibleDescription()
    )


def test_the_drawing_by_keyboard_alone(bench, qtbot):
    window = bench.window
    qtbot.keyClick(window, Qt.Key.Key_F2)
    drawing = window.side.page.drawing
    assert drawing.hasFocus() and drawing.selection == "nozzle 0"
    qtbot.keyClick(drawing, Qt.Key.Key_Up)
    qtbot.keyClick(drawing, Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
    assert bench.studio.composer.setup.valves[0].nozzle_height_m == pytest.approx(0.371)
    while drawing.selection != "camera":
        qtbot.keyClick(drawing, Qt.Key.Key_Comma)
    qtbot.keyClick(drawing, Qt.Key.Key_Right)
    assert bench.studio.composer.setup.camera.front_glass_m == pytest.approx(0.221)
    qtbot.keyClick(drawing, Qt.Key.Key_Semicolon)
    assert drawing.selection != "camera"


def test_a_change_of_the_bowl_is_drawn_and_a_portrait_frame_stays_in_its_place(bench):
    bench.studio.composer.use_setup(replace(TIDAL_MILL, camera=replace(TIDAL_MILL.camera, portrait=True)))
    splash = bench.window.bench.splash
    room, _ = splash._frame()
    assert splash.rect().toRectF().contains(room) and room.height() > room.width()


def test_marks_are_drawn_only_on_what_they_speak_of(bench):
    opened(bench, "rig")
    drawing = bench.window.side.page.drawing
    assert {place for place, _ in drawing.marks} <= {h.key for h in drawing.handles()} | {"water", "bowl"}
    opened(bench, "safe")
    assert len(drawing.marks) >= 6 and drawing.marks[0][0] == "flash 0"


def test_the_drawing_keeps_its_scale_while_a_hand_drags(bench):
    opened(bench, "rig")
    drawing = bench.window.side.page.drawing
    before = drawing._scale
    start = drawing.place("nozzle 0")
    QTest.mousePress(drawing, PRESS, pos=start.toPoint())
    QTest.mouseMove(drawing, (start - QPointF(0, 120)).toPoint())
    assert drawing._scale == before
    QTest.mouseRelease(drawing, PRESS, pos=(start - QPointF(0, 120)).toPoint())
    assert drawing._scale != before
    assert drawing.place("head 0").y() > 0


@pytest.mark.parametrize("length", list(Length))
def test_the_nudge_of_the_drawing_is_a_step_of_the_unit(bench, qtbot, length):
    opened(bench, "rig")
    bench.window.side.tools.editor.set_units(length=length)
    drawing = bench.window.side.page.drawing
    drawing.setFocus()
    qtbot.keyClick(drawing, Qt.Key.Key_Up)
    step = bench.studio.composer.setup.valves[0].nozzle_height_m - 0.365
    assert step == pytest.approx(0.0016 if length is Length.INCH else 0.001, abs=1e-5)


def test_a_press_beside_every_handle_takes_nothing(bench):
    opened(bench, "rig")
    before = bench.studio.composer.setup
    drawing = bench.window.side.page.drawing
    QTest.mousePress(drawing, PRESS, pos=QPointF(20, drawing.height() - 40).toPoint())
    QTest.mouseMove(drawing, QPointF(90, drawing.height() - 90).toPoint())
    QTest.mouseRelease(drawing, PRESS)
    assert bench.studio.composer.setup == before


def test_a_mark_covers_neither_words_nor_another_mark(bench):
    """Badge 4 once lay over the drop's size."""
    drawing = opened(bench, "safe").figure
    grips = drawing.handles()
    picture = QImage(800, 600, QImage.Format.Format_RGB32)
    with QPainter(picture) as p:
        painter = DrawingPainter(p, DAY, drawing._scale, TIDAL_MILL, drawing._results, Units())
        painter.room = QRectF(0, 0, 800, 600)
        nozzle = drawing.place("nozzle 0")
        painter.written.append(QRectF(nozzle.x() - 120, nozzle.y() + 12, 110, 17))
        for number in (1, 2, 3):
            painter._mark("nozzle 0", number, grips, 0)
    words, *marks = painter.written
    assert len(marks) == 3
    for index, mark in enumerate(marks):
        assert not mark.intersects(words) and painter.room.contains(mark)
        assert not any(mark.intersects(other) for other in marks[index + 1 :])
