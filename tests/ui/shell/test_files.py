"""Files that somebody opens: a friend's recipe reaches the bench, whatever lies about it."""

import json
from dataclasses import replace

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog

from ondine.core.forecast.plan import Plan
from ondine.core.setup import BenchKind
from ondine.demo.scenario import START, TIDAL_MILL
from ondine.logbook.recipe import read_recipe_file, write_recipe
from ondine.logbook.setup_file import write_setup
from ondine.logbook.store import Logbook
from tests.calibrated import IN_HAND, TAUGHT
from tests.ui.hands import PRESS

CTRL = Qt.KeyboardModifier.ControlModifier
FRIENDS = replace(TIDAL_MILL, name="Friend's", valves=(replace(TIDAL_MILL.valves[0], nozzle_height_m=0.5),))


def taken(bench, qtbot, path) -> None:
    bench.studio.exchange.read(path)
    bench.studio.exchange.wait()
    bench.settle(qtbot)


def asked(window) -> QFileDialog:
    (dialog,) = window.findChildren(QFileDialog)
    return dialog


def test_a_friends_recipe_is_fired_on_ones_own_table(by_hand, qtbot, tmp_path):
    bench, path = by_hand, tmp_path / "friend.json"
    path.write_text(write_recipe(Plan(START.with_flash(0, 371_000), FRIENDS, TAUGHT), "High one"))
    bench.window.navigation.toggle_log()
    taken(bench, qtbot, path)
    window = bench.window
    assert window.pages.currentWidget() is window.bench and window.bench.numbers.flash.value() == 371.0
    # The table stays what it is: that is the one which will be fired.
    assert bench.studio.composer.setup == TIDAL_MILL
    assert (
        "High one" in window.messages.text() and "nozzle over the water 500 mm, yours 365 mm" in window.messages.text()
    )
    window.bench_actions.fire()
    bench.settle(qtbot)
    assert window.in_view.shot.sequence.first_flash_us == 371_000
    QTest.mouseClick(window.messages.use, PRESS)
    assert bench.studio.composer.setup == FRIENDS and not window.messages.isVisible()
    bench.studio.composer.undo()
    bench.studio.composer.undo()
    assert bench.studio.composer.sequence == IN_HAND.sequence


def test_a_table_that_differs_in_its_light_alone_is_offered_too(by_hand, qtbot, tmp_path):
    path = tmp_path / "friend.json"
    lit = replace(TIDAL_MILL, light=replace(TIDAL_MILL.light, background_m=0.9, max_iso=3200, blur_target_px=1.0))
    lit = replace(lit, bowl=replace(lit.bowl, depth_m=0.06))
    path.write_text(write_recipe(Plan(START, lit, TAUGHT), "Bright one"))
    taken(by_hand, qtbot, path)
    assert "depth of the bowl 60 mm, yours 45 mm" in by_hand.window.messages.text()
    assert "and 1 more" in by_hand.window.messages.text() and by_hand.window.messages.use.isVisible()
    # One that is the same is not offered.
    path.write_text(write_recipe(Plan(START, replace(TIDAL_MILL, name="Theirs"), TAUGHT), "Same one"))
    taken(by_hand, qtbot, path)
    assert "Same one" in by_hand.window.messages.text() and not by_hand.window.messages.use.isVisible()


def test_a_recipe_of_the_simulated_bench_says_so_at_a_real_table(by_hand, qtbot, tmp_path):
    recipe, setup = tmp_path / "r.json", tmp_path / "s.json"
    recipe.write_text(write_recipe(Plan(START, FRIENDS, TAUGHT), "High one", BenchKind.SIMULATED))
    write_setup(FRIENDS, TAUGHT, setup, BenchKind.SIMULATED)
    for path in (recipe, setup):
        taken(by_hand, qtbot, path)
        assert "simulated bench" in by_hand.window.messages.text()


def test_a_set_up_that_is_opened_is_in_hand_and_keeps_whose_hand_turns_the_dials(by_hand, qtbot, tmp_path):
    path = tmp_path / "s.json"
    write_setup(replace(FRIENDS, box=replace(FRIENDS.box, in_use=True)), TAUGHT, path)
    taken(by_hand, qtbot, path)
    assert by_hand.studio.composer.setup == FRIENDS
    assert "Friend's" in by_hand.window.messages.text()


@pytest.mark.parametrize(
    ("content", "says"),
    [
        ("95 ms", "no logbook, recipe or set-up"),
        (json.dumps({"format": "ondine-recipe", "version": 2, "sequence": {
            "drops": [{"start_us": 60_000 * n, "open_us": 20_000} for n in range(9)], "flash_us": 900_000}}),
         "sequence.drops"),
    ],
)  # fmt: skip
def test_what_cannot_be_used_is_said_and_changes_nothing(bench, qtbot, tmp_path, content, says):
    path = tmp_path / "x.json"
    path.write_text(content)
    taken(bench, qtbot, path)
    assert says in bench.window.messages.text() and bench.studio.composer.plan.sequence == IN_HAND.sequence


def test_a_logbook_that_is_opened_asks_for_its_window(bench, qtbot, tmp_path):
    path = tmp_path / "other.ondine"
    Logbook.open(path).close()
    with qtbot.waitSignal(bench.window.wants_logbook) as wanted:
        bench.studio.exchange.read(path)
    assert wanted.args == [path]


def test_ctrl_o_asks_for_a_file_and_the_window_goes_on(bench, qtbot, tmp_path):
    path = tmp_path / "friend.json"
    path.write_text(write_recipe(Plan(START.with_flash(0, 371_000), TIDAL_MILL, TAUGHT), "High one"))
    qtbot.keyClick(bench.window, Qt.Key.Key_O, CTRL)
    dialog = asked(bench.window)
    dialog.fileSelected.emit(str(path))
    dialog.close()
    bench.studio.exchange.wait()
    bench.settle(qtbot)
    assert bench.studio.composer.sequence.first_flash_us == 371_000


def test_ctrl_s_writes_a_recipe_that_reads_the_same(practice, qtbot, tmp_path):
    path = tmp_path / "mine.json"
    qtbot.keyClick(practice.window, Qt.Key.Key_S, CTRL)
    dialog = asked(practice.window)
    assert dialog.acceptMode() is QFileDialog.AcceptMode.AcceptSave
    dialog.fileSelected.emit(str(path))
    dialog.close()
    practice.studio.exchange.wait()
    practice.settle(qtbot)
    recipe = read_recipe_file(path)
    assert recipe.plan == practice.studio.composer.plan and recipe.bench is BenchKind.SIMULATED
    assert str(path) in practice.window.messages.text()
    # A place that is none is said.
    practice.studio.exchange.write_recipe(practice.studio.composer.plan, tmp_path / "no" / "where.json")
    practice.studio.exchange.wait()
    practice.settle(qtbot)
    assert "cannot be written" in practice.window.messages.text()


def test_ctrl_i_asks_for_the_folder_of_pictures(bench, qtbot, tmp_path):
    (tmp_path / "card").mkdir()
    qtbot.keyClick(bench.window, Qt.Key.Key_I, CTRL)
    dialog = asked(bench.window)
    dialog.fileSelected.emit(str(tmp_path / "card"))
    dialog.close()
    bench.settle(qtbot)
    assert "card" in bench.window.header.bench.text()
