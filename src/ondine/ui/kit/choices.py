"""Choices that one key walks through."""

from __future__ import annotations

from enum import Enum
from typing import TypeVar

Choice = TypeVar("Choice", bound=Enum)


def following(choice: Choice) -> Choice:
    """Return the choice after this one, in the order in which they are declared; after the last the first."""
    every = list(type(choice))
    return every[(every.index(choice) + 1) % len(every)]
