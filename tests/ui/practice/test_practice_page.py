"""The practice place, driven as a photographer would: with keys alone, with the mouse, at bad moments."""

from dataclasses import replace
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from ondine.bench.simulated.instants import Instant, Phase, instant_of
from ondine.bench.simulated.levels import Level
from ondine.studio.events import InstantReady, Showed
from ondine.studio.practice.book import PracticeBook, Run
from ondine.ui.kit.tag_board import SHAPE_KEYS
from ondine.ui.kit.theme import DARKROOM, DAY
from ondine.ui.practice.page import best_words
from ondine.ui.shell import app as ui_app
from tests.ui.seen import faults
from tests.ui.test_seen import SIZES

LETTERS = {shape.key: letter for letter, shape in SHAPE_KEYS.items()}
CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
WAIT_MS = 30_000
PICTURE = Path(ui_app.__file__).parents[2] / "demo" / "season" / "005.jpg"


def press(bench, key, modifier=Qt.KeyboardModifier.NoModifier) -> None:
    QTest.keyClick(bench.window.focusWidget() or bench.window, key, modifier)


def letter(bench, shape: str) -> None:
    press(bench, getattr(Qt.Key, f"Key_{LETTERS[shape]}"))


def open_practice(bench, qtbot):
    press(bench, Qt.Key.Key_E, CTRL)
    qtbot.wait(20)
    assert bench.window.pages.currentWidget() is bench.window.practice.page
    return bench.window.practice.page


def begin(bench, qtbot, hints: bool = True) -> None:
    page = open_practice(bench, qtbot)
    page.rig.hints.setChecked(hints)
    assert bench.window.focusWidget() is page.rig.begin
    press(bench, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: bench.studio.practice.is_running, timeout=WAIT_MS)
    bench.settle(qtbot)


def fire(bench, qtbot, key=Qt.Key.Key_Space, modifier=Qt.KeyboardModifier.NoModifier) -> str:
    before = len(bench.studio.practice.book.shown)
    press(bench, key, modifier)
    qtbot.waitUntil(lambda: len(bench.studio.practice.book.shown) > before, timeout=WAIT_MS)
    bench.settle(qtbot)
    return bench.studio.practice.book.shown[-1].shape


def test_a_run_with_hints_is_played_with_keys_alone(hidden, qtbot):
    begin(hidden, qtbot)
    window, practice = hidden.window, hidden.studio.practice
    assert window.navigation.on_bench and window.bench.coach_speaks
    assert "Hidden rig: 0 shots" in window.header.bench.text()
    for shot in range(12):
        qtbot.waitUntil(
            lambda n=shot: window.bench.coach.says is not None and window.bench.coach.says.shots == n, timeout=WAIT_MS
        )
        shape = fire(hidden, qtbot, Qt.Key.Key_Return, SHIFT)
        letter(hidden, shape)
        hidden.settle(qtbot)
        if practice.book.run.over:
            break
    assert practice.book.run.found and shape == "full-umbrella" and practice.book.run.shots == shot + 1
    assert "Found in" in window.messages.text()
    page = open_practice(hidden, qtbot)
    assert not window.messages.isVisible(), "what it pointed to is in view"
    assert page.rig.title.text().startswith(f"Found in {shot + 1} shot")
    assert page.beside.currentWidget() is page.paths and page.rig.truths.isVisible()
    qtbot.waitUntil(lambda: practice.measured is not None, timeout=60_000)
    qtbot.wait(20)
    told = " ".join(label.text() for label in page.paths.findChildren(type(page.rig.title)))
    assert f"par {practice.book.run.par}" in page.rig.title.text() and "full umbrella" in told
    assert page.rig.first is page.rig.another
    # And on to the next one, or back to one's own table.
    QTest.mouseClick(page.rig.leave, Qt.MouseButton.LeftButton)
    qtbot.wait(20)
    assert practice.book.run is None and hidden.studio.composer.setup.name == "Tidal Mill"
    assert page.rig.title.text() == "A hidden rig" and len(page.record.runs) == 1


