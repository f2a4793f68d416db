"""The coach on the bench page, driven as a photographer would: with keys alone, with the mouse, at bad moments."""

import threading
from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest

from ondine.bench.simulated.population import make_rig
from ondine.core.belief.priors import Belief
from ondine.core.coach.changes import Correction
from ondine.core.coach.goal import Goal
from ondine.core.timing.sequence import CameraTimes, Pulse
from ondine.studio.events import CoachSays
from ondine.ui.kit.tag_board import SHAPE_KEYS
from ondine.ui.kit.theme import DARKROOM

LETTERS = {shape.key: letter for letter, shape in SHAPE_KEYS.items()}
WAIT_MS = 30_000


class Heard:
    """What the coach has said so far."""

    def __init__(self, bench) -> None:
        self.said: list[CoachSays] = []
        bench.bridge.on(CoachSays, self.said.append)

    def next(self, qtbot, shots: int) -> CoachSays:
        qtbot.waitUntil(lambda: bool(self.said) and self.said[-1].shots == shots, timeout=WAIT_MS)
        return self.said[-1]


def at_rig(bench, seed: int):
    rig = make_rig(seed)
    bench.studio.composer.use_setup(rig.setup, Belief())
    bench.studio.composer.use_sequence(rig.start)
    return rig


def press(bench, key, modifier=Qt.KeyboardModifier.NoModifier) -> None:
    QTest.keyClick(bench.window.focusWidget() or bench.window, key, modifier)


def open_by_key(bench) -> None:
    press(bench, Qt.Key.Key_P, Qt.KeyboardModifier.ControlModifier)


def fire_and_tag(bench, qtbot, rig, shape: str | None = None) -> str:
    """Fire the proposal with one key, and press the letter of what the picture shows."""
    before = len(bench.controller.fired)
    press(bench, Qt.Key.Key_Return, Qt.KeyboardModifier.ShiftModifier)
    qtbot.waitUntil(lambda: len(bench.controller.fired) > before, timeout=WAIT_MS)
    bench.settle(qtbot)
    shown = shape or rig.fire(bench.controller.fired[-1])
    press(bench, getattr(Qt.Key, f"Key_{LETTERS[shown]}"))
    return shown


def test_a_search_by_keys_alone_finds_the_umbrella_in_a_handful_of_shots(bench, qtbot):
    rig, heard = at_rig(bench, 9), Heard(bench)
    open_by_key(bench)
    heard.next(qtbot, 0)
    for shot in range(1, 13):
        if fire_and_tag(bench, qtbot, rig) == "full-umbrella":
            break
        heard.next(qtbot, shot)
    assert shot <= 8
    assert bench.studio.composer.sequence == bench.controller.fired[-1]
    said = heard.next(qtbot, shot)
    assert "This is it" in said.last.says
    assert [step.name for step in said.steps] == ["touchdown", "crown", "jet top", "meeting", "hold"]


def test_bands_narrow_as_evidence_comes_and_shots_know_what_was_believed(bench, qtbot):
    rig, heard = at_rig(bench, 5), Heard(bench)
    open_by_key(bench)
    heard.next(qtbot, 0)
    spreads = [spread_of_touchdown(bench)]
    for shot in range(1, 5):
        fire_and_tag(bench, qtbot, rig)
        heard.next(qtbot, shot)
        qtbot.wait(50)
        spreads.append(spread_of_touchdown(bench))
    assert spreads[-1] < 0.4 * spreads[0]
    shots = bench.studio.writer.logbook.shots.tagged(bench.studio.bench.kind, 10)
    assert len(shots) == 4 and len({shot.belief_id for shot in shots}) == 4


def spread_of_touchdown(bench) -> float:
    return float(np.nanstd(bench.window._prediction.forecast.splashes.touchdown_s[0]))


