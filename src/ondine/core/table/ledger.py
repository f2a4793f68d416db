"""What has run through the valve: how far the reservoir has sunk, and how much has gone into the bowl."""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass, replace

from ondine.core import plain
from ondine.core.constants import US_PER_S
from ondine.core.setup import Rig
from ondine.core.setup.fields import number, within_limits
from ondine.core.timing.sequence import Sequence


@dataclass(frozen=True)
class Ledger:
    """`bowl_drops`, `bowl_m3` since the bowl was changed; `open_s`: valve open since the reservoir was filled [s]."""

    bowl_drops: int = number(0, 0, 1e9, "Drops in the bowl")
    bowl_m3: float = number(0.0, 0.0, 10.0, "Liquid in the bowl")
    open_s: float = number(0.0, 0.0, 1e6, "Valve open since it was filled")

    def after_shot(self, sequence: Sequence, rig: Rig) -> Ledger:
        """Return the ledger after a shot, whose drops fall into the bowl."""
        opens = [p.open_us / US_PER_S for p in sequence.drops]
        volume = sum(rig.flow_m3_s * max(open_s - rig.dead_time_s, 0.0) for open_s in opens)
        return Ledger(self.bowl_drops + len(opens), self.bowl_m3 + volume, self.open_s + self._flowed(opens, rig))

    def after_pour(self, open_us: int, pulses: int, rig: Rig, into_bowl: bool) -> Ledger:
        """Return the ledger after pulses without light, caught in a cup unless they fell into the bowl."""
        opens = [open_us / US_PER_S] * pulses
        poured = replace(self, open_s=self.open_s + self._flowed(opens, rig))
        if not into_bowl:
            return poured
        volume = pulses * rig.flow_m3_s * max(open_us / US_PER_S - rig.dead_time_s, 0.0)
        return replace(poured, bowl_drops=self.bowl_drops + pulses, bowl_m3=self.bowl_m3 + volume)

    def refilled(self) -> Ledger:
        """Return the ledger after the reservoir was filled."""
        return replace(self, open_s=0.0)

    def bowl_changed(self) -> Ledger:
        """Return the ledger after the bowl was emptied and filled anew."""
        return replace(self, bowl_drops=0, bowl_m3=0.0)

    @staticmethod
    def _flowed(opens_s: list[float], rig: Rig) -> float:
        return sum(max(open_s - rig.dead_time_s, 0.0) for open_s in opens_s)

    def to_json(self) -> str:
        """Return it as JSON."""
        return json.dumps(asdict(self))

    @staticmethod
    def from_json(text: str) -> Ledger:
        """Read what `to_json` wrote. Raises ValueError for what it cannot have been."""
        return within_limits(plain.parse(Ledger, text))
