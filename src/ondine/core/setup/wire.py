"""Plain dictionaries of set-ups, for values that were validated before."""

from __future__ import annotations

from typing import Any

from ondine.core import plain
from ondine.core.setup.fields import check_patterns
from ondine.core.setup.whole import Setup


def modernised(data: dict[str, Any]) -> dict[str, Any]:
    """Return a set-up's plain values as this Ondine names them."""
    if not isinstance(data, dict):
        raise ValueError("it is no object")
    if "rig" in data and "valves" not in data:
        # Until version 3 of set-up files a table had one valve.
        data = {**_without(data, "rig"), "valves": [data["rig"]]}
    light, triggers = data.get("light"), data.get("triggers")
    if isinstance(light, dict) and "power" in light:
        # Until version 0.1 there was one flash, and no place for it.
        unit = {name: light[name] for name in ("name", "power") if name in light}
        data = {**data, "light": {"units": [unit]}}
    if isinstance(triggers, dict) and "slave" in triggers:
        # Until version 3 of set-up files all units but the first were slaves, or none was.
        data = _with_slaves({**data, "triggers": _without(triggers, "slave")}, triggers["slave"])
    triggers = data.get("triggers")
    if isinstance(triggers, dict) and "school" in triggers:
        data = {**data, "triggers": {"flash_fired_by": triggers["school"], **_without(triggers, "school")}}
    return data


def _without(data: dict[str, Any], name: str) -> dict[str, Any]:
    return {other: value for other, value in data.items() if other != name}


def _with_slaves(data: dict[str, Any], slaves: object) -> dict[str, Any]:
    light = data.get("light")
    if not isinstance(light, dict) or not isinstance(light.get("units"), list):
        return data
    units = light["units"]
    later = [{"slave": slaves, **unit} if isinstance(unit, dict) else unit for unit in units[1:]]
    return {**data, "light": {**light, "units": [*units[:1], *later]}}


def setup_from_dict(data: dict[str, Any]) -> Setup:
    """Read a set-up that `Setup.to_json` wrote, now or in an older version; left-out parts take their defaults.

    Limits are not asked for, so that any set-up of the past can be shown. Raises ValueError that names the field.
    """
    made = plain.read(Setup, modernised(data))
    if not made.light.units:
        raise ValueError("light.units is empty")
    if not made.valves:
        raise ValueError("valves is empty")
    if made.other and not isinstance(plain.loads(made.other), dict):
        raise ValueError("other is no object")
    check_patterns(made)
    return made


def setup_from_json(text: str) -> Setup:
    """Read a set-up from its JSON text. Raises ValueError that names the field."""
    return setup_from_dict(plain.loads(text))
