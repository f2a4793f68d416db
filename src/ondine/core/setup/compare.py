"""Two set-ups side by side: only what differs."""

from __future__ import annotations

from dataclasses import dataclass

from ondine.core.setup.fields import about, leaves
from ondine.core.setup.whole import Setup


@dataclass(frozen=True)
class Difference:
    """A field that differs: its path, what it is called, and both values; None where one set-up has no such field."""

    path: str
    says: str
    one: object
    other: object


def differences(one: Setup, other: Setup) -> list[Difference]:
    """Return the fields that differ, in the order of the set-up."""
    first, second = dict(leaves(one)), dict(leaves(other))
    found = []
    for path in [*first, *(p for p in second if p not in first)]:
        a, b = first.get(path), second.get(path)
        if a != b:
            found.append(Difference(path, says(one if path in first else other, path), a, b))
    return found


def says(owner: Setup, path: str) -> str:
    """Name the field at a path as people read it."""
    said = about(owner, path).says
    if path.startswith("light.units."):
        return f"Flash {int(path.split('.')[2]) + 1}: {said.lower()}"
    return said


def change_words(before: Setup, after: Setup) -> str:
    """Name what was changed at a table: the first field by name, the rest by number."""
    found = differences(before, after)
    if not found:
        return "what is known of the rig"
    more = f" and {len(found) - 1} more" if len(found) > 1 else ""
    return f"{found[0].says.lower()}{more}"
