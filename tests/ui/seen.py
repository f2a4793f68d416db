"""What an eye would miss in a window: text that is cut, text over text, parts that lie outside of what holds them."""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRect, QRectF, QSize, Qt
from PySide6.QtGui import QFontMetricsF, QPainter
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractScrollArea,
    QAbstractSpinBox,
    QComboBox,
    QLabel,
    QLineEdit,
    QListView,
    QScrollBar,
    QStyle,
    QStyleOptionComboBox,
    QWidget,
)

from ondine.ui.kit.stand_in import StandIn
from ondine.ui.kit.words import Words

SLACK_PX = 1.0
WRAPPED = int(Qt.TextFlag.TextWordWrap)
UNCLIPPED = int(Qt.TextFlag.TextDontClip)


@dataclass(frozen=True)
class Painted:
    """A text that was painted by hand: where its ink is, and the room that it was given, in the device's pixels."""

    text: str
    box: QRectF
    room: QRectF | None


@contextmanager
def recorded() -> Iterator[list[Painted]]:
    """Record every text that any painter of ours draws meanwhile."""
    found: list[Painted] = []
    real = QPainter.drawText

    def draw(painter: QPainter, *given: object) -> object:
        found.extend(_painted(painter, *given))
        return real(painter, *given)

    QPainter.drawText = draw  # type: ignore[method-assign]
    try:
        yield found
    finally:
        QPainter.drawText = real  # type: ignore[method-assign]


def _painted(painter: QPainter, *given: object) -> Iterator[Painted]:
    metrics, onto = QFontMetricsF(painter.font()), painter.transform()
    if isinstance(given[0], int | float):
        # The forms with bare numbers: a spot, or a room.
        spot = QPointF(*given[:2]) if len(given) == 3 else QRectF(*given[:4])  # type: ignore[arg-type]
        given = (spot, *given[2 if len(given) == 3 else 4 :])
    first = given[0]
    if isinstance(first, QPointF):
        text = str(given[1])
        if text.strip():
            box = metrics.tightBoundingRect(text).translated(first)
            yield Painted(text, onto.mapRect(box), None)
        return
    room = QRectF(first)  # type: ignore[arg-type]
    # Without flags it is one line from the upper left.
    flags, text = (given[1], str(given[2])) if len(given) > 2 else (0, str(given[1]))
    flags = flags if isinstance(flags, int) else flags.value  # type: ignore[attr-defined]
    if text.strip():
        box = metrics.boundingRect(room, flags, text)
        if box.height() < 1.5 * metrics.height():
            # One line: its ink alone counts, not the space that is left for accents.
            ink = metrics.tightBoundingRect(text)
            base = box.top() + metrics.ascent()
            box = QRectF(box.left(), base + ink.top(), box.width(), ink.height())
        yield Painted(text, onto.mapRect(box), onto.mapRect(room))


def faults(window: QWidget, view: QWidget) -> list[str]:
    """Return, in words, what is cut or covered in a view of a window; nothing if all can be read."""
    found = []
    for part in [view, *view.findChildren(QWidget)]:
        # A stand-in is for ears alone.
        if part.isVisible() and not isinstance(part, QScrollBar | StandIn):
            found += _cut_text(part)
            found += _outside(part, view)
            found += _painted_faults(part)
    found += _covered(view)
    return [f"{fault}" for fault in found]


def _name(part: QWidget) -> str:
    words = getattr(part, "text", lambda: "")()
    return f"{type(part).__name__} {part.accessibleName() or words!r}"


def _cut_text(part: QWidget) -> Iterator[str]:
    room, needs = part.size(), QSize()
    if isinstance(part, QLabel) and part.text():
        needs = QSize(_widest_word(part), part.heightForWidth(part.width())) if part.wordWrap() else part.sizeHint()
    elif isinstance(part, Words) and part.text():
        needs = part.needs()
    elif isinstance(part, QAbstractButton) and type(part).sizeHint is not QWidget.sizeHint and part.text():
        needs = part.sizeHint() if not hasattr(part, "shape") else QSize()
    elif isinstance(part, QComboBox) and not isinstance(part.parent(), QAbstractSpinBox):
        option = QStyleOptionComboBox()
        part.initStyleOption(option)
        field = part.style().subControlRect(
            QStyle.ComplexControl.CC_ComboBox, option, QStyle.SubControl.SC_ComboBoxEditField, part
        )
        room = QSize(field.width(), part.height())
        needs = QSize(part.fontMetrics().horizontalAdvance(part.currentText()), 0)
    elif isinstance(part, QAbstractSpinBox):
        edit = part.findChild(QLineEdit)
        room = QSize(edit.width(), part.height())
        needs = QSize(part.fontMetrics().horizontalAdvance(part.text()), part.fontMetrics().ascent() + 4)
    elif isinstance(part, QLineEdit) and not isinstance(part.parent(), QAbstractSpinBox):
        # What is typed may be longer than its field; the hint of what to type may not.
        needs = QSize(part.fontMetrics().horizontalAdvance(part.placeholderText()) + 24, part.fontMetrics().height())
    if needs.width() > room.width() + SLACK_PX or needs.height() > room.height() + SLACK_PX:
        yield f"{_name(part)} needs {needs.width()}×{needs.height()}, has {room.width()}×{room.height()}"


