"""The valve: what it lets through, learnt by weighing; priming and test drops; when to refill."""

from __future__ import annotations

from PySide6.QtWidgets import QGridLayout, QLabel, QPushButton, QWidget

from ondine.core.setup import BenchKind
from ondine.core.table.outlet import assumed_outlet_m, outlet_words
from ondine.core.table.reservoir import discharge_coefficient, flow_after_share, flowing_s, head_after_m
from ondine.core.table.weighing import Flow, WeighingError, flow_from
from ondine.core.units import Quantity, quantity_of
from ondine.studio.events import BenchState
from ondine.ui.kit.fields import QuantityField, WholeField
from ondine.ui.kit.theme import GRID_PX, SMALL_PX, font
from ondine.ui.table.editor import MOST_VALVES
from ondine.ui.table.measured import MeasuredField
from ondine.ui.table.part_forms import PartForms
from ondine.ui.table.ready import shots_left
from ondine.ui.table.stage import StagePage, button, heading, note, row
from ondine.ui.table.state import TableState
from ondine.ui.table.tools import TableTools
from ondine.ui.table.valve_control import WeighingRow
from ondine.ui.table.weighing_plot import WeighingPlot

FIELDS = (
    "orifice_diameter_m",
    "head_m",
    "reservoir_diameter_m",
    "flow_m3_s",
    "dead_time_s",
    "max_open_us",
    "max_duty",
)
ROWS = 4


class ValveStage(StagePage):
    """Fields, weighing table, plot."""

    title = "What the valve lets through"
    hint = "Weigh two or more open times: that gives flow, dead time and drop size."

    def __init__(self, tools: TableTools) -> None:
        super().__init__(tools)
        self.figure = self.plot = WeighingPlot()
        self.flow: Flow | None = None
        editor = tools.editor
        self.valves = PartForms("valves", FIELDS, "valve", MOST_VALVES, editor.add_valve, editor.remove_valve)
        self.valves.edited.connect(editor.edit)
        self.valves.chosen.connect(tools.valve.take)
        self.outlet = MeasuredField("valves.0.outlet_diameter_m", unknown="assumed")
        self.outlet.edited.connect(self._set_outlet)
        self.leaves = note(soft=False)
        self.prime = button("Hold to prime", tip="Liquid flows until you let go, within the valve's limits")
        self.prime.pressed.connect(lambda: tools.valve.prime(True))
        self.prime.released.connect(lambda: tools.valve.prime(False))
        self.test = button("Let one drop fall", tools.valve.test_drop)
        self.refilled = button(
            "I refilled it", tools.studio.bench.refilled, "Every reservoir is full to its mark again"
        )
        self.level = note()
        self.rows = WeighingTable(tools)
        self.found = note(soft=False)
        self.warning = note(soft=False, bold=True)
        self.use = button("Use this flow", self._use)
        self.column.addWidget(self.valves)
        self.column.addWidget(self.outlet)
        self.column.addWidget(self.leaves)
        self.column.addLayout(row(self.prime, self.test, self.refilled))
        self.column.addWidget(self.level)
        self.column.addWidget(heading("Weigh it"))
        self.column.addWidget(self.rows)
        self.column.addWidget(self.found)
        self.column.addWidget(self.warning)
        self.column.addLayout(row(self.use))
        self.column.addStretch(1)

    def show(self, table: TableState) -> None:
        """Show fields, level, weighings and what they make."""
        setup = table.setup
        self.valves.show_parts([valve.name for valve in setup.valves], setup, table.units)
        # Valves are added and placed on the drawing; here there is nothing to choose while there is but one.
        self.valves.choice.setVisible(len(setup.valves) > 1)
        valve, number = setup.valve(self.valves.number), self.valves.number
        self.outlet.show_as(quantity_of("outlet_diameter_m", table.units))
        self.outlet.display(valve.outlet_diameter_m, assumed_outlet_m(valve, table.belief))
        self.leaves.setText(outlet_words(setup, table.belief, number, _open_us(table, number)))
        self.level.setText(_level_words(table, self.valves.number))
        self.rows.show_rows(table.bench, by_hand=table.kind is BenchKind.BY_HAND)
        for pressed in (self.prime, self.test):
            pressed.setVisible(table.kind is not BenchKind.BY_HAND)
            pressed.setEnabled(table.bench is BenchState.READY or pressed.isDown())
        weighings = self.tools.valve.filled_weighings()
        density = setup.mix_of(self.valves.number).liquid().density_kg_m3
        self.flow = None
        try:
            self.flow = flow_from(weighings, density) if weighings else None
            self.found.setText(_flow_words(self.flow, table, self.valves.number) if self.flow else _first_step(table))
            self.warning.setText(self.flow.warning if self.flow else "")
        except WeighingError as error:
            self.found.setText("")
            self.warning.setText(str(error))
        self.use.setEnabled(self.flow is not None)
        self.plot.show_flow(weighings, self.flow, density, (valve.flow_m3_s, valve.dead_time_s))

    def _set_outlet(self, value: float | None) -> None:
        self.tools.editor.edit(f"valves.{self.valves.number}.outlet_diameter_m", value)

    def _use(self) -> None:
        if self.flow is not None:
            self.tools.valve.use_flow(self.flow)


