from PySide6.QtCore import Qt

from ondine.core.timing.sequence import Pulse
from ondine.logbook.records import ShotState


def test_the_main_job_by_keyboard_alone(bench, qtbot):
    window = bench.window
    shots = bench.studio.writer.logbook.shots.count()
    qtbot.keyClick(window, Qt.Key.Key_0)
    qtbot.keyClick(window.bench.chart, Qt.Key.Key_Right)
    qtbot.keyClick(window.bench.chart, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert bench.studio.composer.sequence.first_flash_us == 362_000
    qtbot.keyClick(window, Qt.Key.Key_2)
    qtbot.keyClick(window.bench.chart, Qt.Key.Key_Left)
    qtbot.keyClick(window.bench.chart, Qt.Key.Key_Up)
    assert bench.studio.composer.sequence.drops[1] == Pulse(94_000, 23_000)
    qtbot.keyClick(window, Qt.Key.Key_Period)
    qtbot.keyClick(window.bench.chart, Qt.Key.Key_Left)
    assert bench.studio.composer.sequence.drops[1].start_us == 93_900
    qtbot.keyClick(window.bench.chart, Qt.Key.Key_Space)
    bench.settle(qtbot)
    assert bench.studio.writer.logbook.shots.count() == shots + 1
    qtbot.keyClick(window.bench.chart, Qt.Key.Key_F)
    qtbot.keyClick(window, Qt.Key.Key_4, Qt.KeyboardModifier.ControlModifier)
    bench.settle(qtbot)
    shot = bench.studio.writer.logbook.shots.newest(1000)[0]
    assert (shot.shapes, shot.rating, shot.state) == (("full-umbrella",), 4, ShotState.FIRED)
    assert window.bench.board.buttons["full-umbrella"].isChecked()
    qtbot.keyClick(window, Qt.Key.Key_F8)
    assert window.bench.shot.note.hasFocus()
    qtbot.keyClicks(window.bench.shot.note, "for print 3")
    qtbot.keyClick(window.bench.shot.note, Qt.Key.Key_Return)
    bench.settle(qtbot)
    assert bench.studio.writer.logbook.shots.newest(1000)[0].note == "for print 3"


def test_letters_and_space_are_text_while_one_types(bench, qtbot):
    window = bench.window
    shots = bench.studio.writer.logbook.shots.count()
    window.shots.edit_note()
    qtbot.keyClicks(window.bench.shot.note, "a frog")
    bench.settle(qtbot)
    assert window.bench.shot.note.text().endswith("a frog")
    assert bench.studio.writer.logbook.shots.count() == shots
    assert bench.window.in_view.shot.shapes == ("crown",)
