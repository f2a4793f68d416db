from ondine.core.forecast.shapes import SHAPES
from ondine.ui.kit.glyphs import glyph, known_glyphs
from ondine.ui.kit.tag_board import SHAPE_KEYS
from tests.ui.hands import PRESS


def test_fire_by_mouse_tag_by_mouse_and_take_the_tag_off(bench, qtbot):
    window = bench.window
    qtbot.mouseClick(window.bench.fire, PRESS)
    bench.settle(qtbot)
    shot = window.in_view.shot.id
    button = window.bench.board.buttons["contact"]
    qtbot.mouseClick(button, PRESS)
    bench.settle(qtbot)
    assert bench.studio.writer.logbook.shots.get(shot).shapes == ("contact",)
    qtbot.mouseClick(button, PRESS)
    bench.settle(qtbot)
    assert bench.studio.writer.logbook.shots.get(shot).shapes == ()


def test_every_letter_tags_its_shape(bench, qtbot):
    chart = bench.window.bench.chart
    for letter in SHAPE_KEYS:
        qtbot.keyClicks(chart, letter.lower())
    bench.settle(qtbot)
    wanted = {s.key for s in SHAPE_KEYS.values()} - {"crown"}
    assert set(bench.studio.writer.logbook.shots.newest(1000)[0].shapes) == wanted


def test_every_shape_has_a_key_and_a_glyph_of_its_own(qapp):
    assert {s.key for s in SHAPE_KEYS.values()} == {s.key for s in SHAPES} == known_glyphs()
    drawn = {glyph(s.key, "#000000", 24, 1.0).toImage().constBits().tobytes() for s in SHAPES}
    assert len(drawn) == len(SHAPES)