def test_without_hints_the_coach_is_silent_until_the_rig_is_given_up(hidden, qtbot):
    press(hidden, Qt.Key.Key_P, CTRL)
    assert hidden.window.bench.coach_speaks
    begin(hidden, qtbot, hints=False)
    assert not hidden.window.bench.coach_speaks
    press(hidden, Qt.Key.Key_P, CTRL)
    assert not hidden.window.bench.coach_speaks and "without hints" in hidden.window.messages.text()
    press(hidden, Qt.Key.Key_A, CTRL | SHIFT)
    hidden.settle(qtbot)
    assert not hidden.studio.practice.book.shown, "it fired with hints that are not allowed"
    assert not hidden.window.bench.coach.auto.isChecked() and "without hints" in hidden.window.messages.text()
    for key, drawer in ((Qt.Key.Key_M, "map"), (Qt.Key.Key_P, "learned")):
        press(hidden, key, CTRL | SHIFT)
        assert not getattr(hidden.window.navigation, drawer).isVisible(), "a hint that is not allowed"
    fire(hidden, qtbot)
    page = open_practice(hidden, qtbot)
    assert page.rig.first is page.rig.bench and page.rig.title.text().startswith("Full umbrella: 1 shot so far")
    page.rig.give_up.setFocus()
    press(hidden, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: hidden.studio.practice.book.run.over, timeout=WAIT_MS)
    assert page.rig.title.text().startswith("Not found in 1 shot")
    press(hidden, Qt.Key.Key_Escape)
    press(hidden, Qt.Key.Key_P, CTRL)
    assert hidden.window.bench.coach_speaks


def test_what_was_said_of_another_rig_cannot_be_taken(hidden, qtbot):
    press(hidden, Qt.Key.Key_P, CTRL)
    qtbot.waitUntil(lambda: hidden.window.bench.coach.says is not None, timeout=WAIT_MS)
    hidden.window.practice.begin(Level.EASY, "full-umbrella", hints=True)
    before = hidden.studio.composer.sequence
    press(hidden, Qt.Key.Key_Return)
    assert hidden.studio.composer.sequence == before and hidden.window.bench.coach.says is None


def test_the_table_s_own_logbook_has_no_practice_place(bench, qtbot):
    assert not bench.window.header.practice.isVisible()
    press(bench, Qt.Key.Key_E, CTRL)
    assert bench.window.navigation.on_bench and "F10" in bench.window.messages.text()


def test_a_busy_bench_is_said(hidden, qtbot, monkeypatch):
    page = open_practice(hidden, qtbot)
    monkeypatch.setattr(hidden.studio.practice, "begin", lambda *_: False)
    page.rig.begin.click()
    assert "busy" in hidden.window.messages.text()


def test_the_record_counts_what_was_found(hidden, qtbot):
    run = Run(Level.EASY, 1001, "full-umbrella", False, "2026-05-09T19:00:00+00:00", 1, 3, 3, 3, True, True)
    runs = (run, replace(run, shots=5, rig=1002), replace(run, level=Level.NORMAL, found=False, shots=9))
    assert best_words(runs).startswith("Fewest shots: easy 3 (par or better: 1 of 2).")
    page = open_practice(hidden, qtbot)
    page.show_book(PracticeBook(runs), (), "", None)
    assert "9 of par 3, given up" in page.record.accessibleDescription()
    for theme in (DARKROOM, DAY):
        hidden.window.set_theme(theme)
        page.record.grab()


# Name that instant


@pytest.fixture
def naming(hidden, qtbot, monkeypatch):
    """A round whose pictures come at once."""
    monkeypatch.setattr(type(hidden.studio.gallery), "begin", lambda *_: None)
    page = open_practice(hidden, qtbot)
    QTest.mouseClick(page.naming.begin, Qt.MouseButton.LeftButton)
    made = instant_of(1, 1, "crown")
    phases = tuple(Phase(*row) for row in (("touchdown", 0, 0.002), ("crown", 0.0025, 0.02), ("crater", 0.0205, 0.05)))
    made = Instant(made.rig, made.seed, made.setup, made.sequence.with_flash(0, 10_000), "crown", phases)
    for place in range(10):
        page.round.take(InstantReady(place, PICTURE, made))
    return hidden, page.round


