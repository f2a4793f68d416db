"""Shapes of one's own in the window: added, tagged by key and by mouse, found, taken off; and undo of what was said."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QPushButton

from ondine.ui.kit.glyphs import OWN_GLYPHS, glyph, known_glyphs
from ondine.ui.kit.own_shapes import own_shapes, set_own_shapes, shape_name
from ondine.ui.log.kinds import ATLAS
from tests.ui.hands import PRESS

SHIFT, CONTROL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier


@pytest.fixture(autouse=True)
def forgotten_after():
    yield
    set_own_shapes(())


def open_page(bench, qtbot):
    qtbot.keyClick(bench.window, Qt.Key.Key_T, SHIFT | CONTROL)
    bench.settle(qtbot)
    return bench.window.bench.own_shapes


def add(bench, qtbot, name: str, letter: str, drawing: str = "twin"):
    page = bench.window.bench.own_shapes
    page.name.setText(name)
    page.letter.setCurrentIndex(page.letter.findData(letter))
    for choice in page.glyphs.buttons():
        if choice.property("glyph") == drawing:
            qtbot.mouseClick(choice, PRESS)
    qtbot.keyClick(page.name, Qt.Key.Key_Return)
    bench.settle(qtbot)


def test_a_shape_is_added_and_tags_by_its_key_everywhere(bench, qtbot):
    window = bench.window
    page = open_page(bench, qtbot)
    assert page.isVisible() and page.name.hasFocus()
    add(bench, qtbot, "Twin crown", "T")
    assert [(own.name, own.letter, own.glyph) for own in own_shapes()] == [("Twin crown", "T", "twin")]
    assert page.name.text() == "" and page.letter.findData("T") < 0
    qtbot.keyClick(window, Qt.Key.Key_Escape)
    assert not page.isVisible()
    chart = window.bench.chart
    qtbot.keyClick(chart, Qt.Key.Key_T, SHIFT)
    bench.settle(qtbot)
    book = bench.studio.writer.logbook
    number = window.in_view.shot.id
    assert (
        "own-twin-crown" in book.shots.get(number).shapes and window.bench.board.buttons["own-twin-crown"].isChecked()
    )
    assert "Crown, twin crown" in window.bench.shot.detail.text()
    # Without Shift the letter is what it always is.
    qtbot.keyClicks(chart, "t")
    bench.settle(qtbot)
    assert "rising-jet" in book.shots.get(number).shapes
    # In the log it is found by its name, and tags there too.
    qtbot.keyClick(window, Qt.Key.Key_F3)
    bench.settle(qtbot)
    window.log.text.setText("twin crown")
    window.log.text.ask()
    bench.settle(qtbot)
    assert window.log.model.ids.tolist() == [number]
    window.log.sheet.setFocus()
    qtbot.keyClick(window.log.sheet, Qt.Key.Key_T, SHIFT)
    bench.settle(qtbot)
    assert "own-twin-crown" not in book.shots.get(number).shapes
    qtbot.keyClick(window.log.sheet, Qt.Key.Key_Z, CONTROL)
    bench.settle(qtbot)
    assert "own-twin-crown" in book.shots.get(number).shapes
    assert "Taken back: 1 shot no longer tagged" in window.messages.words.text()
    qtbot.keyClick(window.log.sheet, Qt.Key.Key_Y, CONTROL)
    bench.settle(qtbot)
    assert "own-twin-crown" not in book.shots.get(number).shapes


def test_the_board_has_the_first_two_and_the_page_all(bench, qtbot):
    window, page = bench.window, open_page(bench, qtbot)
    for name, letter in (("twin", "T"), ("leaning", "L"), ("bird", "V")):
        add(bench, qtbot, name, letter)
    assert list(page.tags) == ["own-leaning", "own-twin", "own-bird"]
    board = window.bench.board
    assert {"own-leaning", "own-twin"} <= board.buttons.keys() and "own-bird" not in board.buttons
    qtbot.mouseClick(page.tags["own-bird"], PRESS)
    qtbot.mouseClick(board.buttons["own-twin"], PRESS)
    bench.settle(qtbot)
    shot = window.in_view.shot
    assert {"own-bird", "own-twin"} <= set(shot.shapes) and page.tags["own-bird"].isChecked()
    # Taken off the board, its tag stays, and is named as well as can be.
    off = next(b for b in page.findChildren(QPushButton) if b.accessibleName() == "Take bird off the board")
    qtbot.mouseClick(off, PRESS)
    bench.settle(qtbot)
    assert "own-bird" not in page.tags and "own-bird" in window.in_view.shot.shapes
    assert shape_name("own-bird") == "bird" and shape_name("crown") == "crown"


def test_what_makes_no_sense_is_said_on_the_page(bench, qtbot):
    page = open_page(bench, qtbot)
    add(bench, qtbot, "  ", "T")
    assert "needs a name" in page.said.text() and not own_shapes()
    add(bench, qtbot, "Crown", "T")
    assert "already" in page.said.text() and page.name.text() == "Crown"
    add(bench, qtbot, "Tall crown", "T")
    assert page.said.text() == "" and [own.name for own in own_shapes()] == ["Tall crown"]


def test_escape_closes_the_page_and_stays_in_the_log(bench, qtbot):
    window = bench.window
    qtbot.keyClick(window, Qt.Key.Key_F3)
    bench.settle(qtbot)
    page = open_page(bench, qtbot)
    assert page.isVisible() and window.navigation.in_log
    qtbot.keyClick(QApplication.focusWidget(), Qt.Key.Key_Escape)
    assert not page.isVisible() and window.navigation.in_log and window.log.sheet.hasFocus()
    qtbot.keyClick(window.log.sheet, Qt.Key.Key_Escape)
    assert window.navigation.on_bench


def test_the_atlas_draws_each_of_them_by_its_glyph(bench, qtbot):
    window = bench.window
    open_page(bench, qtbot)
    for name, letter, drawing in (("twin", "T", "twin"), ("bird", "B", "wing")):
        add(bench, qtbot, name, letter, drawing)
    qtbot.keyClick(window, Qt.Key.Key_Escape)
    book = bench.studio.writer.logbook
    book.shots.tag([1], "own-twin")
    book.shots.tag([2], "own-bird")
    for number in (1, 2):
        book.shots.tag([number], "crown", on=False)
    qtbot.keyClick(window, Qt.Key.Key_F3)
    bench.settle(qtbot)
    window.log.show_as(ATLAS)
    bench.settle(qtbot)
    points = window.log.atlas.view.points
    drawn = {int(n): own_shapes()[int(s) - 24].key for n, s in zip(points.ids, points.shape, strict=True)}
    assert drawn == {1: "own-twin", 2: "own-bird"}
    # One more, whose letter comes first, numbers them anew.
    book.shapes.add("arch", "A", "arch")
    bench.studio.search.tell_shapes()
    bench.settle(qtbot)
    bench.settle(qtbot)
    points = window.log.atlas.view.points
    drawn = {int(n): own_shapes()[int(s) - 24].key for n, s in zip(points.ids, points.shape, strict=True)}
    assert drawn == {1: "own-twin", 2: "own-bird"}


def test_every_glyph_of_one_s_own_is_another(qapp):
    drawn = {glyph(name, "#000000", 24, 1.0).toImage().constBits().tobytes() for name in (*OWN_GLYPHS, *known_glyphs())}
    assert len(drawn) == len(OWN_GLYPHS) + len(known_glyphs())


def test_in_the_log_the_selected_shots_are_tagged_by_mouse_too(bench, qtbot):
    window, book = bench.window, bench.studio.writer.logbook
    qtbot.keyClick(window, Qt.Key.Key_F3)
    bench.settle(qtbot)
    # The search answers from a thread of its own.
    qtbot.waitUntil(lambda: window.log.current() is not None)
    window.log.sheet.selectAll()
    board = window.log.card.board
    assert board.buttons["crown"].isChecked() and not board.buttons["ripples"].isChecked()
    qtbot.mouseClick(board.buttons["ripples"], PRESS)
    bench.settle(qtbot)
    assert all("ripples" in book.shots.get(number).shapes for number in (1, 2)) and board.buttons["ripples"].isChecked()
    qtbot.mouseClick(board.more, PRESS)
    assert window.bench.own_shapes.isVisible() and window.navigation.in_log
