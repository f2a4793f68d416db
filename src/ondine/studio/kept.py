"""What was in hand and chosen at the last closing, each value read on its own: one that is odd harms no other."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import TypeVar

T = TypeVar("T")

ASIDE = "set aside "
"""What could not be read is kept in the logbook under its old name with this before it."""


@dataclass
class KeptState:
    """Texts by key as the logbook holds them; `set_aside` collects those that could not be read, `notes` what is to be
    said of the others.
    """

    texts: Mapping[str, str]
    set_aside: dict[str, str] = field(default_factory=dict)
    notes: list[str] = field(default_factory=list)

    def read(self, key: str, parse: Callable[[str], T], default: T) -> T:
        """Return what `parse` makes of a text, or the default where there is none or it raises ValueError."""
        text = self.texts.get(key)
        if text is None:
            return default
        try:
            return parse(text)
        except ValueError:
            self.set_aside[key] = text
            return default

    @property
    def words(self) -> str:
        """Say what was set aside and what else is to be known, or nothing."""
        if not self.set_aside:
            return " ".join(self.notes)
        listed = ", ".join(NAMES.get(key, key) for key in self.set_aside)
        says = (
            f"Not to be read any more, so as usual at a first start: {listed}. The old text is kept in the logbook. "
            "Look whether the table is as you left it before you fire."
        )
        return " ".join([says, *self.notes])


NAMES = {
    "sequence": "the timings in hand",
    "setup": "the table in hand",
    "belief": "what was learned of the rig",
    "locks": "what is locked to what",
    "convention": "how times are counted",
    "ledger": "what has run through the valve",
    "theme": "the colours",
    "folder": "the folder of pictures",
    "light": "the test frames",
    "weighings": "the weighings",
    "mixes": "the kept liquids",
    "flashes": "the kept flashes",
    "units": "the units",
    "bench": "what opens the valve",
    "rig": "which rig is simulated",
    "focus": "the steps of the focus",
    "coach": "whether the coach speaks",
    "practice": "what was practised",
    "corrections": "what was put right at the table",
}