def _widest_word(label: QLabel) -> int:
    # Markup is no word.
    return max((label.fontMetrics().horizontalAdvance(word) for word in label.text().split()), default=0)


def _outside(part: QWidget, view: QWidget) -> Iterator[str]:
    """A part that stands outside of what holds it is cut, unless it can be scrolled to."""
    holder = part.parentWidget()
    if part is view or holder is None or part.isWindow() or part.width() == 0 or part.height() == 0:
        return
    if isinstance(holder.parentWidget(), QAbstractScrollArea) or isinstance(holder, QAbstractSpinBox | QComboBox):
        return
    if not holder.rect().adjusted(-1, -1, 1, 1).contains(part.geometry()):
        yield f"{_name(part)} stands at {_rect(part.geometry())} in {_name(holder)} of {holder.width()}×{holder.height()}"


def _rect(r: QRect) -> str:
    return f"{r.x()},{r.y()} {r.width()}×{r.height()}"


HAND_PAINTED = "paintEvent"


def _painted_faults(part: QWidget) -> Iterator[str]:
    if not part.__class__.__module__.startswith("ondine") or isinstance(part, QListView):
        # A list scrolls: what stands half outside comes into sight.
        return
    with recorded() as texts:
        part.grab()
    bounds = QRectF(part.rect()).adjusted(-SLACK_PX, -SLACK_PX, SLACK_PX, SLACK_PX)
    own = [t for t in texts if t.text.strip()]
    if part.findChildren(QWidget) and not isinstance(part, QAbstractScrollArea):
        # The children are drawn along, and asked for themselves.
        own = [] if any(child.isVisible() for child in part.findChildren(QWidget)) else own
    for painted in own:
        box = painted.box
        if not bounds.intersects(box):
            # Wholly outside, as a drop that is not in the frame yet: nobody sees half of it.
            continue
        if not bounds.contains(box):
            yield f"“{painted.text}” is painted at {_f(box)} in {_name(part)} of {part.width()}×{part.height()}"
        elif painted.room is not None and not painted.room.adjusted(-2, -3, 2, 3).contains(box):
            yield f"“{painted.text}” needs {_f(box)}, was given {_f(painted.room)} in {_name(part)}"
    for index, one in enumerate(own):
        for other in own[index + 1 :]:
            shared = one.box.adjusted(1, 2, -1, -2) & other.box.adjusted(1, 2, -1, -2)
            if shared.width() > 1 and shared.height() > 1 and one.text != other.text:
                yield f"“{one.text}” and “{other.text}” are painted over each other in {_name(part)}"


def _f(r: QRectF) -> str:
    return f"{r.x():.0f},{r.y():.0f} {r.width():.0f}×{r.height():.0f}"


CONTROLS = (QAbstractButton, QAbstractSpinBox, QComboBox, QLineEdit, QLabel, Words, QListView)


def _covered(view: QWidget) -> Iterator[str]:
    """Two things that are read or pressed, one over the other."""
    parts = [
        p for p in view.findChildren(QWidget)
        if isinstance(p, CONTROLS) and p.isVisible() and not isinstance(p.parent(), QAbstractSpinBox | QComboBox | QLineEdit)
    ]  # fmt: skip
    boxes = [(p, _in_sight(p, view)) for p in parts]
    for index, (one, here) in enumerate(boxes):
        for other, there in boxes[index + 1 :]:
            shared = here & there
            if (
                shared.width() > 2
                and shared.height() > 2
                and not one.isAncestorOf(other)
                and not other.isAncestorOf(one)
            ):
                yield f"{_name(one)} and {_name(other)} lie over each other"


def _in_sight(part: QWidget, view: QWidget) -> QRect:
    """Where a part is seen, as far as what holds it lets it through."""
    box = QRect(part.mapTo(view, part.rect().topLeft()), part.size())
    holder = part.parentWidget()
    while holder is not None and holder is not view:
        box &= QRect(holder.mapTo(view, holder.rect().topLeft()), holder.size())
        holder = holder.parentWidget()
    return box
