from pathlib import Path

from PIL import Image
from PySide6.QtCore import QSize
from PySide6.QtGui import QColor, QImage

from ondine.ui.kit.pictures import CACHE_BYTES, LEAST_KEPT, PictureLoader, reddened
from ondine.ui.log.film_view import ahead_of
from tests.rawfiles import dng


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


def test_a_part_of_a_picture_is_that_part(qtbot, tmp_path):
    """Four coloured quarters, also in a file that its camera turned on its side."""
    path, turned = tmp_path / "quarters.jpg", tmp_path / "turned.jpg"
    image = QImage(600, 400, QImage.Format.Format_RGB32)
    for n, colour in enumerate(("red", "lime", "blue", "white")):
        for x in range(300):
            for y in range(200):
                image.setPixelColor(x + 300 * (n % 2), y + 200 * (n // 2), QColor(colour))
    image.save(str(path), quality=95)
    with Image.open(path) as plain:
        exif = Image.Exif()
        exif[0x0112] = 6  # to be turned by 90 degrees to the right (EXIF 2.32, table 4)
        plain.save(turned, exif=exif, quality=95)
    loader = PictureLoader()
    seen = {}
    for file, part in ((path, (0.5, 0.0, 0.5, 0.5)), (path, (0.0, 0.5, 0.5, 0.5)), (turned, (0.5, 0.0, 0.5, 0.5))):
        with qtbot.waitSignal(loader.ready, timeout=5000):
            loader.get(file, QSize(120, 120), part=part)
        found = loader.get(file, QSize(120, 120), part=part)
        seen[file.stem, part[:2]] = found.pixelColor(found.width() // 2, found.height() // 2).name()
        wide, high = (120, 80) if file is path else (80, 120)
        assert abs(found.width() - wide) <= 1 and abs(found.height() - high) <= 1
    near = {key: QColor(name).getRgb()[:3] for key, name in seen.items()}
    assert near["quarters", (0.5, 0.0)][1] > 220 > 60 > near["quarters", (0.5, 0.0)][0]
    assert near["quarters", (0.0, 0.5)][2] > 220 > 60 > near["quarters", (0.0, 0.5)][0]
    # What was in the upper left corner of the file is in the upper right one of the picture.
    assert near["turned", (0.5, 0.0)][0] > 220 > 60 > near["turned", (0.5, 0.0)][1]


def test_the_picture_of_a_raw_file_is_shown_at_any_size(qtbot, tmp_path):
    raw = dng(tmp_path / "a.dng")
    loader = PictureLoader()
    with qtbot.waitSignal(loader.ready, timeout=10_000):
        loader.get(raw, QSize(600, 400))
    assert not loader.get(raw, QSize(600, 400)).isNull()


def test_what_is_in_view_never_pushes_itself_out(qtbot, tmp_path):
    """Large pictures on a large screen: each is read once, or the loader would read for ever."""
    paths = []
    for n in range(LEAST_KEPT):
        path = tmp_path / f"{n}.png"
        image = QImage(1600, 1200, QImage.Format.Format_RGB32)
        image.fill(QColor.fromHsv(20 * n, 200, 200))
        image.save(str(path))
        paths.append(path)
    loader = PictureLoader()
    for path in paths:
        with qtbot.waitSignal(loader.ready, timeout=5000):
            loader.get(path, QSize(1600, 1200))
    assert all(loader.get(path, QSize(1600, 1200)) is not None for path in paths)


def test_a_film_reads_less_ahead_the_larger_its_pictures_are():
    assert ahead_of(900 * 600) == 4 and ahead_of(1800 * 1200) == 0 and ahead_of(0) == 4
    for pixels in (1e5, 1e6, 3e6, 1e7):
        assert (2 * ahead_of(pixels) + 1) * 4 * pixels <= max(CACHE_BYTES / 2, 4 * pixels)
