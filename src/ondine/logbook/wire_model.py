"""Set-ups from elsewhere, checked by pydantic models made from the set-up's own fields, limits and words.

What this Ondine does not know is kept as it came and written out again, so that nothing of a newer one is lost.
"""

from __future__ import annotations

import json
from dataclasses import MISSING, fields, is_dataclass
from enum import StrEnum
from functools import lru_cache
from pathlib import Path
from typing import Annotated, Any, Literal, get_args, get_origin

from pydantic import BaseModel, ConfigDict, Field, ValidationError, create_model

from ondine.core import plain
from ondine.core.belief.priors import Belief, belief_from_dict
from ondine.core.setup import Setup
from ondine.core.setup.fields import About
from ondine.core.setup.whole import MOST_PARTS
from ondine.core.setup.wire import modernised, setup_from_dict
from ondine.core.table.edit import check
from ondine.core.timing.wire import modernised as modernised_sequence
from ondine.core.units import Units
from ondine.logbook.door import MOST_TEXT_BYTES, read_bytes

NOT_ON_THE_WIRE = ("other",)

MOST_SAID = 8
"""So many wrong fields are named; nobody reads more at once."""


class Wire(BaseModel):
    """A JSON object from elsewhere: numbers are numbers, and unknown fields are kept."""

    model_config = ConfigDict(extra="allow", allow_inf_nan=False, strict=True)


@lru_cache(maxsize=64)
def wire_model(kind: type) -> type[Wire]:
    """Return the pydantic model of one of the set-up's dataclasses."""
    made: dict[str, Any] = {}
    for known in fields(kind):
        if known.name in NOT_ON_THE_WIRE:
            continue
        about = known.metadata.get("about", About(""))
        kind_of = plain.types_of(kind)[known.name]
        made[known.name] = (_wire_type(kind_of, about), _default(known, kind_of, about))
    return create_model(kind.__name__, __base__=Wire, __doc__=(kind.__doc__ or "").split("\n")[0], **made)


def _default(known: Any, kind: Any, about: About) -> Any:
    says = about.says or None
    if known.default_factory is not MISSING:
        return Field(default_factory=wire_model(kind), description=says)
    if known.default is MISSING:
        return Field(description=says)
    return Field(default=_plain(known.default), description=says)


def _wire_type(kind: Any, about: About) -> Any:
    if get_origin(kind) is tuple:
        listed: Any = list[_wire_type(get_args(kind)[0], About(""))]  # type: ignore[misc]
        return Annotated[listed, Field(min_length=about.least, max_length=MOST_PARTS)]
    if isinstance(kind, type) and is_dataclass(kind):
        return wire_model(kind)
    inside = [choice for choice in get_args(kind) if is_dataclass(choice)]
    if inside:
        return _wire_type(inside[0], About("")) | None
    if isinstance(kind, type) and issubclass(kind, StrEnum):
        return Literal[tuple(str(choice) for choice in kind)]
    if about.pattern is not None:
        return Annotated[str, Field(pattern=about.pattern)]
    if about.low is not None:
        within = Field(ge=about.low, le=about.high)
        optional = type(None) in get_args(kind)
        return Annotated[float, within] | None if optional else Annotated[kind, within]
    return kind


def _plain(default: Any) -> Any:
    if isinstance(default, tuple):
        return [_plain(part) for part in default]
    if is_dataclass(default):
        kind: Any = type(default)
        return wire_model(kind).model_validate(_values(default))
    return str(default) if isinstance(default, StrEnum) else default


def _values(owner: Any) -> dict[str, Any]:
    return {known.name: _plain(getattr(owner, known.name)) for known in fields(owner)}


def setup_from_wire(wire: Wire) -> Setup:
    """Return the set-up that a checked model stands for. Raises EditError if such a table cannot stand."""
    unknown = _unknown(wire)
    made = setup_from_dict(wire.model_dump() | {"other": json.dumps(unknown, sort_keys=True) if unknown else ""})
    check(made, Units())
    return made


