"""The sitting in hand: begun with its first shot, described at any time."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace

from ondine.bench.protocol import Clock
from ondine.core.setup import Setup
from ondine.logbook.records import SittingFacts
from ondine.studio.events import Event, SittingsFound
from ondine.studio.pen import Pen


@dataclass
class SittingInHand:
    """Facts that the log keeps once the sitting has begun, and what was looked after before.

    `facts` are shared with the pen's thread, but replaced as a whole.
    """

    pen: Pen
    clock: Clock
    emit: Callable[[Event], None]
    facts: SittingFacts
    looked_after: set[str] = field(default_factory=set)
    looked_around: bool = False
    id: int | None = None

    def describe(self, facts: SittingFacts) -> None:
        """Replace what is written down; it lands in the log at once, or with the first shot."""
        if facts == self.facts:
            return
        self.facts = facts

        def write() -> None:
            if self.id is not None:
                self.pen.logbook.describe_sitting(self.id, facts)
                self._tell()

        self.pen.write(write)

    def begin_anew(self, facts: SittingFacts) -> None:
        """Let the next shot begin another sitting."""
        self.looked_after.clear()
        self.looked_around = False
        self.facts = facts

        def forget() -> None:
            self.id = None
            self._tell()

        self.pen.write(forget)

    def begun(self) -> int:
        """Return the number of the sitting, beginning it if need be; called by the pen alone."""
        if self.id is None:
            self.id = self.pen.logbook.begin_sitting(self.facts, self.clock())
        return self.id

    def list(self) -> None:
        """Tell all sittings."""
        self.pen.write(self._tell)

    def _tell(self) -> None:
        self.emit(SittingsFound(self.pen.logbook.sittings(), self.id))

    # What is looked after

    def tick(self, item: str) -> None:
        """Tick an item of a checklist, or take the tick off."""
        self.looked_after ^= {item}

    def record_preflight(self, items: tuple[str, ...]) -> None:
        """Write down which items were looked after and which were skipped."""
        self.looked_around = True
        done = [i for i in items if i in self.looked_after]
        skipped = [i for i in items if i not in self.looked_after]
        told = (("Looked after", done), ("Skipped", skipped))
        words = " ".join(f"{what}: {'; '.join(which)}." for what, which in told if which)
        self.describe(replace(self.facts, preflight=words))


def greeting(setup: Setup, name: str) -> SittingFacts:
    """Return what a new sitting starts with: the liquid stands at the temperature of the room."""
    return SittingFacts(name=name, temperature_c=setup.mix.temperature_c)
