"""What has run through the valve: how far the reservoir has sunk, and how much has gone into the bowl."""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass, replace

from ondine.core import plain
from ondine.core.constants import US_PER_S
from ondine.core.setup import Setup, Valve
from ondine.core.setup.fields import number, within_limits
from ondine.core.timing.sequence import Sequence

MOST_OPEN_S = 1e6
"""No reservoir lasts longer."""


@dataclass(frozen=True)
class Ledger:
    """`bowl_drops`, `bowl_m3` since the bowl was changed; `opens_s`: each valve open since it was filled [s]."""

    bowl_drops: int = number(0, 0, 1e9, "Drops in the bowl")
    bowl_m3: float = number(0.0, 0.0, 10.0, "Liquid in the bowl")
    opens_s: tuple[float, ...] = ()

    def open_s(self, valve: int) -> float:
        """Time that a valve was open since its reservoir was filled [s]."""
        return self.opens_s[valve] if valve < len(self.opens_s) else 0.0

    def after_shot(self, sequence: Sequence, setup: Setup) -> Ledger:
        """Return the ledger after a shot, whose drops fall into the bowl."""
        made = self
        for pulse in sequence.drops:
            made = made.after_pour(pulse.open_us, 1, setup.valve(pulse.valve), pulse.valve, into_bowl=True)
        return made

    def after_pour(self, open_us: int, pulses: int, valve: Valve, number: int, into_bowl: bool) -> Ledger:
        """Return the ledger after pulses of a valve, caught in a cup unless they fell into the bowl."""
        if not pulses:
            return self
        flowed_s = pulses * max(open_us / US_PER_S - valve.dead_time_s, 0.0)
        opens = [self.open_s(n) for n in range(max(len(self.opens_s), number + 1))]
        opens[number] += flowed_s
        poured = replace(self, opens_s=tuple(opens))
        if not into_bowl:
            return poured
        volume = valve.flow_m3_s * flowed_s
        return replace(poured, bowl_drops=self.bowl_drops + pulses, bowl_m3=self.bowl_m3 + volume)

    def refilled(self) -> Ledger:
        """Return the ledger after the reservoirs were filled."""
        return replace(self, opens_s=())

    def bowl_changed(self) -> Ledger:
        """Return the ledger after the bowl was emptied and filled anew."""
        return replace(self, bowl_drops=0, bowl_m3=0.0)

    def to_json(self) -> str:
        """Return it as JSON."""
        return json.dumps(asdict(self))

    @staticmethod
    def from_json(text: str) -> Ledger:
        """Read what `to_json` wrote, now or in an older version. Raises ValueError for what it cannot have been."""
        data = plain.loads(text)
        if isinstance(data, dict) and "open_s" in data and "opens_s" not in data:
            # Until format 6 of the logbook there was one valve.
            data = {**data, "opens_s": [data["open_s"]]}
        made = within_limits(plain.read(Ledger, data))
        if not all(0 <= open_s <= MOST_OPEN_S for open_s in made.opens_s):
            raise ValueError(f"opens_s cannot be {made.opens_s}")
        return made
