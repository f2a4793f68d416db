"""Faults on purpose: plugs pulled, bits flipped, disks full, clocks set. Counted, never timed; what must be 0 is said.

Each module does one kind, any number of times from a seed. `./dev bench faults` runs the long form, the tests a short
one.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field


@dataclass
class Tally:
    """How often something was tried, and what went wrong: each entry is a fault of Ondine."""

    what: str
    tried: int = 0
    faults: list[str] = field(default_factory=list)
    notes: dict[str, int] = field(default_factory=dict)

    def note(self, kind: str) -> None:
        """Count a kind of good outcome."""
        self.notes[kind] = self.notes.get(kind, 0) + 1

    def __str__(self) -> str:
        """One line, and the first faults below it."""
        notes = ", ".join(f"{count} {kind}" for kind, count in sorted(self.notes.items()))
        line = f"{self.what}: {self.tried} tried, {len(self.faults)} faults" + (f" ({notes})" if notes else "")
        return "\n".join([line, *(f"    {fault}" for fault in self.faults[:8])])


def run() -> Iterator[str]:
    """Run the long form of every kind."""
    from benchmarks.faults import clocks, copies, corruption, disk, kills, mutations, pictures

    long: list[Callable[[], Tally]] = [
        lambda: kills.run(200, 1),
        lambda: kills.run(400, 7, kills.COPIES),
        lambda: corruption.run(300, 2),
        lambda: mutations.run(10_000, 3),
        lambda: pictures.run(1000, 4),
        lambda: disk.run(5),
        lambda: clocks.run(6),
        lambda: copies.run(8),
    ]
    for kind in long:
        yield str(kind())
