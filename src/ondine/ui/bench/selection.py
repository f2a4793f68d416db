"""What is selected on the bench: one item in hand, and those that a hand moves together with it."""

from __future__ import annotations

from dataclasses import dataclass

from ondine.core.setup import Setup
from ondine.core.timing.items import FIRST_FLASH, Item, Kind, drop, has
from ondine.core.timing.sequence import Sequence


@dataclass(frozen=True)
class Selection:
    """The item in hand, which fields and keys follow, and the items selected together with it."""

    held: Item = FIRST_FLASH
    others: frozenset[Item] = frozenset()

    @property
    def items(self) -> frozenset[Item]:
        """All that is selected."""
        return self.others | {self.held}

    def with_toggled(self, item: Item) -> Selection:
        """Return a selection with one item more, or without it; something always stays selected."""
        if item not in self.items:
            return Selection(item, self.items)
        left = self.items - {item}
        return Selection.of(left, self.held) if left else self

    @staticmethod
    def of(items: frozenset[Item], held: Item | None = None) -> Selection:
        """Return a selection of several items, at least one; the first of them is in hand unless another is."""
        first = held if held in items and held is not None else min(items)
        return Selection(first, items - {first})

    def within(self, sequence: Sequence, setup: Setup) -> Selection:
        """Return what of the selection a sequence has; the last of its kind where the item in hand is gone."""
        there = frozenset(item for item in self.others if has(sequence, item, setup))
        if has(sequence, self.held, setup):
            return Selection(self.held, there)
        last = drop(len(sequence.drops) - 1) if self.held.kind is Kind.DROP else FIRST_FLASH
        return Selection(last, there - {last})