def setup_to_wire(setup: Setup) -> dict[str, Any]:
    """Return a set-up as plain JSON values, with what was unknown when it came."""
    data: dict[str, Any] = json.loads(setup.to_json())
    unknown = data.pop("other")
    return _merged(data, json.loads(unknown)) if unknown else data


def _unknown(wire: Any) -> Any:
    """Collect the unknown fields of a model and of its parts, nested as they came; lists by their index."""
    if isinstance(wire, list):
        parts = {str(i): _unknown(part) for i, part in enumerate(wire)}
        return {i: part for i, part in parts.items() if part}
    if not isinstance(wire, BaseModel):
        return {}
    found = dict(wire.model_extra or {})
    for name in type(wire).model_fields:
        inside = _unknown(getattr(wire, name))
        if inside:
            found[name] = inside
    return found


def _merged(data: Any, more: Any) -> Any:
    if isinstance(data, list) and isinstance(more, dict):
        return [_merged(part, more[str(i)]) if str(i) in more else part for i, part in enumerate(data)]
    if isinstance(data, dict) and isinstance(more, dict):
        return data | {name: _merged(data[name], part) if name in data else part for name, part in more.items()}
    return data


def read_text(path: Path, what: str) -> str:
    """Read a text file. Raises ValueError with a sentence that names `what` it should be, and the file."""
    try:
        return read_bytes(path, MOST_TEXT_BYTES).decode("utf-8-sig")
    except (OSError, ValueError) as error:
        why: object = error
        if isinstance(error, OSError):
            why = error.strerror
        elif isinstance(error, UnicodeDecodeError):
            why = "it is not UTF-8 text"
        raise ValueError(f"The {what} {path} cannot be read: {why}. Check the name and try again.") from error


def load_json(text: str, source: str) -> Any:
    """Read JSON text. Raises ValueError with a sentence that names the source."""
    try:
        return plain.loads(text)
    except ValueError as error:
        raise ValueError(f"{source} is not valid JSON: {error}. Correct it there.") from error


FORMAT_VERSION = 3
"""Of recipe and set-up files. In version 1 the belief was a part of the set-up; until 2 there was one flash and one
valve.
"""


def up_to_date(data: Any) -> Any:
    """Bring a recipe or set-up file of an older Ondine up to date, as far as there is something to see."""
    if not isinstance(data, dict) or not isinstance(data.get("setup", {}), dict):
        return data
    made = data | ({"setup": modernised(data["setup"])} if "setup" in data else {})
    if "sequence" in data:
        made["sequence"] = modernised_sequence(data["sequence"])
    version = data.get("version")
    if version not in (1, 2):
        return made
    made["version"] = FORMAT_VERSION
    if version == 1 and "setup" in made:
        belief = made["setup"].pop("beliefs", None)
        return made | ({} if belief is None else {"belief": belief})
    return made


def belief_from_wire(wire: Wire) -> Belief:
    """Return the belief that a checked model stands for."""
    # What a file leaves out takes its default there, where older files are understood.
    return belief_from_dict(wire.model_dump(exclude_unset=True))


def explain(source: str, what: str, error: ValidationError) -> str:
    """Say which fields are wrong, each with its path and what is wanted."""
    lines, found = [], error.errors(include_url=False)
    for item in found[:MOST_SAID]:
        where = ".".join(str(part) for part in item["loc"]) or "the file"
        given = item.get("input")
        shown = f" (it is {given!r:.60})" if isinstance(given, str | int | float) else ""
        lines.append(f"{where}: {item['msg'][0].lower()}{item['msg'][1:]}{shown}")
    more = f"; and {len(found) - MOST_SAID} more" if len(found) > MOST_SAID else ""
    return f"{source} is not a {what} that Ondine can use. Correct these fields: " + "; ".join(lines) + f"{more}."
