"""What has run through each valve: how long it must rest, how far its reservoir has sunk, what lies in the bowl."""

from __future__ import annotations

from collections.abc import Callable

from ondine.bench.protocol import Pour, Ticks
from ondine.core.constants import US_PER_S
from ondine.core.forecast.plan import Plan
from ondine.core.setup import Setup
from ondine.core.table.firing import ValveUse, open_s
from ondine.core.table.ledger import Ledger
from ondine.core.table.reservoir import head_after_m


class ValveBook:
    """Belongs to the bench's thread. `use` is the last minute of each valve that was opened, by its number, from 0.

    `keep(ledger)` is called with every change of the ledger.
    """

    def __init__(self, ledger: Ledger, ticks: Ticks, keep: Callable[[Ledger], None]) -> None:
        self.ledger = ledger
        self.use: dict[int, ValveUse] = {}
        self._ticks, self._keep = ticks, keep

    def use_of(self, valve: int) -> ValveUse:
        """How a valve was used of late."""
        return self.use.get(valve, ValveUse())

    def rest_s(self, plan: Plan, now_s: float) -> float:
        """How long the valves of a plan must rest before it may be fired [s]."""
        sequence, setup = plan.sequence, plan.setup
        return max(
            self.use_of(valve).rest_needed_s(now_s, open_s(sequence, valve), setup.valve(valve))
            for valve in {pulse.valve for pulse in sequence.drops}
        )

    def head_m(self, plan: Plan) -> float:
        """Level in the reservoir that the first drop falls from, as reckoned [m]."""
        valve = plan.sequence.drops[0].valve
        return head_after_m(plan.setup.valve(valve), self.ledger.open_s(valve))

    def opened(self, plan: Plan) -> None:
        """A plan has opened its valves, whatever came of it."""
        for valve in {pulse.valve for pulse in plan.sequence.drops}:
            self._opened(valve, open_s(plan.sequence, valve))

    def fired(self, plan: Plan) -> None:
        """The drops of a plan have fallen into the bowl."""
        self.write(self.ledger.after_shot(plan.sequence, plan.setup))

    def poured(self, pour: Pour, came: int, setup: Setup, into_bowl: bool) -> None:
        """So many pulses of a pour have come."""
        self._opened(pour.valve, came * pour.open_us / US_PER_S)
        self.write(self.ledger.after_pour(pour.open_us, came, setup.valve(pour.valve), pour.valve, into_bowl))

    def write(self, ledger: Ledger) -> None:
        """Go on with another ledger."""
        self.ledger = ledger
        self._keep(ledger)

    def _opened(self, valve: int, seconds: float) -> None:
        self.use[valve] = self.use_of(valve).after(self._ticks(), seconds)
