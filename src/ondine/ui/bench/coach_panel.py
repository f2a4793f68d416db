"""The coach's one place on the bench: what to fire next, why, how likely, and how the last picture lay."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QComboBox, QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from ondine.core.coach.goal import HELD, SEARCHED, Goal
from ondine.core.forecast.shapes import BY_KEY
from ondine.core.numbers import plus_minus_ms
from ondine.studio.events import CoachSays
from ondine.ui.kit.theme import BODY_PX, GRID_PX, SMALL_PX, font
from ondine.ui.kit.words import Words

if TYPE_CHECKING:
    # Nobody needs the coach for the first frame.
    from ondine.core.coach.progress import Step

MAP = "map everything"
NO_SHOT = "No shot of this bench is tagged yet. Fire the proposal, then press the letter of what the picture shows."
BUTTON_PX, SPACE_PX = 34, 4
WHOLE_PX, COMPACT_PX = 3 * BUTTON_PX + 2 * SPACE_PX, 56


class CoachPanel(QWidget):
    """Shows what `CoachSays` says. Emits `taken(sequence, whether to fire it)` and `goal_chosen(goal)`."""

    taken = Signal(object, bool)
    goal_chosen = Signal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.says: CoachSays | None = None
        self.height_m: float | None = None
        self.keeps_sizes = False
        self.is_silent = False
        self.what = Words(BODY_PX, bold=True, role="ink")
        self.why, self.may_show, self.last = Words(SMALL_PX), Words(SMALL_PX), Words(SMALL_PX, lines=2, role="ink")
        self.phases = Words(SMALL_PX)
        self.goal = QComboBox()
        self.use, self.use_and_fire = QPushButton("Use  Return"), QPushButton("Fire it  Shift Return")
        self.safer, self.bolder, self.learned = QPushButton("Safer"), QPushButton("Bolder"), QPushButton("Learned")
        self.auto = QPushButton("Auto")
        self.auto.setCheckable(True)
        self.auto.setToolTip("Fire each proposal as soon as the last picture is tagged; Esc stops  Ctrl Shift A")
        self.map = QPushButton("Map")
        self.map.setToolTip("How likely it is over two timings, with the shots fired  Ctrl Shift M")
        self.learned.setToolTip("What was learned of the rig, and why  Ctrl Shift P")
        # What makes room in a low window; keys do the same.
        self._folding = (self.goal, self.auto, self.safer, self.bolder, self.map, self.learned)
        self._lay_out()
        self.goal.activated.connect(self._choose_goal)
        self.use.clicked.connect(lambda: self.take(fire=False))
        self.use_and_fire.clicked.connect(lambda: self.take(fire=True))
        self.safer.clicked.connect(lambda: self._take_other("safer"))
        self.bolder.clicked.connect(lambda: self._take_other("bolder"))
        self.show_busy(False)
        self.setAccessibleName("Coach")
        self.hide()

    def _lay_out(self) -> None:
        for key in SEARCHED:
            self.goal.addItem(f"Goal: {BY_KEY[key].name}", key)
        self.goal.addItem(f"Goal: {MAP}", None)
        self.goal.setCurrentIndex(self.goal.findData(Goal().shape))
        self.goal.setAccessibleName("What the coach searches for")
        words = QVBoxLayout()
        words.setSpacing(0)
        for line in (self.what, self.why, self.may_show, self.last, self.phases):
            words.addWidget(line)
        words.addStretch(1)
        buttons = QGridLayout()
        buttons.setSpacing(SPACE_PX)
        buttons.addWidget(self.goal, 0, 0, 1, 3)
        buttons.addWidget(self.auto, 0, 3)
        buttons.addWidget(self.use, 1, 0, 1, 2)
        buttons.addWidget(self.use_and_fire, 1, 2, 1, 2)
        buttons.addWidget(self.safer, 2, 0)
        buttons.addWidget(self.bolder, 2, 1)
        buttons.addWidget(self.map, 2, 2)
        buttons.addWidget(self.learned, 2, 3)
        buttons.setRowStretch(3, 1)
        for control in (self.use, self.use_and_fire, *self._folding):
            control.setFont(font(SMALL_PX))
            control.setFixedHeight(BUTTON_PX)
            # A press leaves the focus where it was: the next Space fires.
            control.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            if isinstance(control, QPushButton):
                control.setObjectName("edged")
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(2 * GRID_PX)
        row.addLayout(words, 1)
        row.addLayout(buttons)

    def set_compact(self, compact: bool) -> None:
        """Say only what to do and how the last picture lay, where there is little room."""
        for part in (self.why, self.may_show, self.phases, *self._folding):
            part.setVisible(not compact)
        self.setFixedHeight(COMPACT_PX if compact else WHOLE_PX)

    def show_busy(self, busy: bool) -> None:
        """Say that the coach thinks, while it has nothing to say yet."""
        for button in (self.use, self.use_and_fire):
            button.setEnabled(self.says is not None)
        if self.says is None:
            self.safer.setEnabled(False)
            self.bolder.setEnabled(False)
            if not self.is_silent:
                self.what.set_text("The coach is thinking." if busy else "The coach has nothing to say yet.")

    def forget(self) -> None:
        """Drop what was said: it is of another rig."""
        self.says, self.is_silent = None, False
        for line in (self.why, self.may_show, self.last, self.phases):
            line.set_text("")
        self.show_busy(True)

    def show_silent(self, why: str) -> None:
        """Say why there is no proposal; nothing old can be taken."""
        self.says, self.is_silent = None, True
        self.show_busy(False)
        self.what.set_text("The coach has nothing to propose.")
        for line in (self.may_show, self.last, self.phases):
            line.set_text("")
        self.why.set_text(why)

    def show(self, says: CoachSays | None = None) -> None:
        """Appear; say something else where it is given."""
        if says is not None:
            self._say(says)
        super().show()

    def _say(self, says: CoachSays) -> None:
        from ondine.core.coach.words import chance_words, other_words, timing_words

        self.says, self.is_silent = says, False
        proposal, best = says.proposal, says.proposal.best
        self.what.set_text(f"Next: {timing_words(best.sequence, proposal.begin)}")
        self.why.set_text(says.reason)
        self.may_show.set_text(f"May show {chance_words(best)}.")
        self.last.set_text(self._last_words(says))
        self.phases.set_text(_phases_words(says.steps))
        for button, other in ((self.safer, proposal.safer), (self.bolder, proposal.bolder)):
            button.setEnabled(other is not None)
            tip = "The proposal is this already." if other is None else (
                f"{timing_words(other.sequence, proposal.begin)}\n{other_words(other, proposal)}"
            )  # fmt: skip
            button.setToolTip(tip)
        self.show_busy(False)
        self.setAccessibleDescription(f"{self.what.text()}. {says.reason} {self.may_show.text()} {self.last.text()}")

    def _last_words(self, says: CoachSays) -> str:
        """What matters most of the last picture: a doubt, or else whether the advice was right, and early or late."""
        if says.doubt:
            return says.doubt
        if says.last is None:
            return NO_SHOT if not says.shots else ""
        if says.steady:
            return says.steady
        return f"{says.last.says} {says.verdict}".strip()

    def take(self, fire: bool) -> None:
        """Take the proposal over, and fire it if that is wanted."""
        if self.says is not None and self.isVisible():
            self.taken.emit(self.says.proposal.best.sequence, fire)

    def _take_other(self, which: str) -> None:
        other = None if self.says is None else getattr(self.says.proposal, which)
        if other is not None:
            self.taken.emit(other.sequence, False)

    def choose(self, shape: str) -> None:
        """Choose a goal, as a hand would."""
        self.goal.setCurrentIndex(self.goal.findData(shape))
        self._choose_goal()

    def _choose_goal(self) -> None:
        self.goal_chosen.emit(Goal(self.goal.currentData(), self.height_m, self.keeps_sizes))

    def wish(self, height_m: float | None, keeps_sizes: bool) -> None:
        """Want the goal at a height [m], or at any; and drops of the sizes in hand, or as the coach thinks best."""
        self.height_m, self.keeps_sizes = height_m, keeps_sizes
        self._choose_goal()


def _phases_words(steps: tuple[Step, ...]) -> str:
    """Name the phases of a search; only the last instant that is found is worth its number."""
    found = [step for step in steps if step.done and step.time_s is not None]
    return "   ".join(_phase_words(step, with_time=step in found[-1:]) for step in steps)


def _phase_words(step: Step, with_time: bool) -> str:
    mark = "✓" if step.done else "○"
    if step.name == "hold":
        return f"{mark} hold {min(step.hits, HELD)} of {HELD}"
    if not with_time or step.time_s is None or step.spread_s is None:
        return f"{mark} {step.name}"
    return f"{mark} {step.name} {plus_minus_ms(step.time_s, step.spread_s)}"
