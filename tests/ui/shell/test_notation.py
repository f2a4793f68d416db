"""A sequence goes out by one key and comes back by another."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication

from ondine.core.timing.sequence import FlashPulse, Pulse, Sequence
from ondine.demo.scenario import START

CONTROL, BOTH = (
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier,
)
LINE = "ms, start to start: A 0 open 22, A 95 open 22; flash from the trigger: 1 at 356"


def clipboard() -> str:
    return QGuiApplication.clipboard().text()


def test_the_sequence_in_hand_is_copied_and_pasted_back(bench, qtbot):
    window, composer = bench.window, bench.studio.composer
    qtbot.keyClick(window, Qt.Key.Key_C, CONTROL)
    assert clipboard() == LINE and LINE in window.messages.text()
    composer.use_sequence(Sequence.with_one_flash((Pulse(0, 9_000),), 100_000))
    qtbot.keyClick(window, Qt.Key.Key_V, CONTROL)
    assert composer.sequence == START
    composer.undo()
    assert composer.sequence.drops == (Pulse(0, 9_000),)


def test_a_line_of_another_convention_is_taken_with_the_forecast_of_this_table(bench, qtbot):
    QGuiApplication.clipboard().setText(
        "us, start to start: A 0 open 22000, A 95000 open 22000; flash from the predicted meeting: 1 at 8600"
    )
    qtbot.keyClick(bench.window, Qt.Key.Key_V, CONTROL)
    (flash,) = bench.studio.composer.sequence.flashes
    assert abs(flash.at_us - START.first_flash_us) < 2_000 and isinstance(flash, FlashPulse)


def test_what_is_no_sequence_is_said_and_nothing_changes(bench, qtbot):
    for text in ("", "see you tomorrow", LINE.replace("95", "9５"), "ms" * 1_500_000):
        QGuiApplication.clipboard().setText(text)
        qtbot.keyClick(bench.window, Qt.Key.Key_V, CONTROL)
        assert "The clipboard holds no sequence" in bench.window.messages.text()
        assert bench.studio.composer.sequence == START


def test_the_shot_in_view_is_copied_and_a_field_keeps_its_own_copy(bench, qtbot):
    window = bench.window
    qtbot.keyClick(window, Qt.Key.Key_Space)
    bench.settle(qtbot)
    bench.studio.composer.use_sequence(Sequence.with_one_flash((Pulse(0, 9_000),), 100_000))
    qtbot.keyClick(window, Qt.Key.Key_C, BOTH)
    assert clipboard() == LINE
    field = window.bench.numbers.flash
    field.setFocus()
    field.selectAll()
    qtbot.keyClick(field, Qt.Key.Key_C, CONTROL)
    assert "100" in clipboard() and "open" not in clipboard()


def test_what_firing_would_refuse_is_said_at_once(bench, qtbot):
    """Of before: an opening of 24 s was taken without a word."""
    QGuiApplication.clipboard().setText(LINE.replace("A 95 open 22", "A 95 open 24000"))
    qtbot.keyClick(bench.window, Qt.Key.Key_V, CONTROL)
    assert "it cannot be fired so. Drop 2 opens for 24000 ms" in bench.window.messages.text()
    assert bench.studio.composer.sequence.drops[1].open_us == 24_000_000
