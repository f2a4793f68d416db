"""Views on their own: what they say when there is nothing, when files are gone, and in the dark."""

from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QSize
from PySide6.QtGui import QColor, QImage

from ondine.core.belief.priors import Belief
from ondine.core.forecast.prediction import Prediction
from ondine.core.setup import Setup
from ondine.core.timing.sequence import Pulse, Sequence
from ondine.demo.scenario import START, TAUGHT, TIDAL_MILL
from ondine.logbook.records import ShotRecord, ShotState
from ondine.ui.kit.pictures import PictureLoader, reddened
from ondine.ui.kit.scales import HeightScale, TimeScale
from ondine.ui.kit.shot_list import ShotModel, outcome_words, timing_words
from ondine.ui.kit.words import Words

AT = datetime(2026, 5, 9, tzinfo=UTC)


def shot(number: int = 1, **more: object) -> ShotRecord:
    plain = ShotRecord(number, "s", "x", "b", AT, ShotState.FIRED, START, "", None, None, 0, "", (), None)
    return replace(plain, **more)


@pytest.mark.parametrize(
    ("record", "words"),
    [
        (shot(), "fired, outcome unknown"),
        (shot(state=ShotState.UNKNOWN), "fired, outcome unknown"),
        (shot(state=ShotState.PLANNED), "firing"),
        (shot(state=ShotState.FAILED), "did not fire"),
        (shot(shapes=("crown", "off-axis")), "crown, off axis"),
        (shot(shapes=("my-own",)), "my-own"),
    ],
)
def test_outcomes_in_words(record, words):
    assert outcome_words(record) == words


def test_timings_in_words():
    assert timing_words(shot()) == "95 · flash 356 ms"
    assert timing_words(shot(sequence=Sequence((Pulse(0, 20_000),), 300_500))) == "one drop · flash 300.5 ms"


def test_a_list_of_shots_keeps_its_order(qtmodeltester):
    model = ShotModel()
    model.set_shots([shot(2), shot(1)])
    model.add(shot(3))
    model.change(shot(1, rating=5))
    assert [s.id for s in model.shots] == [3, 2, 1] and model.shots[2].rating == 5
    assert model.row_of(9) is None
    qtmodeltester.check(model)


def test_scales_go_there_and_back():
    time = TimeScale(0.1, 0.4, 50, 950)
    assert time.time_s(time.x(0.25)) == pytest.approx(0.25)
    assert time.step_s(60) in (0.02, 0.05)
    height = HeightScale(300, 20, 0.365)
    assert height.y(0.0) == 300 and height.y(0.365) == pytest.approx(20)
    assert height.y(-0.01) - 300 == pytest.approx(300 - height.y(0.01))
    places = height.y(np.linspace(0, 0.365, 50))
    assert np.all(np.diff(places) < 0)


def test_moving_the_flash_keeps_the_curves_and_moving_a_drop_does_not():
    first = Prediction.of(TIDAL_MILL, TAUGHT, START)
    flash = Prediction.of(TIDAL_MILL, TAUGHT, START.with_flash(300_000), first)
    assert flash.course.falls is first.course.falls and flash.forecast is first.forecast
    assert flash.shapes != first.shapes
    moved = Prediction.of(TIDAL_MILL, TAUGHT, START.with_interval(0, 99_000), first)
    assert moved.course.falls is not first.course.falls
    other = Prediction.of(Setup(), TAUGHT, START, first)
    assert other.forecast is not first.forecast
    learned = Prediction.of(TIDAL_MILL, Belief(), START, first)
    assert learned.forecast is not first.forecast


def test_a_drop_that_lets_nothing_out_can_be_drawn(bench, qtbot):
    bench.studio.composer.use_sequence(Sequence((Pulse(0, 1_000),), 300_000))
    qtbot.wait(20)
    assert bench.window.bench.shape_words.text() == "Nothing in frame"
    assert not bench.window.grab().isNull()


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
    view = bench.window.bench.picture
    view.show_picture(Path("/nowhere/frame.jpg"), "")
    view.repaint()
    bench.window.loader.wait()
    qtbot.wait(50)
    gone = view.grab().toImage()
    view.show_picture(None, "")
    assert gone != view.grab().toImage()


def test_words_know_their_room(qtbot):
    words = Words(12)
    qtbot.addWidget(words)
    words.resize(80, words.height())
    words.set_text("a line that is certainly longer than eighty pixels")
    assert words.needs().height() > words.height()
    assert words.fits("short", 80) and not words.fits(words.text(), 80)
    assert words.accessibleName() == words.text()


def test_an_empty_logbook_says_what_will_be_there(bench, qtbot):
    bench.window.in_view.show(None)
    assert "Space" in bench.window.bench.picture.accessibleDescription()
    assert not bench.window.bench.board.buttons["crown"].isEnabled()
