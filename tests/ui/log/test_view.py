from PySide6.QtCore import Qt


def test_the_log_filters_and_gives_a_shot_back(bench, qtbot):
    window = bench.window
    qtbot.keyClick(window, Qt.Key.Key_F3)
    bench.settle(qtbot)
    assert window.log.isVisible() and window.log.tally.text() == "2 shots"
    window.log.shape.setCurrentIndex(window.log.shape.findData("ghosted"))
    bench.settle(qtbot)
    assert window.log.tally.text() == "0 shots" and window.log.empty.isVisible()
    window.log.shape.setCurrentIndex(0)
    bench.settle(qtbot)
    older = window.log.list.shots.index(1)
    window.log.list.setCurrentIndex(older)
    qtbot.keyClick(window.log.list, Qt.Key.Key_Return)
    assert window.bench.isVisible() and window.in_view.shot.id == 1
    # Letters and space do not act on the bench from inside the log.
    qtbot.keyClick(window, Qt.Key.Key_F3)
    qtbot.keyClick(window.log.list, Qt.Key.Key_Space)
    bench.settle(qtbot)
    assert bench.studio.writer.logbook.shots.count() == 2
    qtbot.keyClick(window, Qt.Key.Key_Escape)
    assert window.bench.isVisible()


def test_an_empty_logbook_says_what_will_be_there(bench, qtbot):
    bench.window.in_view.show(None)
    assert "Space" in bench.window.bench.shot.picture.accessibleDescription()
    assert not bench.window.bench.board.buttons["crown"].isEnabled()
