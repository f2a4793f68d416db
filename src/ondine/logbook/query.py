"""What to look for in the log, as values: the line that says it is read by `query_line`."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

from ondine.core.log.quantities import Quantity


class Flag(StrEnum):
    """What a shot is or is not, in the words of a search."""

    KEEPER = "keeper"
    TAGGED = "tagged"
    UNTAGGED = "untagged"
    PICTURE = "with picture"
    NO_PICTURE = "without picture"
    QUESTION = "picture in question"
    SIMULATED = "simulated"
    BY_HAND = "by hand"
    BY_CABLE = "by cable"
    FAILED = "did not fire"
    BINNED = "in the bin"


class Field(StrEnum):
    """A text of a shot that words can be looked for in; ANY is all of them."""

    ANY = "words"
    NOTE = "note"
    SITTING = "sitting"
    SETUP = "set-up"
    LIQUID = "liquid"
    LABEL = "label"


@dataclass(frozen=True)
class HasShape:
    """It is tagged with a shape; `name` is the shape's, as people read it."""

    key: str
    name: str


@dataclass(frozen=True)
class Is:
    """It is something."""

    flag: Flag


@dataclass(frozen=True)
class Within:
    """A figure lies between two values, both allowed; None: no limit on that side. `shown` says so in words."""

    quantity: Quantity
    low: float | None
    high: float | None
    shown: str


@dataclass(frozen=True)
class Says:
    """A text holds some words: each by its beginning, or `whole` as one phrase."""

    field: Field
    words: str
    whole: bool = False


@dataclass(frozen=True)
class Fired:
    """It was fired in a span of time: from `since`, before `until`; None: open on that side."""

    since: datetime | None
    until: datetime | None
    shown: str


Condition = HasShape | Is | Within | Says | Fired


@dataclass(frozen=True)
class Term:
    """A condition, or its opposite."""

    condition: Condition
    negated: bool = False

    @property
    def words(self) -> str:
        """Say it as it was understood."""
        match self.condition:
            case HasShape(_, name):
                said = name
            case Is(flag):
                said = flag.value
            case Within(shown=shown) | Fired(shown=shown):
                said = shown
            case Says(field, words, whole):
                quoted = f"“{words}”" if whole or field is Field.ANY else words
                said = quoted if field is Field.ANY else f"{field.value} {quoted}"
        return f"not {said}" if self.negated else said


class Order(StrEnum):
    """In which order shots are found."""

    NEWEST = "newest first"
    OLDEST = "oldest first"
    BEST = "best rated first"
    LIKE = "most like this shot first"


@dataclass(frozen=True)
class Query:
    """All terms have to hold. Shots in the bin are only found where the bin is asked for."""

    terms: tuple[Term, ...] = ()

    @property
    def words(self) -> str:
        """Say what is asked for, as it was understood."""
        return " · ".join(term.words for term in self.terms)

    @property
    def asks_for_bin(self) -> bool:
        """Whether shots in the bin are asked for."""
        return any(term.condition == Is(Flag.BINNED) and not term.negated for term in self.terms)


EVERYTHING = Query()
