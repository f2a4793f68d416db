"""Plain JSON of sequences, for values that were validated before."""

from __future__ import annotations

import json

from ondine.core.timing.sequence import Pulse, Sequence


def sequence_to_json(sequence: Sequence) -> str:
    """Return the canonical JSON of a sequence."""
    drops = [{"start_us": p.start_us, "open_us": p.open_us} for p in sequence.drops]
    return json.dumps({"drops": drops, "flash_us": sequence.flash_us, "max_open_us": sequence.max_open_us})


def sequence_from_json(text: str) -> Sequence:
    """Read a sequence that `sequence_to_json` wrote. Raises SequenceError if it breaks a rule."""
    data = json.loads(text)
    drops = tuple(Pulse(d["start_us"], d["open_us"]) for d in data["drops"])
    return Sequence(drops, data["flash_us"], data["max_open_us"])
