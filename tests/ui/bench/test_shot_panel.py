"""The shot in view: its note, its picture, and whether that is its own."""

from dataclasses import replace

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from ondine.logbook.records import ShotState
from ondine.ui.kit import shot_list


def test_a_note_that_is_being_typed_stays_with_its_shot_when_the_next_one_fires(bench, qtbot):
    note = bench.window.bench.shot.note
    bench.window.shots.edit_note()
    note.selectAll()
    QTest.keyClicks(note, "of the old one")
    old = bench.window.in_view.shot
    bench.studio.bench.fire(bench.studio.composer.plan)
    bench.settle(qtbot)
    assert bench.window.in_view.shot.id == old.id + 1 and note.text() == ""
    QTest.keyClicks(note, "of the new one")
    QTest.keyClick(note, Qt.Key.Key_Return)
    bench.settle(qtbot)
    notes = {s.id: s.note for s in bench.studio.writer.logbook.shots.newest(1000)}
    assert notes[old.id] == "of the old one" and notes[old.id + 1] == "of the new one"


def test_a_picture_in_question_is_asked_for_and_answered_by_key_and_by_mouse(bench, qtbot):
    window, page = bench.window, bench.window.bench
    shot = window.in_view.shot
    asked: list[tuple[int, bool]] = []
    bench.studio.log.answer_picture = lambda *answer: asked.append(answer)
    page.show_shot(replace(shot, picture_sure=False))
    assert page.shot.question.isVisible() and not page.shot.note.isVisible()
    window.in_view.shot = replace(shot, picture_sure=False)
    QTest.mouseClick(page.shot.question.no, Qt.MouseButton.LeftButton)
    QTest.keyClick(window, Qt.Key.Key_Y, Qt.KeyboardModifier.AltModifier)
    assert asked == [(shot.id, False), (shot.id, True)]
    page.show_shot(shot)
    assert not page.shot.question.isVisible() and page.shot.note.isVisible()


def test_a_picture_that_does_not_come_is_not_waited_for_for_ever(bench):
    shot = replace(bench.window.in_view.shot, picture=None)
    soon, late = shot.at + shot_list.ARRIVES_WITHIN / 2, shot.at + shot_list.ARRIVES_WITHIN * 2
    assert "comes in a moment" in shot_list.no_picture_words(shot, soon)
    assert "No picture of this shot has come" in shot_list.no_picture_words(shot, late)
    assert "did not fire" in shot_list.no_picture_words(replace(shot, state=ShotState.FAILED), soon)
