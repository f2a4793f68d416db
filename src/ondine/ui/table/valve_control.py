"""Priming, test drops, and the pulses that are weighed."""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass

from ondine.bench.protocol import Dispensed, Pour
from ondine.core import plain
from ondine.core.setup.fields import needed, number, within_limits
from ondine.core.table.weighing import Flow, Weighing, with_flow
from ondine.core.timing.limits import SequenceError
from ondine.studio.events import Purpose
from ondine.studio.pouring import pour_of, prime_of
from ondine.studio.studio import Studio
from ondine.ui.table.signals import TableSignals


@dataclass
class WeighingRow:
    """A row of the weighing table while it is being filled."""

    open_us: int = needed(1, 5_000_000, "Open time")
    pulses: int = needed(1, 500, "Pulses")
    grams: float = number(0.0, 0.0, 1e5, "Grams")
    valve: int = number(0, 0, 64, "Valve")


class ValveControl:
    """Asks the bench for pours and takes down what was weighed.

    `number`: the valve in hand, from 0; `progress`: pulses so far, and of how many.
    """

    def __init__(self, studio: Studio, signals: TableSignals) -> None:
        self._studio, self._signals = studio, signals
        start = [WeighingRow(15_000, 50), WeighingRow(40_000, 30)]
        self._rows = studio.kept.read("weighings", _weighings, start)
        self.number = 0
        self.progress = (0, 0)
        self._fillings: list[tuple[Pour, int]] = []

    @property
    def weighings(self) -> list[WeighingRow]:
        """The rows of the valve in hand, first to last."""
        return [row for row in self._rows if row.valve == self.number]

    def take(self, number: int) -> None:
        """Take another valve in hand."""
        self.number = number
        self._signals.altered.emit()

    def prime(self, on: bool) -> None:
        """Let liquid flow while a hand holds the key."""
        setup = self._studio.composer.setup
        if on:
            self._ask(prime_of(setup, self.number), Purpose.PRIMING)
        else:
            self._studio.bench.stop_pouring()

    def test_drop(self) -> None:
        """Let one drop fall from the valve in hand, as long as its first of the sequence."""
        drops = self._studio.composer.sequence.drops
        own = [pulse.open_us for pulse in drops if pulse.valve == self.number]
        self._pour(own[0] if own else drops[0].open_us, 1, Purpose.TEST_DROP)

    def dispense(self, row: int) -> None:
        """Dispense the pulses of a weighing."""
        known = self.weighings[row]
        self._pour(known.open_us, known.pulses, Purpose.WEIGHING, row)

    def _pour(self, open_us: int, pulses: int, purpose: Purpose, row: int = 0) -> None:
        setup = self._studio.composer.setup
        try:
            pour = pour_of(setup, self.number, open_us, pulses)
        except ValueError as error:
            self._signals.refused.emit(str(error))
            return
        if self._ask(pour, purpose):
            self._fillings.append((pour, row))

    def _ask(self, pour: Pour, purpose: Purpose) -> bool:
        self._signals.refused.emit("")
        try:
            return self._studio.bench.pour(pour, purpose, self._studio.composer.setup)
        except SequenceError as error:
            self._signals.refused.emit(str(error))
            return False

    def pouring(self, done: int, of: int) -> None:
        """Hear how far a pour has come."""
        self.progress = (done, of)
        self._signals.altered.emit()

    def pour_ended(self, purpose: Purpose, pour: Pour, dispensed: Dispensed) -> None:
        """Take down what a weighing really dispensed, and what a scale read."""
        self.progress = (0, 0)
        known = [index for asked, index in self._fillings if asked is pour]
        self._fillings = [entry for entry in self._fillings if entry[0] is not pour]
        if purpose is Purpose.WEIGHING and known:
            row = [row for row in self._rows if row.valve == pour.valve][known[0]]
            row.pulses = dispensed.pulses
            if dispensed.grams is not None:
                row.grams = dispensed.grams
            self._keep_weighings()
        self._signals.altered.emit()

    def set_weighing(self, index: int, **values: float) -> None:
        """Fill in a row of the weighings; rows before it come along."""
        while len(self.weighings) <= index:
            self._rows.append(WeighingRow(25_000, 40, valve=self.number))
        row = self.weighings[index]
        for name, value in values.items():
            if name != "grams" and getattr(row, name) != value:
                # What was weighed belongs to other pulses.
                row.grams = 0.0
            setattr(row, name, value)
        self._keep_weighings()
        self._signals.altered.emit()

    def _keep_weighings(self) -> None:
        self._studio.log.keep("weighings", json.dumps([asdict(row) for row in self._rows]))

    def filled_weighings(self) -> list[Weighing]:
        """Return the rows that have grams."""
        return [Weighing(r.open_us, r.pulses, r.grams) for r in self.weighings if r.grams > 0]

    def use_flow(self, flow: Flow) -> None:
        """Go by a weighed flow from now on."""
        plan = self._studio.composer.plan
        self._signals.refused.emit("")
        self._studio.composer.use_setup(*with_flow(plan.setup, plan.belief, flow, self.number))


def _weighings(text: str) -> list[WeighingRow]:
    return [within_limits(row) for row in plain.parse_list(WeighingRow, text)]
