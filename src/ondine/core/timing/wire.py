"""Plain JSON of sequences, for values that were validated before."""

from __future__ import annotations

import json
from dataclasses import dataclass

from ondine.core import plain
from ondine.core.timing.sequence import Pulse, Sequence


def sequence_to_json(sequence: Sequence) -> str:
    """Return the canonical JSON of a sequence."""
    drops = [{"start_us": p.start_us, "open_us": p.open_us} for p in sequence.drops]
    return json.dumps({"drops": drops, "flash_us": sequence.flash_us})


@dataclass(frozen=True)
class _Kept:
    drops: tuple[Pulse, ...]
    flash_us: int


def sequence_from_json(text: str) -> Sequence:
    """Read a sequence that `sequence_to_json` wrote. Raises ValueError; SequenceError if it breaks a rule."""
    kept = plain.parse(_Kept, text)
    return Sequence(kept.drops, kept.flash_us)
