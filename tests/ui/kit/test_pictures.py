from pathlib import Path

from PySide6.QtCore import QSize
from PySide6.QtGui import QColor, QImage

from ondine.ui.kit.pictures import PictureLoader, reddened


def test_a_picture_in_the_dark_is_red_and_dim(qapp):
    image = QImage(40, 30, QImage.Format.Format_RGB32)
    image.fill(QColor("white"))
    red = reddened(image).pixelColor(20, 15)
    assert (red.green(), red.blue()) == (0, 0) and 100 < red.red() < 170


def test_pictures_come_later_and_stay(qtbot, tmp_path):
    path = tmp_path / "a.png"
    image = QImage(600, 400, QImage.Format.Format_RGB32)
    image.fill(QColor("teal"))
    image.save(str(path))
    loader = PictureLoader()
    with qtbot.waitSignal(loader.ready, timeout=5000):
        assert loader.get(path, QSize(300, 200)) is None
    assert loader.get(path, QSize(300, 200)).size() == QSize(300, 200)
    with qtbot.waitSignal(loader.ready, timeout=5000):
        loader.get(Path("/nowhere/b.png"), QSize(30, 20))
    assert loader.get(Path("/nowhere/b.png"), QSize(30, 20)).isNull()


def test_a_picture_that_was_moved_away_is_said(bench, qtbot):
    view = bench.window.bench.shot.picture
    view.show_picture(Path("/nowhere/frame.jpg"), "")
    view.repaint()
    bench.window.loader.wait()
    qtbot.wait(50)
    gone = view.grab().toImage()
    view.show_picture(None, "")
    assert gone != view.grab().toImage()