def test_return_takes_the_proposal_and_fires_nothing(bench, qtbot):
    heard = Heard(bench)
    press(bench, Qt.Key.Key_Return)
    assert bench.studio.composer.undoes is None
    open_by_key(bench)
    best = heard.next(qtbot, 0).proposal.best
    qtbot.waitUntil(lambda: bench.window.bench.coach.use.isEnabled())
    press(bench, Qt.Key.Key_Return)
    assert bench.studio.composer.sequence == best.sequence
    assert not bench.controller.fired
    press(bench, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert bench.studio.composer.sequence != best.sequence
    assert bench.studio.composer.belief.learned is not None


def test_the_mouse_does_the_same_and_the_other_choices_say_what_they_are_for(bench, qtbot):
    heard, panel = Heard(bench), bench.window.bench.coach
    at_rig(bench, 4)
    qtbot.mouseClick(bench.window.bench.desk.line.coach, Qt.MouseButton.LeftButton)
    proposal = heard.next(qtbot, 0).proposal
    assert panel.isVisible() and not bench.window.bench.strip.isVisible()
    qtbot.waitUntil(lambda: panel.use.isEnabled())
    assert proposal.bolder is None or "Teaches most" in panel.bolder.toolTip()
    qtbot.mouseClick(panel.use, Qt.MouseButton.LeftButton)
    assert bench.studio.composer.sequence == proposal.best.sequence
    if proposal.safer is not None:
        qtbot.mouseClick(panel.safer, Qt.MouseButton.LeftButton)
        assert bench.studio.composer.sequence == proposal.safer.sequence
    qtbot.mouseClick(panel.use_and_fire, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: bool(bench.controller.fired), timeout=WAIT_MS)
    qtbot.mouseClick(bench.window.bench.desk.line.coach, Qt.MouseButton.LeftButton)
    assert not panel.isVisible() and bench.window.bench.strip.isVisible()


def test_another_goal_gets_another_proposal(bench, qtbot):
    heard, panel = Heard(bench), bench.window.bench.coach
    open_by_key(bench)
    heard.next(qtbot, 0)
    panel.goal.setCurrentIndex(panel.goal.findData("jet-top"))
    panel.goal.activated.emit(panel.goal.currentIndex())
    qtbot.waitUntil(lambda: heard.said[-1].proposal.goal == Goal("jet-top"), timeout=WAIT_MS)
    assert len(heard.said[-1].proposal.best.sequence.drops) == 1
    assert "jet top" in panel.may_show.text()


def test_a_tag_taken_back_is_unlearned(bench, qtbot):
    rig, heard = at_rig(bench, 5), Heard(bench)
    open_by_key(bench)
    first = heard.next(qtbot, 0)
    shown = fire_and_tag(bench, qtbot, rig)
    heard.next(qtbot, 1)
    press(bench, getattr(Qt.Key, f"Key_{LETTERS[shown]}"))
    again = heard.next(qtbot, 0)
    assert again.learned == first.learned and again.proposal.best == first.proposal.best


def test_a_contradiction_is_pointed_out(bench, qtbot):
    rig, heard = at_rig(bench, 5), Heard(bench)
    open_by_key(bench)
    heard.next(qtbot, 0)
    for shot in range(1, 9):
        fire_and_tag(bench, qtbot, rig, None)
        heard.next(qtbot, shot)
    fire_and_tag(bench, qtbot, rig, "in-flight")
    said = heard.next(qtbot, 9)
    assert "does not fit" in said.doubt and "in flight" in said.doubt
    qtbot.waitUntil(lambda: "does not fit" in bench.window.bench.coach.last.text())


def test_shots_of_another_bench_teach_nothing(practice, qtbot):
    heard = Heard(practice)
    open_by_key(practice)
    assert heard.next(qtbot, 0).shots == 0
    assert "No shot of this bench" in practice.window.bench.coach.last.text()


def test_a_new_height_is_thought_about_at_once(bench, qtbot):
    heard = Heard(bench)
    open_by_key(bench)
    first = heard.next(qtbot, 0)
    setup = bench.studio.composer.setup
    valve = replace(setup.valves[0], nozzle_height_m=setup.valves[0].nozzle_height_m + 0.15)
    bench.studio.composer.use_setup(replace(setup, valves=(valve,)))
    qtbot.waitUntil(lambda: heard.said[-1].proposal.best.sequence != first.proposal.best.sequence, timeout=WAIT_MS)
    later = heard.said[-1].proposal.best.sequence.first_flash_us - first.proposal.best.sequence.first_flash_us
    assert later > 20_000


def test_the_coach_is_as_it_was_left_and_its_thread_ends_with_the_window(bench, qtbot):
    heard = Heard(bench)
    open_by_key(bench)
    heard.next(qtbot, 0)
    assert any(thread.name == "coach" for thread in threading.enumerate())
    bench.studio.log.wait()
    assert bench.studio.writer.logbook.state.get("coach") == "yes"
    bench.studio.coach.ask()
    bench.window.close()
    assert not any(thread.name == "coach" for thread in threading.enumerate())


@pytest.mark.parametrize("height", [632, 800, 1080])
def test_the_panel_covers_nothing_at_any_size(bench, qtbot, height):
    heard, page = Heard(bench), bench.window.bench
    bench.window.resize(1180, height)
    open_by_key(bench)
    heard.next(qtbot, 0)
    qtbot.wait(50)
    top, bottom = page.coach.geometry().top(), page.coach.geometry().bottom()
    assert page.numbers.geometry().bottom() < top and bottom < page.board.geometry().top()
    assert page.chart.geometry().bottom() <= page.desk.line.geometry().top() + 1
    for part in (page.coach.use, page.coach.use_and_fire):
        assert part.isVisible() and part.geometry().bottom() <= page.coach.height()


def test_what_was_learned_is_taken_into_the_set_up_by_one_press_and_nothing_is_forgotten(bench, qtbot):
    rig, heard = at_rig(bench, 5), Heard(bench)
    press(bench, Qt.Key.Key_P, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    drawer, page = bench.window.navigation.learned, bench.window.bench.learned
    assert drawer.isVisible() and "Nothing yet" in page.words()
    heard.next(qtbot, 0)
    press(bench, Qt.Key.Key_Escape)
    for shot in range(1, 6):
        fire_and_tag(bench, qtbot, rig)
        heard.next(qtbot, shot)
    qtbot.waitUntil(lambda: "Drop 1 lands" in page.words())
    assert "Learned from 5 tagged shots" in page.words()
    height = bench.studio.composer.setup.valves[0].nozzle_height_m
    right = Correction("valves.0.nozzle_height_m", height, round(height + 0.004, 3))
    count = len(heard.said)
    page.corrected.emit(right)
    assert bench.studio.composer.setup.valves[0].nozzle_height_m == right.after
    qtbot.waitUntil(lambda: len(heard.said) > count, timeout=WAIT_MS)
    assert not heard.said[-1].changes
    bench.studio.log.wait()
    assert "nozzle_height_m" in bench.studio.writer.logbook.state.get("corrections")


def test_the_map_opens_by_key_and_a_place_on_it_is_taken_by_keys_or_mouse(bench, qtbot):
    at_rig(bench, 4)
    heard = Heard(bench)
    press(bench, Qt.Key.Key_M, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    page = bench.window.bench.map
    qtbot.waitUntil(lambda: page.view.map is not None, timeout=WAIT_MS)
    assert bench.window.navigation.map.isVisible() and page.view.hasFocus()
    assert page.view.map.shots == ()
    column, row = page.view.at
    press(bench, Qt.Key.Key_Left)
    press(bench, Qt.Key.Key_Up)
    assert page.view.at == (max(column - 1, 0), min(row + 1, 32))
    wanted = page.view.sequence()
    assert "%" in page.words.text() and "flash" in page.words.text()
    press(bench, Qt.Key.Key_Return)
    assert bench.studio.composer.sequence == wanted
    field = page.view._field().center().toPoint()
    qtbot.mouseClick(page.view, Qt.MouseButton.LeftButton, pos=field)
    assert bench.studio.composer.sequence == page.view.sequence() and page.view.at == (16, 16)
    # Two other timings.
    count = len(heard.said)
    page.across.setCurrentIndex(2)
    page.across.activated.emit(2)
    qtbot.waitUntil(lambda: len(heard.said) > count and heard.said[-1].map.x.kind == "open", timeout=WAIT_MS)
    press(bench, Qt.Key.Key_Escape)
    assert not bench.window.navigation.map.isVisible()
    # What nobody sees is drawn no more, once the coach has spoken again.
    count = len(heard.said)
    bench.studio.coach.ask()
    qtbot.waitUntil(lambda: len(heard.said) > count and not bench.studio.coach.maps, timeout=WAIT_MS)


def tag_newest(bench, qtbot, rig, count: int) -> str:
    """Wait for a shot that was fired by itself, and press the letter of its picture."""
    qtbot.waitUntil(lambda: len(bench.controller.fired) == count, timeout=WAIT_MS)
    bench.settle(qtbot)
    shown = rig.fire(bench.controller.fired[-1])
    press(bench, getattr(Qt.Key, f"Key_{LETTERS[shown]}"))
    return shown


def start_auto(bench) -> None:
    press(bench, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)


def test_a_search_fires_by_itself_once_the_last_picture_is_tagged_and_ends_when_it_is_found(bench, qtbot):
    rig = at_rig(bench, 9)
    start_auto(bench)
    for count in range(1, 13):
        if tag_newest(bench, qtbot, rig, count) == "full-umbrella":
            break
    qtbot.waitUntil(lambda: not bench.window.bench.coach.auto.isChecked(), timeout=WAIT_MS)
    assert count <= 8 and "Found after" in bench.window.messages.text()
    qtbot.wait(600)
    assert len(bench.controller.fired) == count


def test_it_waits_for_the_tag_and_escape_stops_it(bench, qtbot):
    rig = at_rig(bench, 4)
    start_auto(bench)
    qtbot.waitUntil(lambda: len(bench.controller.fired) == 1, timeout=WAIT_MS)
    qtbot.wait(700)
    assert len(bench.controller.fired) == 1
    press(bench, Qt.Key.Key_Escape)
    assert not bench.window.bench.coach.auto.isChecked()
    tag_newest(bench, qtbot, rig, 1)
    qtbot.wait(900)
    assert len(bench.controller.fired) == 1


def test_a_refusal_stops_it_and_says_why(bench, qtbot):
    at_rig(bench, 4)
    setup = bench.studio.composer.setup
    valve = replace(setup.valves[0], max_open_us=2_000)
    bench.studio.composer.use_setup(replace(setup, valves=(valve,)))
    start_auto(bench)
    qtbot.waitUntil(lambda: not bench.window.bench.coach.auto.isChecked(), timeout=WAIT_MS)
    assert not bench.controller.fired


def wish_beside_the_map(bench, qtbot, seed: int):
    """Open the map of a coach that has spoken; return its ears and the wish beside it."""
    heard = Heard(bench)
    at_rig(bench, seed)
    open_by_key(bench)
    heard.next(qtbot, 0)
    press(bench, Qt.Key.Key_M, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    qtbot.waitUntil(lambda: bench.window.navigation.map.isVisible())
    return heard, bench.window.bench.map.wish


def test_what_the_table_cannot_show_is_said_and_nothing_else_fires_by_itself(bench, qtbot):
    wish = wish_beside_the_map(bench, qtbot, 4)[1]
    wish.height_line.setText("5 m")
    wish.height_line.editingFinished.emit()
    why = bench.window.bench.coach.why
    cannot = "This table cannot: full umbrella at 5 m. Nearest that it can: at "
    qtbot.waitUntil(lambda: why.text().startswith(cannot), timeout=WAIT_MS)
    press(bench, Qt.Key.Key_Escape)
    start_auto(bench)
    qtbot.waitUntil(lambda: not bench.window.bench.coach.auto.isChecked(), timeout=WAIT_MS)
    assert bench.window.messages.text().startswith("This table cannot") and not bench.controller.fired
    # A hand that takes it over fires it.
    press(bench, Qt.Key.Key_Return, Qt.KeyboardModifier.ShiftModifier)
    qtbot.waitUntil(lambda: len(bench.controller.fired) == 1, timeout=WAIT_MS)


def test_a_hand_is_not_fired_by_the_coach(by_hand, qtbot):
    start_auto(by_hand)
    assert not by_hand.window.bench.coach.auto.isChecked() and "a hand does" in by_hand.window.messages.text()


def test_the_first_shot_of_a_sitting_is_not_fired_by_the_coach(bench, qtbot):
    bench.studio.sitting.preflight_done = False
    bench.window.coach.toggle_auto()
    assert bench.window.navigation.before.isVisible() and not bench.window.bench.coach.auto.isChecked()


def test_a_spoilt_picture_teaches_nothing_but_the_search_goes_on(bench, qtbot):
    at_rig(bench, 4)
    start_auto(bench)
    qtbot.waitUntil(lambda: len(bench.controller.fired) == 1, timeout=WAIT_MS)
    bench.settle(qtbot)
    press(bench, getattr(Qt.Key, f"Key_{LETTERS['blurred']}"))
    qtbot.waitUntil(lambda: len(bench.controller.fired) == 2, timeout=WAIT_MS)
    press(bench, Qt.Key.Key_Escape)


def test_a_sequence_that_lets_no_drop_fall_silences_the_coach_until_it_is_mended(bench, qtbot):
    heard, panel = Heard(bench), bench.window.bench.coach
    open_by_key(bench)
    heard.next(qtbot, 0)
    sequence = bench.studio.composer.sequence
    bench.studio.composer.use_sequence(
        replace(sequence, drops=tuple(replace(p, open_us=1_000) for p in sequence.drops))
    )
    qtbot.waitUntil(lambda: "open the valve longer" in panel.why.text(), timeout=WAIT_MS)
    assert not panel.use.isEnabled()
    before = bench.studio.composer.sequence
    press(bench, Qt.Key.Key_Return)
    assert bench.studio.composer.sequence == before
    bench.studio.composer.use_sequence(sequence)
    qtbot.waitUntil(lambda: panel.use.isEnabled(), timeout=WAIT_MS)


def test_in_the_dark_room_the_map_is_dark_and_red_alone(bench, qtbot):
    at_rig(bench, 4)
    bench.window.coach.show_map()
    qtbot.waitUntil(lambda: bench.window.bench.map.view.map is not None, timeout=WAIT_MS)
    bench.window.set_theme(DARKROOM)
    qtbot.wait(50)
    image = bench.window.grab().toImage().convertToFormat(QImage.Format.Format_RGB888)
    pixels = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine())
    rgb = pixels[:, : 3 * image.width()].reshape(image.height(), image.width(), 3)
    assert rgb[..., 1:].max() == 0
    # WCAG's relative luminance of pure red; the whole window under 2 % of white.
    linear = np.where(rgb[..., 0] <= 10, rgb[..., 0] / 255 / 12.92, ((rgb[..., 0] / 255 + 0.055) / 1.055) ** 2.4)
    assert 0.2126 * linear.mean() < 0.02


def test_a_height_is_wanted_beside_the_map_and_odd_ones_are_said(bench, qtbot):
    heard, wish = wish_beside_the_map(bench, qtbot, 9)
    for text, height_m in (("18 mm", 0.018), ("2,4 cm", 0.024), ("", None)):
        wish.height_line.setText(text)
        wish.height_line.editingFinished.emit()
        qtbot.waitUntil(lambda: heard.said[-1].proposal.goal.height_m == wish.height_m, timeout=WAIT_MS)
        assert wish.height_m == (None if height_m is None else pytest.approx(height_m))
        assert not wish.trouble.isVisible()
    for text in ("high", "-3 mm", "12 parsec", "0"):
        wish.height_line.setText(text)
        wish.height_line.editingFinished.emit()
        assert wish.trouble.isVisible() and "Write it like 18 mm" in wish.trouble.text() and wish.height_m is None


def test_sizes_are_kept_where_that_is_wanted(bench, qtbot):
    heard = Heard(bench)
    at_rig(bench, 9)
    small = bench.studio.composer.sequence
    small = replace(small, drops=tuple(replace(drop, open_us=20_000) for drop in small.drops))
    bench.studio.composer.use_sequence(small)
    open_by_key(bench)
    qtbot.waitUntil(lambda: bool(heard.said) and heard.said[-1].proposal.begin == small, timeout=WAIT_MS)
    panel = bench.window.bench.coach
    assert panel.what.text().startswith("Next: drops 32 ms") and "Large drops" in panel.why.text()
    bench.window.bench.map.wish.keep.click()
    qtbot.waitUntil(lambda: heard.said[-1].proposal.goal.keeps_sizes, timeout=WAIT_MS)
    assert {drop.open_us for drop in heard.said[-1].proposal.best.sequence.drops} == {20_000}


def test_the_map_opens_under_a_cursor_on_the_chart_and_at_the_edge_otherwise(bench, qtbot):
    navigation, chart = bench.window.navigation, bench.window.bench.chart
    open_by_key(bench)
    for place in (chart.rect().center(), chart.rect().topLeft(), chart.rect().bottomRight()):
        at = chart.mapToGlobal(place)
        navigation.toggle(navigation.map, near=at)
        assert navigation.map.geometry().contains(bench.window.mapFromGlobal(at))
        assert bench.window.rect().contains(navigation.map.geometry())
        navigation.toggle(navigation.map)
    navigation.toggle(navigation.map, near=bench.window.bench.fire.mapToGlobal(chart.rect().topLeft()))
    assert navigation.map.geometry() == navigation._drawer_area()


@pytest.mark.parametrize(("shape", "note"), [("rising-jet", "height 9 mm"), ("full-umbrella", "width 30 mm")])
def test_what_a_note_measures_teaches(bench, qtbot, shape, note):
    rig, heard = at_rig(bench, 9), Heard(bench)
    open_by_key(bench)
    heard.next(qtbot, 0)
    fire_and_tag(bench, qtbot, rig, shape)
    before = heard.next(qtbot, 1)
    number = bench.studio.writer.submit(lambda: bench.studio.writer.logbook.shots.newest(1000)[0].id).result()
    bench.studio.log.annotate(number, note)
    qtbot.waitUntil(lambda: heard.said[-1] is not before and heard.said[-1].learned != before.learned, timeout=WAIT_MS)


def test_the_map_follows_hands_and_takes_nothing_back_that_it_does_not_show(bench, qtbot):
    rig, composer = at_rig(bench, 4), bench.studio.composer
    heard = Heard(bench)
    press(bench, Qt.Key.Key_M, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    view = bench.window.bench.map.view
    qtbot.waitUntil(lambda: view.map is not None, timeout=WAIT_MS)
    seen, before = len(heard.said), view.grab().toImage()
    # The two timings that it has: the mark moves, and nothing is thought anew.
    composer.use_sequence(rig.start.with_flash(0, rig.start.first_flash_us + 9_000))
    assert view.grab().toImage() != before
    # A shutter that was set meanwhile stays when a place on the map is taken.
    composer.use_sequence(replace(composer.sequence, camera=CameraTimes(opens_us=120_000)))
    bench.settle(qtbot)
    assert len(heard.said) == seen
    press(bench, Qt.Key.Key_Return)
    assert composer.sequence == view.sequence() and composer.sequence.camera.opens_us == 120_000
    # Another timing: it is drawn anew around that one.
    third = replace(composer.sequence, drops=(*composer.sequence.drops, Pulse(400_000, 22_000)))
    composer.use_sequence(third)
    qtbot.waitUntil(lambda: view.map.sequence.drops == third.drops, timeout=WAIT_MS)
    moved = replace(third, drops=(third.drops[0], replace(third.drops[1], start_us=130_000), third.drops[2]))
    composer.use_sequence(moved)
    qtbot.waitUntil(lambda: view.map.sequence.drops == moved.drops, timeout=WAIT_MS)
    assert view.sequence().drops[1] == moved.drops[1]
