"""Plain dictionaries of sequences and set-ups, for values that were checked at the door before."""

from __future__ import annotations

import json
from typing import Any

from ondine.core.sequence import Pulse, Sequence
from ondine.core.setup import Beliefs, Camera, Light, Mix, Prior, Rig, Setup


def sequence_to_json(sequence: Sequence) -> str:
    """Return the canonical JSON of a sequence."""
    drops = [{"start_us": p.start_us, "open_us": p.open_us} for p in sequence.drops]
    return json.dumps({"drops": drops, "flash_us": sequence.flash_us, "max_open_us": sequence.max_open_us})


def sequence_from_json(text: str) -> Sequence:
    """Read a sequence that `sequence_to_json` wrote. Raises SequenceError if it breaks a rule."""
    data = json.loads(text)
    drops = tuple(Pulse(d["start_us"], d["open_us"]) for d in data["drops"])
    return Sequence(drops, data["flash_us"], data["max_open_us"])


def setup_from_dict(data: dict[str, Any]) -> Setup:
    """Read a set-up that `Setup.to_json` wrote; parts that are left out take their defaults."""
    beliefs = {name: Prior(**prior) for name, prior in data.get("beliefs", {}).items()}
    return Setup(
        name=data.get("name", Setup.name),
        rig=Rig(**data.get("rig", {})),
        mix=Mix(**data.get("mix", {})),
        camera=Camera(**data.get("camera", {})),
        light=Light(**data.get("light", {})),
        beliefs=Beliefs(**beliefs),
    )


def setup_from_json(text: str) -> Setup:
    """Read a set-up from its JSON text."""
    return setup_from_dict(json.loads(text))
