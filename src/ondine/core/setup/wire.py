"""Plain dictionaries of set-ups, for values that were validated before."""

from __future__ import annotations

import json
from dataclasses import is_dataclass
from functools import lru_cache
from typing import Any, get_args, get_origin, get_type_hints

from ondine.core.setup.whole import Setup


def modernised(data: dict[str, Any]) -> dict[str, Any]:
    """Return a set-up's plain values as this Ondine names them."""
    light, triggers = data.get("light"), data.get("triggers")
    if isinstance(light, dict) and "power" in light:
        # Until version 0.1 there was one flash, and no place for it.
        unit = {name: light[name] for name in ("name", "power") if name in light}
        data = {**data, "light": {"units": [unit]}}
    if isinstance(triggers, dict) and "school" in triggers:
        others = {name: value for name, value in triggers.items() if name != "school"}
        data = {**data, "triggers": {"flash_fired_by": triggers["school"], **others}}
    return data


def setup_from_dict(data: dict[str, Any]) -> Setup:
    """Read a set-up that `Setup.to_json` wrote, now or in an older version; left-out parts take their defaults."""
    made = _build(Setup, modernised(data))
    assert isinstance(made, Setup)
    return made


def setup_from_json(text: str) -> Setup:
    """Read a set-up from its JSON text."""
    return setup_from_dict(json.loads(text))


@lru_cache(maxsize=64)
def types_of(kind: type) -> dict[str, Any]:
    """Return the types of a dataclass's fields by name."""
    return get_type_hints(kind)


def _build(kind: Any, data: Any) -> Any:
    if get_origin(kind) is tuple:
        return tuple(_build(get_args(kind)[0], part) for part in data)
    if is_dataclass(kind):
        assert isinstance(kind, type)
        return kind(**{name: _build(of, data[name]) for name, of in types_of(kind).items() if name in data})
    # Choices are words in JSON; numbers and optional numbers are themselves.
    return kind(data) if isinstance(kind, type) and issubclass(kind, str) else data
