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


@dataclass(frozen=True)
class Kind:
    """A kind of fault: made any number of times, in the long form so often, in the short one of the tests so often."""

    make: Callable[[int], Tally]
    long: int
    short: int


def kinds() -> dict[str, Kind]:
    """Return all kinds by their names."""
    from benchmarks.faults import (
        cards,
        clocks,
        copies,
        corruption,
        disk,
        folders,
        kills,
        leftovers,
        links,
        mutations,
        pictures,
    )  # fmt: skip

    return {
        "kills": Kind(lambda count: kills.run(count, 1), 200, 5),
        "kills of copies": Kind(lambda count: kills.run(count, 7, kills.COPIES), 400, 4),
        "corruption": Kind(lambda count: corruption.run(count, 2), 300, 8),
        "mutations": Kind(lambda count: mutations.run(count, 3), 10_000, 1500),
        "pictures": Kind(lambda count: pictures.run(count, 4), 1000, 12),
        "full disks": Kind(lambda count: disk.run(5, disk.LIMITS[:count]), len(disk.LIMITS), 2),
        "clocks": Kind(lambda rounds: clocks.run(6, rounds), 4, 1),
        "copies": Kind(lambda days: copies.run(8, days), 365, 40),
        "links": Kind(lambda count: links.run(count, 9), 100, 2),
        "leftovers": Kind(lambda count: leftovers.run(count, 10), 500, 20),
        "folders": Kind(lambda count: folders.run(count, 11), 200, 6),
        "cards": Kind(lambda count: cards.run(count, 12), 100, 2),
    }


def run(small: bool = False) -> Iterator[str]:
    """Make every kind, in its long form or in the short one."""
    for kind in kinds().values():
        yield str(kind.make(kind.short if small else kind.long))
