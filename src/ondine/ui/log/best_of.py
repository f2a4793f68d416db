"""The best of several shots by elimination: some side by side, the next one taking the place of one struck out."""

from __future__ import annotations

from collections.abc import Sequence

MOST_IN_VIEW = 6


class BestOf:
    """Numbers of shots: those in view, then those that wait."""

    def __init__(self, numbers: Sequence[int] = ()) -> None:
        self.began_with = len(numbers)
        self._standing = tuple(numbers)
        self._before: list[tuple[int, ...]] = []

    @property
    def in_view(self) -> tuple[int, ...]:
        """The shots that are side by side now."""
        return self._standing[:MOST_IN_VIEW]

    @property
    def waiting(self) -> int:
        """How many shots wait for a place."""
        return max(0, len(self._standing) - MOST_IN_VIEW)

    @property
    def struck(self) -> int:
        """How many shots are struck out."""
        return self.began_with - len(self._standing)

    def strike(self, place: int) -> bool:
        """Strike out the shot at a place in view; the last one stays. Return whether one was struck out."""
        if not 0 <= place < len(self.in_view) or len(self._standing) < 2:
            return False
        self._before.append(self._standing)
        left = list(self._standing)
        if self.waiting:
            # In the same place, so that the eye need not look at all of them again.
            left[place] = left.pop(MOST_IN_VIEW)
        else:
            del left[place]
        self._standing = tuple(left)
        return True

    def put_back(self) -> bool:
        """Take the last striking out back. Return whether there was one."""
        if not self._before:
            return False
        self._standing = self._before.pop()
        return True
