import numpy as np
import pytest
from PySide6.QtCore import QRect, Qt
from PySide6.QtWidgets import QAbstractButton, QAbstractSpinBox, QComboBox, QLabel, QLineEdit, QScrollArea, QWidget

from ondine.ui.kit.theme import DARKROOM, DAY
from ondine.ui.table.stages import STAGES
from tests.ui.hands import grabbed, opened


@pytest.mark.parametrize("theme", [DAY, DARKROOM])
@pytest.mark.parametrize("size", [(1280, 800), (1920, 1080), (1200, 720)])
def test_no_stage_clips_or_hides_anything(bench, qtbot, size, theme):
    window = bench.window
    window.set_theme(theme)
    window.resize(*size)
    for stage in STAGES:
        opened(bench, stage.key)
        panel = window.side.page.stages[stage.key].panel
        area = panel.parent().parent()
        assert isinstance(area, QScrollArea)
        assert panel.minimumSizeHint().width() <= area.viewport().width(), stage.key
        if size[1] >= 800:
            assert not area.verticalScrollBar().isVisible(), stage.key
        for label in window.side.page.findChildren(QLabel):
            if label.isVisible() and label.text():
                flags = int(Qt.TextFlag.TextWordWrap) if label.wordWrap() else 0
                room = QRect(0, 0, label.width() if label.wordWrap() else 4000, 4000)
                needed = label.fontMetrics().boundingRect(room, flags, label.text())
                assert needed.height() <= label.height() + 1, f"{stage.key}: {label.text()!r} is cut"
                assert needed.width() <= label.width() + 1, f"{stage.key}: {label.text()!r} is cut"
        for button in window.side.page.findChildren(QAbstractButton):
            if button.isVisible() and button.text():
                assert min(button.width(), button.height()) >= 24, button.text()
                assert button.fontMetrics().horizontalAdvance(button.text()) <= button.width(), button.text()
                assert button.accessibleName() or button.text()


KEYS = [stage.key for stage in STAGES]


@pytest.mark.parametrize("key", KEYS)
def test_no_stage_is_a_lamp_in_the_dark_room(bench, qtbot, key):
    bench.window.set_theme(DARKROOM)
    opened(bench, key)
    qtbot.wait(20)
    pixels = grabbed(bench.window)
    linear = np.where(pixels <= 0.04045, pixels / 12.92, ((pixels + 0.055) / 1.055) ** 2.4)
    # The caret of a field that is being typed in is Qt's own.
    assert np.percentile(pixels[..., 1:].max(axis=2), 99.9) < 0.02
    assert (linear @ [0.2126, 0.7152, 0.0722]).mean() < 0.02


@pytest.mark.parametrize("key", KEYS)
def test_every_control_of_a_stage_has_a_name_and_is_reached_by_tab(bench, key):
    stage = opened(bench, key)
    kinds = QAbstractButton | QAbstractSpinBox | QLineEdit | QComboBox
    controls = [
        w
        for w in stage.panel.findChildren(QWidget)
        if isinstance(w, kinds)
        and w.isVisible()
        and w.isEnabled()
        and not isinstance(w.parent(), QAbstractSpinBox | QComboBox)
    ]
    assert controls or key == "safe"
    for control in controls:
        named = control.accessibleName() or (control.text() if isinstance(control, QAbstractButton) else "")
        assert named, (key, control)
    if not controls:
        return
    controls[0].setFocus()
    reached = {controls[0]}
    for _ in range(150):
        bench.window.focusNextChild()
        reached.add(bench.window.focusWidget())
    assert set(controls) <= reached, [c.accessibleName() for c in controls if c not in reached]


@pytest.mark.parametrize("theme", [DAY, DARKROOM])
def test_focus_is_seen_on_the_marks_and_on_every_kind_of_field(bench, qtbot, theme):
    bench.window.set_theme(theme)
    stage = opened(bench, "rig")
    form = stage.flashes.form
    shown = [
        bench.window.side.edge.marks["valve"],
        bench.window.side.page.drawing,
        stage.form.fields["bowl.depth_m"],
        form.fields["light.units.0.place"],
        form.fields["light.units.0.guard"],
        stage.flashes.add,
    ]
    for control in shown:
        bench.window.header.log.setFocus()
        qtbot.wait(5)
        before = grabbed(control)
        control.setFocus()
        qtbot.wait(5)
        assert np.abs(grabbed(control) - before).max() > 0.1, control
