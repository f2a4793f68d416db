"""Fields of a set-up that know their limits and say what they are; and paths to reach them.

A path names a field through its owners, "valves.0.nozzle_height_m" or "light.units.0.power". Window, exchange files and
comparison all read the same limits and words from here.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field, fields, is_dataclass, replace
from functools import lru_cache
from typing import Any, TypeVar

T = TypeVar("T")


@dataclass(frozen=True)
class About:
    """What a field says of itself: its name in the window, its least and greatest value (None: no number), the
    pattern that a text must have (None: any), and how many parts a list has at least.
    """

    says: str
    low: float | None = None
    high: float | None = None
    pattern: str | None = None
    least: int = 1


def number(default: float | None, low: float, high: float, says: str) -> Any:
    """Declare a number with its limits, both allowed. The unit is the suffix of the field's name."""
    return field(default=default, metadata={"about": About(says, low, high)})


def needed(low: float, high: float, says: str) -> Any:
    """Declare a number with its limits that has no default."""
    return field(metadata={"about": About(says, low, high)})


def plain(default: object, says: str) -> Any:
    """Declare a field without limits: a word, a choice, a yes or no."""
    return field(default=default, metadata={"about": About(says)})


def parts(says: str) -> Any:
    """Declare a list that may be empty."""
    return field(default=(), metadata={"about": About(says, least=0)})


def colour(default: str, says: str) -> Any:
    """Declare a colour, written #rrggbb."""
    return field(default=default, metadata={"about": About(says, pattern="^#[0-9a-fA-F]{6}$")})


def about(owner: object, path: str) -> About:
    """Return what the field at a path says of itself. Raises KeyError if there is no such field."""
    *way, last = path.split(".")
    holder = read(owner, ".".join(way)) if way else owner
    for known in fields(holder):  # type: ignore[arg-type]
        if known.name == last:
            found = known.metadata.get("about", About(last.replace("_", " ")))
            assert isinstance(found, About)
            return found
    raise KeyError(path)


def read(owner: object, path: str) -> Any:
    """Return the value at a path; a number in it counts into a tuple, from 0."""
    for step in path.split("."):
        owner = owner[int(step)] if isinstance(owner, tuple) else getattr(owner, step)
    return owner


def put(owner: T, path: str, value: object) -> T:
    """Return a copy with the value at a path replaced."""
    step, _, rest = path.partition(".")
    if isinstance(owner, tuple):
        index = int(step)
        changed = put(owner[index], rest, value) if rest else value
        return (*owner[:index], changed, *owner[index + 1 :])  # type: ignore[return-value]
    changed = put(getattr(owner, step), rest, value) if rest else value
    return replace(owner, **{step: changed})  # type: ignore[type-var]


def leaves(owner: object, prefix: str = "") -> Iterator[tuple[str, object]]:
    """Yield (path, value) of every field that holds no further fields, in the order of their declaration."""
    if is_dataclass(owner):
        for known in fields(owner):
            yield from leaves(getattr(owner, known.name), f"{prefix}.{known.name}" if prefix else known.name)
    elif isinstance(owner, tuple) and owner and is_dataclass(owner[0]):
        for index, part in enumerate(owner):
            yield from leaves(part, f"{prefix}.{index}")
    else:
        yield prefix, owner


@lru_cache(maxsize=64)
def _limits(kind: Any) -> tuple[tuple[str, About | None], ...]:
    """What each field of a dataclass says of itself, None where it has no limits. Hands drag: it must be quick."""
    listed = [(known.name, known.metadata.get("about")) for known in fields(kind)]
    return tuple((name, known if known and known.low is not None else None) for name, known in listed)


def within_limits(owner: T) -> T:
    """Return what was given. Raises ValueError for its first number outside its limits, or text of another pattern."""
    for path, value, known in out_of_limits(owner):
        raise ValueError(f"{path} cannot be {value}: it is between {known.low:g} and {known.high:g}")
    check_patterns(owner)
    return owner


def check_patterns(owner: object, prefix: str = "") -> None:
    """Raise ValueError for the first text that has not the pattern which its field declares."""
    kind: Any = type(owner)
    for name, pattern in _patterns(kind):
        value = getattr(owner, name)
        if pattern is not None:
            if not pattern.fullmatch(value):
                raise ValueError(f"{prefix}{name} cannot be {value!r:.40}")
        elif isinstance(value, tuple):
            for index, part in enumerate(value):
                if is_dataclass(part):
                    check_patterns(part, f"{prefix}{name}.{index}.")
        elif is_dataclass(value):
            check_patterns(value, f"{prefix}{name}.")


@lru_cache(maxsize=64)
def _patterns(kind: Any) -> tuple[tuple[str, re.Pattern[str] | None], ...]:
    """The pattern of each field of a dataclass, None where it has none."""
    listed = [(known.name, known.metadata.get("about", About("")).pattern) for known in fields(kind)]
    return tuple((name, None if pattern is None else re.compile(pattern.strip("^$"))) for name, pattern in listed)


def out_of_limits(owner: object, prefix: str = "") -> Iterator[tuple[str, object, About]]:
    """Yield (path, value, about) of every number that is outside its limits."""
    kind: Any = type(owner)
    for name, known in _limits(kind):
        value = getattr(owner, name)
        if known is not None:
            assert known.low is not None and known.high is not None
            if value is not None and not known.low <= value <= known.high:
                yield f"{prefix}{name}", value, known
        elif isinstance(value, tuple):
            for index, part in enumerate(value):
                if is_dataclass(part):
                    yield from out_of_limits(part, f"{prefix}{name}.{index}.")
        elif is_dataclass(value):
            yield from out_of_limits(value, f"{prefix}{name}.")
