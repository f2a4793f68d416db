"""The parts of a painted view, for ears: numbers that nobody sees, tabs to, or presses."""

from PySide6.QtCore import QPointF, Qt
from PySide6.QtWidgets import QLineEdit, QWidget

from ondine.ui.kit.number_field import MILLISECONDS
from ondine.ui.kit.stand_in import Part, StandIns


def test_parts_are_told_stepped_and_gone_again(qtbot):
    view = QWidget()
    qtbot.addWidget(view)
    view.resize(400, 300)
    view.show()
    before = view.grab().toImage()
    heard: list[tuple[str, object]] = []
    parts = StandIns(view)
    parts.changed.connect(lambda key, value: heard.append((key, value)))
    flash, drop = (
        Part(key, key.title(), MILLISECONDS, value, QPointF(40, 50)) for key, value in (("flash", 356_000), ("drop", 0))
    )
    parts.show_parts([flash, drop])
    assert view.grab().toImage() == before
    stand_in = parts.by_key["flash"]
    assert stand_in.accessibleName() == "Flash" and stand_in.value() == 356.0 and heard == []
    assert stand_in.focusPolicy() is Qt.FocusPolicy.NoFocus and view.childAt(40, 50) in (None, stand_in)
    assert not any(edit.isVisible() for edit in view.findChildren(QLineEdit))
    stand_in.stepBy(1)
    assert heard == [("flash", 357_000.0)]
    parts.show_parts([flash])
    assert stand_in.isVisible() and not parts.by_key["drop"].isVisible()
