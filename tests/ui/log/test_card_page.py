from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from ondine.core.log.camera_clock import Clock
from ondine.core.setup import BenchKind
from ondine.logbook.clock_code import read_clock
from ondine.logbook.records import PastShot
from ondine.logbook.store import Logbook
from ondine.ui.log.card_page import clock_words
from ondine.ui.log.clock_card import ClockCard
from ondine.ui.log.kinds import CARD
from ondine.ui.shell import app as ui_app
from tests.calibrated import IN_HAND
from tests.cards import card, frame
from tests.ui.conftest import Bench, shown

BEGAN = datetime(2026, 5, 9, 18, 0, tzinfo=UTC)
AHEAD = timedelta(hours=2, minutes=1, seconds=5)
SHIFT = Qt.KeyboardModifier.ShiftModifier
NONE = Qt.KeyboardModifier.NoModifier


@pytest.fixture
def with_card(tmp_path, clock, qtbot):
    """A window on twenty shots, a card of their pictures, a burst at the tenth, and two trials."""
    times = [BEGAN + timedelta(seconds=float(s)) for s in np.cumsum(np.random.default_rng(6).uniform(20, 70, 20))]
    book = Logbook.open(tmp_path / "log.ondine")
    book.shots.add_history(PastShot("Evening", at, IN_HAND, ("crown",), bench=BenchKind.BY_HAND) for at in times)
    book.close()
    folder = tmp_path / "card"
    card(folder, times, AHEAD)
    frame(folder / "IMG_0010_2.JPG", (times[9] + AHEAD).replace(tzinfo=None), 300)
    for n in range(2):
        frame(folder / f"TRIAL{n}.JPG", (BEGAN + AHEAD - timedelta(minutes=9 + n)).replace(tzinfo=None), 400 + n)
    (folder / "empty.jpg").touch()
    ui_app.application()
    for made in shown(Bench(tmp_path, clock), qtbot):
        made.window.navigation.toggle_log()
        made.window.log.show_as(CARD)
        made.window.log_door.room.card.read(folder)
        qtbot.waitUntil(lambda: made.window.log.card_page.found is not None, timeout=10_000)  # noqa: B023
        yield made


def settle(bench, qtbot) -> None:
    bench.studio.card._worker.wait()
    bench.settle(qtbot)


def test_the_match_is_told_and_doubtful_ones_are_listed(with_card, qtbot):
    page = with_card.window.log.card_page
    said = page.said.text()
    assert "2 h 1 min 5 s ahead of UTC" in said and "doubtful" in said and "2 pictures without a shot" not in said
    listed = [page.doubtful.item(n).text() for n in range(page.doubtful.count())]
    assert any(line.startswith("IMG_0010.JPG: shot 10?") for line in listed)
    assert sum(line.endswith(": no shot") for line in listed) == 3
    assert any("empty.jpg" in line for line in listed)
    assert page.sure.isVisible() and page.all.isVisible() and not page.cancel.isVisible()
    # The doubtful picture is looked at beside the list.
    page.doubtful.setCurrentRow(0)
    assert with_card.window.log.card.head.text() == "IMG_0010.JPG"


def test_pictures_are_taken_in_by_one_press(with_card, qtbot):
    window, page = with_card.window, with_card.window.log.card_page
    pairs = page.found.match.pairs
    qtbot.mouseClick(page.all, Qt.MouseButton.LeftButton)
    settle(with_card, qtbot)
    sure = sum(pair.sure for pair in pairs)
    assert page.said.text().startswith(f"{sure} pictures taken in, {len(pairs) - sure} more as questions")
    shots = {shot.id: shot for shot in with_card.studio.writer.logbook.shots.newest(99)}
    assert all(shot.picture.name == f"IMG_{shot.id:04d}.JPG" for shot in shots.values())
    assert not shots[10].picture_sure and not page.all.isVisible()
    window.log.text.setText("picture in question")
    window.log.text.ask()
    settle(with_card, qtbot)
    assert 10 in window.log.model.ids.tolist()


def test_frames_are_slid_by_hand_and_by_keys(with_card, qtbot):
    page = with_card.window.log.card_page
    strip, before = page.strip, page.found
    strip.setFocus()
    qtbot.keyClick(strip, Qt.Key.Key_Left, SHIFT)
    qtbot.waitUntil(lambda: page.found is not before, timeout=5000)
    settle(with_card, qtbot)
    assert page.found.match.clocks[0].offset_s == pytest.approx(before.match.clocks[0].offset_s + 10)
    assert len(page.found.match.pairs) < len(before.match.pairs)
    qtbot.keyClick(strip, Qt.Key.Key_Right, SHIFT)
    settle(with_card, qtbot)
    assert len(page.found.match.pairs) == len(before.match.pairs)
    slid = page.found
    QTest.mousePress(strip, Qt.MouseButton.LeftButton, NONE, QPoint(400, 60))
    QTest.mouseMove(strip, QPoint(470, 60))
    QTest.mouseRelease(strip, Qt.MouseButton.LeftButton, NONE, QPoint(470, 60))
    settle(with_card, qtbot)
    assert page.found is not slid and page.found.match.clocks[0].offset_s < slid.match.clocks[0].offset_s


def test_the_key_opens_the_page_and_asks_for_a_folder(bench, qtbot, monkeypatch):
    from ondine.ui.shell import card_actions

    asked = []
    monkeypatch.setattr(card_actions, "ask_for_folder", lambda *a: asked.append(a))
    qtbot.keyClick(bench.window, Qt.Key.Key_I, Qt.KeyboardModifier.ControlModifier | SHIFT)
    assert len(asked) == 1 and bench.window.log.card_page.isVisible()
    assert "nothing is written until you take them in" in bench.window.log.card_page.said.text()


def test_a_folder_without_pictures_says_so(bench, qtbot, tmp_path):
    (tmp_path / "empty").mkdir()
    bench.window.log_door.room.card.read(tmp_path / "empty")
    page = bench.window.log.card_page
    qtbot.waitUntil(lambda: page.found is not None, timeout=5000)
    assert page.said.text() == "There is no picture with a time in this folder."


@pytest.mark.parametrize(
    ("clock", "said"),
    [
        (Clock(0.4), "0 s ahead of UTC ("), (Clock(-65.2), "1 min 5 s behind UTC ("),
        (Clock(7200.0, 1.26, drift_sd_s_per_day=0.3), "2 h ahead of UTC, drifts by +1.3 s a day"), (Clock(3.0, weight=0.5), "(50% likely)"),
        (Clock(3.0, 1.26, drift_sd_s_per_day=0.8), "3 s ahead of UTC ("),
    ],
)  # fmt: skip
def test_a_clock_is_said_in_words(clock, said):
    assert said in clock_words(clock)


def test_the_clock_card_shows_a_code_that_is_read_off_a_picture_of_it(bench, qtbot, tmp_path):
    window = bench.window
    qtbot.keyClick(window, Qt.Key.Key_L, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    (card,) = [w for w in QApplication.topLevelWidgets() if isinstance(w, ClockCard)]
    qtbot.waitExposed(card).__enter__()
    first = card.shown
    qtbot.waitUntil(lambda: card.shown > first, timeout=2000)
    card.grab().save(str(tmp_path / "card.png"))
    assert abs((read_clock(tmp_path / "card.png") - card.shown).total_seconds()) < 0.5
    qtbot.keyClick(card, Qt.Key.Key_Space)
    assert not card.isVisible() and bench.studio.writer.logbook.shots.count() == 2
