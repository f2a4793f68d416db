"""The sitting in hand: begun with its first shot, described at any time."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace

from ondine.bench.protocol import Clock
from ondine.core.setup import Setup
from ondine.logbook.records import SittingFacts
from ondine.studio.events import Event, SittingsFound
from ondine.studio.logbook_writer import LogbookWriter


@dataclass
class SittingInHand:
    """Facts that the log keeps once the sitting has begun, and what was looked after before.

    `facts` are shared with the writer's thread, but replaced as a whole.
    """

    writer: LogbookWriter
    clock: Clock
    emit: Callable[[Event], None]
    facts: SittingFacts
    checked: set[str] = field(default_factory=set)
    preflight_done: bool = False
    id: int | None = None

    def describe(self, facts: SittingFacts) -> None:
        """Replace what is written down; it lands in the log at once, or with the first shot."""
        if facts == self.facts:
            return
        self.facts = facts

        def write() -> None:
            if self.id is not None:
                self.writer.logbook.sittings.describe(self.id, facts)
                self._tell()

        self.writer.write(write)

    def begin_next(self) -> None:
        """Let the next shot begin another sitting at the same place; what was noted stays with the one before."""
        self.begin_anew(replace(self.facts, note="", preflight=""))

    def begin_anew(self, facts: SittingFacts) -> None:
        """Let the next shot begin another sitting."""
        self.checked.clear()
        self.preflight_done = False
        self.facts = facts

        def forget() -> None:
            self.id = None
            self._tell()

        self.writer.write(forget)

    def begun(self) -> int:
        """Return the number of the sitting, beginning it if need be; called by the writer alone."""
        if self.id is None:
            self.id = self.writer.logbook.sittings.begin(self.facts, self.clock())
        return self.id

    def list(self) -> None:
        """Tell all sittings."""
        self.writer.write(self._tell)

    def _tell(self) -> None:
        self.emit(SittingsFound(self.writer.logbook.sittings.all(), self.id))

    # What is looked after

    def tick(self, item: str) -> None:
        """Tick an item of a checklist, or take the tick off."""
        self.checked ^= {item}

    def record_preflight(self, items: tuple[str, ...]) -> None:
        """Write down which items were looked after and which were skipped."""
        self.preflight_done = True
        done = [i for i in items if i in self.checked]
        skipped = [i for i in items if i not in self.checked]
        told = (("Looked after", done), ("Skipped", skipped))
        words = " ".join(f"{what}: {'; '.join(which)}." for what, which in told if which)
        self.describe(replace(self.facts, preflight=words))


def greeting(setup: Setup, name: str) -> SittingFacts:
    """Return what a new sitting starts with: the liquid stands at the temperature of the room."""
    return SittingFacts(name=name, temperature_c=setup.mix.temperature_c)
