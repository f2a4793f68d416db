from PySide6.QtCore import Qt

from ondine.core.timing.sequence import Pulse, Sequence
from ondine.logbook.store import Logbook


def test_the_shot_is_found_in_the_log_after_a_restart(bench, qtbot):
    window = bench.window
    qtbot.keyClick(window.bench.chart, Qt.Key.Key_Space)
    bench.settle(qtbot)
    qtbot.keyClick(window.bench.chart, Qt.Key.Key_J)
    bench.settle(qtbot)
    window.close()
    book = Logbook.open(bench.path)
    (again,) = book.shots.newest(1000)[:1]
    assert again.shapes == ("crater-hit",)
    book.close()


def test_looking_back_and_taking_an_old_sequence(bench, qtbot):
    window = bench.window
    window.bench.composed.emit(lambda _: Sequence.with_one_flash((Pulse(0, 30_000),), 200_000), "test")
    newest = window.in_view.shot.id
    qtbot.keyClick(window, Qt.Key.Key_BracketLeft)
    assert window.in_view.shot.id == newest - 1
    qtbot.keyClick(window, Qt.Key.Key_Equal)
    assert bench.studio.composer.sequence == window.in_view.shot.sequence
    qtbot.keyClick(window, Qt.Key.Key_BracketRight)
    qtbot.keyClick(window, Qt.Key.Key_BracketRight)
    assert window.in_view.shot.id == newest
