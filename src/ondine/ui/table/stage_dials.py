"""A box that a hand dials: its profile, the card, and what rounding to its steps costs."""

from __future__ import annotations

from ondine.core.belief.priors import Belief
from ondine.core.forecast.shapes import BY_KEY, shape_probabilities
from ondine.core.forecast.whole import forecast
from ondine.core.setup import Setup
from ondine.core.timing.dials import Dial, DialError, changed, dialled, dials, off_by_us
from ondine.core.timing.limits import flash_label
from ondine.core.timing.sequence import Sequence
from ondine.ui.kit.form import Form
from ondine.ui.table.dial_card import DialCard
from ondine.ui.table.stage import StagePage, note
from ondine.ui.table.state import TableState
from ondine.ui.table.tools import TableTools

FIELDS = (
    "box.in_use",
    "box.name",
    "box.counts",
    "box.flash_from",
    "box.open_name",
    "box.wait_name",
    "box.flash_name",
    "box.step_us",
    "box.least_us",
    "box.most_us",
    "box.max_drops",
    "box.max_valves",
    "box.max_flashes",
)


class DialStage(StagePage):
    """Card and profile."""

    title = "A box with dials"
    hint = "For a box without a cable. F9 shows the card alone; Space logs the shot that you fire by hand."

    def __init__(self, tools: TableTools) -> None:
        super().__init__(tools)
        self.figure = self.card = DialCard()
        self.form = Form(FIELDS)
        self.form.edited.connect(tools.editor.edit)
        self.cost = note(soft=False)
        self.column.addWidget(self.form)
        self.column.addWidget(self.cost)
        self.column.addStretch(1)

    def show(self, table: TableState) -> None:
        """Show the profile, the card, and the cost."""
        self.form.show_setup(table.setup, table.units)
        show_card(self.card, table)
        self.cost.setText(cost_words(table.setup, table.belief, table.sequence))


def show_card(card: DialCard, table: TableState) -> None:
    """Show the dials of a table, marked against the shot before."""
    box = table.setup.box
    title = f"{box.name}: waits count {box.counts}, flash from {box.flash_from}"
    try:
        now = dials(table.sequence, box)
    except DialError as error:
        card.show_dials(title, (), (), "", str(error))
        return
    turned = changed(now, _before(table))
    count = sum(turned)
    foot = f"Turn {count} of {len(now)}, marked by a bar." if count else "Nothing to turn since the last shot."
    if not box.in_use:
        foot = "This box is not in use: Ondine drives the bench itself."
    card.show_dials(title, now, turned, foot)


def _before(table: TableState) -> tuple[Dial, ...] | None:
    if table.newest is None:
        return None
    try:
        return dials(table.newest.sequence, table.setup.box)
    except DialError:
        return None


def cost_words(setup: Setup, belief: Belief, sequence: Sequence) -> str:
    """Say what rounding to the box's step changes, and what that does to the likeliest shape."""
    try:
        real, off = dialled(sequence, setup.box), off_by_us(sequence, setup.box)
    except DialError as error:
        return str(error)
    if off == 0:
        return "The box can set this sequence exactly."
    shift = sequence.drops[0].start_us - real.drops[0].start_us
    foreseen, run = forecast(setup, belief, sequence), forecast(setup, belief, real)
    shapes = []
    for index, (flash, real_flash) in enumerate(zip(sequence.flashes, real.flashes, strict=True)):
        wanted, got = shape_probabilities(foreseen, flash.at_us), shape_probabilities(run, real_flash.at_us)
        key = next(iter(wanted))
        name = f"{flash_label(sequence, index)} " if len(sequence.flashes) > 1 else ""
        shapes.append(f"{name}{BY_KEY[key].name} {wanted[key]:.0%} becomes {got.get(key, 0.0):.0%}")
    moved = f" It starts {shift / 1000:g} ms earlier, which changes nothing else." if shift else ""
    return (
        f"Rounded to {setup.box.step_us / 1000:g} ms the largest error is {off / 1000:g} ms: "
        f"{', '.join(shapes)}.{moved}"
    )
