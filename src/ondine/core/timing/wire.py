"""Plain JSON of sequences, as a logbook holds them."""

from __future__ import annotations

import json
from dataclasses import asdict
from typing import Any

from ondine.core import plain
from ondine.core.timing.sequence import Sequence


def modernised(data: Any) -> Any:
    """Return a sequence's plain values as this Ondine names them."""
    if isinstance(data, dict) and "flash_us" in data and "flashes" not in data:
        # Until format 6 of the logbook, and 3 of recipes, there was one flash, and no valve but the first.
        others = {name: value for name, value in data.items() if name != "flash_us"}
        return others | {"flashes": [{"at_us": data["flash_us"]}]}
    return data


def sequence_to_json(sequence: Sequence) -> str:
    """Return the canonical JSON of a sequence."""
    return json.dumps(asdict(sequence))


def sequence_from_json(text: str) -> Sequence:
    """Read a sequence that `sequence_to_json` wrote, now or in an older version; whether it can be fired is not asked.

    Raises ValueError.
    """
    made = plain.read(Sequence, modernised(plain.loads(text)))
    for name, parts in (("drops", made.drops), ("flashes", made.flashes)):
        if not parts:
            raise ValueError(f"{name} is empty")
    return made
