"""Plain JSON values made into dataclasses: of the right kind and finite, or a sentence that says which is not."""

from __future__ import annotations

import json
import math
from dataclasses import MISSING, fields, is_dataclass
from enum import StrEnum
from functools import lru_cache
from types import UnionType
from typing import Any, TypeVar, get_args, get_origin, get_type_hints

T = TypeVar("T")

GREATEST_INT = 2**63 - 1
"""Greater whole numbers fit no file."""


def loads(text: str) -> Any:
    """Read JSON text. Raises ValueError for what is none, is nested too deep, or holds numbers that are none."""
    try:
        return json.loads(text, parse_constant=_no_constant, parse_float=_finite)
    except RecursionError as error:
        raise ValueError("it is nested too deep") from error


def _no_constant(name: str) -> None:
    raise ValueError(f"{name} is not a number that JSON knows")


def _finite(text: str) -> float:
    value = float(text)
    if math.isinf(value):
        raise ValueError(f"{text} is too large a number")
    return value


def parse(kind: type[T], text: str) -> T:
    """Make a dataclass from its JSON text. Raises ValueError."""
    return read(kind, loads(text))


def parse_list(kind: type[T], text: str) -> list[T]:
    """Make a list of dataclasses from its JSON text. Raises ValueError."""
    data = loads(text)
    if not isinstance(data, list):
        raise ValueError("it is no list")
    return [read(kind, entry) for entry in data]


def read(kind: type[T], data: Any) -> T:
    """Make a dataclass from plain values; what is left out takes its default, unknown fields are passed over.

    Limits are not asked for. Raises ValueError that names the field.
    """
    made = _read(kind, data, "")
    assert isinstance(made, kind)
    return made


@lru_cache(maxsize=64)
def types_of(kind: type) -> dict[str, Any]:
    """Return the types of a dataclass's fields by name."""
    return get_type_hints(kind)


def _read(kind: Any, data: Any, where: str) -> Any:
    if is_dataclass(kind):
        return _dataclass(kind, data, where)
    if get_origin(kind) is tuple:
        return _tuple(get_args(kind), data, where)
    if isinstance(kind, UnionType):
        chosen = [choice for choice in get_args(kind) if choice is not type(None)]
        return None if data is None else _read(chosen[0], data, where)
    if isinstance(kind, type) and issubclass(kind, StrEnum):
        return kind(_word(kind, data, where))
    return _number_or_text(kind, data, where)


def _dataclass(kind: Any, data: Any, where: str) -> Any:
    if not isinstance(data, dict):
        raise ValueError(f"{where or 'it'} is no object")
    types, made = types_of(kind), {}
    for known in fields(kind):
        inside = f"{where}.{known.name}" if where else known.name
        if known.name in data:
            made[known.name] = _read(types[known.name], data[known.name], inside)
        elif known.default is MISSING and known.default_factory is MISSING:
            raise ValueError(f"{inside} is missing")
    return kind(**made)


def _tuple(kinds: tuple[Any, ...], data: Any, where: str) -> tuple[Any, ...]:
    if not isinstance(data, list | tuple):
        raise ValueError(f"{where or 'it'} is no list")
    if kinds[-1] is Ellipsis:
        kinds = kinds[:1] * len(data)
    if len(kinds) != len(data):
        raise ValueError(f"{where or 'it'} has {len(data)} parts, not {len(kinds)}")
    return tuple(_read(kind, part, f"{where}.{i}") for i, (kind, part) in enumerate(zip(kinds, data, strict=True)))


def _word(kind: type[StrEnum], data: Any, where: str) -> str:
    if not isinstance(data, str) or data not in {str(choice) for choice in kind}:
        raise ValueError(f"{where or 'it'} cannot be {data!r:.60}")
    return data


def _number_or_text(kind: Any, data: Any, where: str) -> Any:
    if kind is float and isinstance(data, int | float) and not isinstance(data, bool):
        if abs(data) <= GREATEST_INT or (isinstance(data, float) and math.isfinite(data)):
            return data
    elif kind is int and isinstance(data, int) and not isinstance(data, bool):
        if abs(data) <= GREATEST_INT:
            return data
    elif kind is object or (kind in (bool, str) and isinstance(data, kind)):
        return data
    raise ValueError(f"{where or 'it'} cannot be {data!r:.60}")
