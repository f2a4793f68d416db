"""What the season's shots have taught of the rig, at each of its tables; learned by `python -m ondine.demo.make`."""

from __future__ import annotations

import json

from ondine.core.belief.priors import Belief, belief_from_dict
from ondine.core.forecast.plan import Plan
from ondine.demo.scenario import BELIEFS, MILL_RACE, NOW, RACE, START, TIDAL_MILL


def beliefs() -> dict[str, Belief]:
    """Return all beliefs of the season by their names, as `season.json` calls them."""
    kept = json.loads(BELIEFS.read_text(encoding="utf-8"))
    return {name: belief_from_dict(belief) for name, belief in kept.items()}


_BELIEFS = beliefs()

TAUGHT = _BELIEFS[f"{NOW}{TIDAL_MILL.name}"]
IN_HAND = Plan(START, TIDAL_MILL, TAUGHT)
RACE_IN_HAND = Plan(RACE, MILL_RACE, _BELIEFS[f"{NOW}{MILL_RACE.name}"])