def _first_step(table: TableState) -> str:
    if table.kind is BenchKind.BY_HAND:
        return (
            "Let the pulses of a row fall into a cup on the scale, press “I did”, and type what the scale says. Then "
            "another row."
        )
    return "Put a cup on the scale and press Dispense; then type the grams."


def _level_words(table: TableState, number: int) -> str:
    valve, so_far = table.setup.valve(number), table.ledger.open_s(number)
    lost = 1 - flow_after_share(valve, so_far)
    sinks = head_after_m(valve, so_far) - head_after_m(valve, so_far + flowing_s(table.setup, number, table.sequence))
    left = shots_left(table, number)
    says = f"refill after {left} more shots" if left else "refill now"
    share = discharge_coefficient(valve)
    odd = (
        f" This flow is {share:.0%} of what orifice and head allow, which cannot be: measure orifice and head again."
        if share > 1
        else ""
    )
    level = f"A shot lowers the level by {sinks * 1e6:.0f} µm"
    return f"{level}; since it was filled the drops have lost {lost:.1%} of their volume: {says}.{odd}"


def _open_us(table: TableState, number: int) -> int:
    """How long a valve opens for its first drop, or for any if it has none [µs]."""
    drops = table.sequence.drops
    return next((pulse.open_us for pulse in drops if pulse.valve == number), drops[0].open_us if drops else 20_000)


def _flow_words(flow: Flow, table: TableState, number: int) -> str:
    open_us = _open_us(table, number)
    volume, volume_sd = flow.volume_m3(open_us)
    diameter, diameter_sd = flow.diameter_m(open_us)
    return (
        f"Flow {flow.flow_m3_s * 1e6:.3f} ± {flow.flow_sd_m3_s * 1e6:.3f} µL/ms, "
        f"dead time {flow.dead_time_s * 1e3:.2f} ± {flow.dead_time_sd_s * 1e3:.2f} ms.\n"
        f"A drop of {open_us / 1000:g} ms: {volume * 1e9:.1f} ± {volume_sd * 1e9:.1f} µL, "
        f"{diameter * 1e3:.2f} ± {diameter_sd * 1e3:.2f} mm."
    )


class WeighingTable(QWidget):
    """Rows of open time, pulses and grams; each can be dispensed by the bench."""

    def __init__(self, tools: TableTools) -> None:
        super().__init__()
        self.tools = tools
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(GRID_PX)
        grid.setVerticalSpacing(2)
        for column, title in enumerate(("open", "pulses", "grams")):
            label = QLabel(title)
            label.setObjectName("soft")
            label.setFont(font(SMALL_PX))
            grid.addWidget(label, 0, column)
        self.opens: list[WholeField] = []
        self.pulses: list[WholeField] = []
        self.grams: list[QuantityField] = []
        self.dispense: list[QPushButton] = []
        for index in range(ROWS):
            self._row(grid, index)

    def _row(self, grid: QGridLayout, index: int) -> None:
        opens, pulses = WholeField(f"Open time of weighing {index + 1}"), WholeField(f"Pulses of weighing {index + 1}")
        grams = QuantityField(f"Grams of weighing {index + 1}")
        opens.show_as(Quantity("ms", 1e-3, 1, 1, 5))
        pulses.show_as(Quantity("", 1, 0, 5, 10))
        grams.show_as(Quantity("g", 1, 2, 0.01, 0.1))
        opens.edited.connect(lambda value: self._set(index, open_us=value))
        pulses.edited.connect(lambda value: self._set(index, pulses=value))
        grams.edited.connect(lambda value: self._set(index, grams=value))
        made = button("Dispense", lambda: self._go(index))
        self.opens.append(opens)
        self.pulses.append(pulses)
        self.grams.append(grams)
        self.dispense.append(made)
        widgets: tuple[QWidget, ...] = (opens, pulses, grams, made)
        for column, widget in enumerate(widgets):
            grid.addWidget(widget, index + 1, column)

    def _set(self, index: int, **values: float) -> None:
        self.tools.valve.set_weighing(index, **values)

    def _go(self, index: int) -> None:
        if self.tools.studio.bench.state is BenchState.POURING:
            self.tools.studio.bench.stop_pouring()
            return
        self._set(index)
        self.tools.valve.dispense(index)

    def show_rows(self, state: BenchState, by_hand: bool) -> None:
        """Show the rows, and how far the bench is; by hand, the pulses are over when it is pressed."""
        usual = "I did" if by_hand else "Dispense"
        done, of = self.tools.valve.progress
        for index in range(ROWS):
            known = (
                self.tools.valve.weighings[index]
                if index < len(self.tools.valve.weighings)
                else WeighingRow(25_000, 40)
            )
            self.opens[index].display(known.open_us)
            self.pulses[index].display(known.pulses)
            self.grams[index].display(known.grams)
            pouring = state is BenchState.POURING
            self.dispense[index].setText(f"Stop  {done}/{of}" if of else "Stop" if pouring else usual)
            self.dispense[index].setEnabled(state is not BenchState.FIRING)