def test_a_round_is_named_with_keys_alone_and_kept(naming, qtbot):
    hidden, asked = naming
    assert asked.is_asking and hidden.window.focusWidget() is asked
    for place in range(10):
        assert asked.place == place
        letter(hidden, "crown" if place else "crater")
        assert not asked.is_asking and asked.board.buttons["crown"].isChecked()
        letter(hidden, "crown")
        press(hidden, Qt.Key.Key_Return)
    qtbot.wait(20)
    (one,) = hidden.studio.practice.book.rounds
    assert (one.right, one.of, one.points) == (9, 10, 93)
    page = hidden.window.practice.page
    assert not page.is_naming and "9 of 10 right, 93 points" in page.naming.last.text()
    hidden.settle(qtbot)
    assert "93" in hidden.studio.writer.submit(lambda: hidden.studio.writer.logbook.state.get("practice")).result()


def test_a_right_name_goes_on_by_itself_and_a_wrong_one_waits(naming, qtbot):
    hidden, asked = naming
    letter(hidden, "ripples")
    qtbot.wait(1500)
    assert asked.place == 0 and "You said" not in asked.said.text() and "never shows ripples" in asked.said.text()
    press(hidden, Qt.Key.Key_Space)
    letter(hidden, "crown")
    qtbot.waitUntil(lambda: asked.place == 2 and asked.is_asking, timeout=5000)


def test_when_time_is_up_nothing_is_won(naming, qtbot):
    _, asked = naming
    asked._clock = lambda: asked._shown_s + 12.1
    qtbot.waitUntil(lambda: not asked.is_asking, timeout=5000)
    assert asked.points == 0 and "Time is up" in asked.said.text() and asked.bar.left == 0


@pytest.mark.parametrize("key", [Qt.Key.Key_Escape, Qt.Key.Key_F3])
def test_a_round_that_is_left_ends_and_does_not_count(naming, qtbot, key):
    hidden, asked = naming
    press(hidden, key)
    qtbot.wait(50)
    page = hidden.window.practice.page
    assert not page.is_naming and not asked.is_asking and not hidden.studio.practice.book.rounds
    assert hidden.window.navigation.on_bench is False
    if key == Qt.Key.Key_Escape:
        assert hidden.window.pages.currentWidget() is page, "Esc goes one step back"


def test_a_picture_that_is_late_starts_its_clock_when_it_comes(naming, qtbot):
    hidden, asked = naming
    late = asked._ready.pop(1)
    letter(hidden, "crown")
    press(hidden, Qt.Key.Key_Return)
    assert asked.place == 1 and not asked.is_asking
    letter(hidden, "crown")
    assert asked.right == 1, "there was nothing to name"
    asked._clock = lambda: 5000.0
    asked.take(late)
    assert asked.is_asking and asked._shown_s == 5000.0


def test_letters_fire_nothing_and_tag_nothing_in_the_practice_place(naming, qtbot):
    hidden, _ = naming
    press(hidden, Qt.Key.Key_Space)
    hidden.settle(qtbot)
    assert not [shot for shot in hidden.studio.snapshot.shots if shot.id > 2]
    assert hidden.studio.writer.submit(hidden.studio.writer.logbook.shots.count).result() == 2


def test_all_can_be_read_at_every_size(naming, qtbot):
    hidden, asked = naming
    window, page, practice = hidden.window, hidden.window.practice.page, hidden.studio.practice
    found = []

    def look(state: str) -> None:
        for size in SIZES:
            window.resize(*size)
            qtbot.wait(10)
            found.extend(f"{state} {size}: {fault}" for fault in faults(window, page))

    look("asked")
    asked.answer("double-umbrella")
    look("answered")
    window.practice.stop_round()
    look("to choose")
    practice.begin(Level.TREACHEROUS, "full-umbrella", hints=True)
    for shot in range(1, 13):
        practice.showed(Showed(shot, hidden.studio.composer.sequence, "opening-umbrella"))
    qtbot.wait(10)
    look("under way")
    practice.give_up()
    qtbot.waitUntil(lambda: practice.measured is not None, timeout=60_000)
    qtbot.wait(10)
    look("over")
    assert found == []
