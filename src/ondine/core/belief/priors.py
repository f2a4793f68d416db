"""What is believed of the numbers of a rig that nobody can read off it."""

from __future__ import annotations

import hashlib
import json
from dataclasses import asdict, dataclass, field, fields
from typing import Any

from ondine.core import plain
from ondine.core.belief.learned import ONLY_LEARNED, Learned
from ondine.core.setup.fields import About, number

OLDER_LAW = "start_speed_m_s"
"""A belief that has this number was made when releases, jets and sheets had other laws."""

STILL_HOLDS = ("lag_s", "flow_factor", "height_error_m", "merge_ratio", "crown_time_factor", "variation")
"""What such a belief says that means the same today. What shots taught it is to be learned anew from them."""

NO_PRIORS = ("variation", "learned")
"""The fields of a belief that are no belief about one number."""


@dataclass(frozen=True)
class Prior:
    """A belief about one number of the rig: its middle and standard deviation, in the number's own unit.

    Positive numbers are believed in their logarithm: the middle is then the median.
    """

    mean: float = field(metadata={"about": About("Mean", -1e6, 1e6)})
    sd: float = field(metadata={"about": About("Spread", 0.0, 1e6)})


@dataclass(frozen=True)
class Variation:
    """What differs from shot to shot on one and the same rig, as standard deviations. It is estimated, never learned
    as if it were the rig's. The valve's jitter is entered with the triggers.
    """

    volume_share: float = number(0.01, 0.0, 0.5, "Volume of a drop varies by")
    aside_m: float = number(0.5e-3, 0.0, 0.05, "Drops land aside by")
    lean: float = number(0.02, 0.0, 1.0, "Jets lean by")
    satellites_share: float = number(0.03, 0.0, 1.0, "Shots with satellites or bubbles")
    crater_jet_share: float = number(0.4, 0.0, 2.0, "Jet of a crater struck twice varies by")


@dataclass(frozen=True)
class Belief:
    """What is believed of the rig's hidden numbers before a shot (docs/physics.md, Uncertainty).

    Each number is believed for itself until shots have taught something: then `learned` holds the rigs that are left,
    and the priors only say where they began.

    Never edited in place: learning makes a new revision, addressed by its content as a set-up's is.
    """

    lag_s: Prior = Prior(9e-3, 6.5e-3)
    outlet_factor: Prior = Prior(1.15, 0.2)
    momentum_factor: Prior = Prior(1.0, 0.12)
    flow_factor: Prior = Prior(1.0, 0.14)
    height_error_m: Prior = Prior(0.0, 5e-3)
    merge_ratio: Prior = Prior(0.5, 0.26)
    energy_share: Prior = Prior(0.54, 0.12)
    crown_time_factor: Prior = Prior(1.0, 0.3)
    jet_delay_factor: Prior = Prior(1.6, 0.24)
    jet_speed_factor: Prior = Prior(2.8, 0.45)
    jet_slowing_factor: Prior = Prior(1.7, 0.85)
    bead_time_factor: Prior = Prior(1.0, 0.35)
    tip_mass_share: Prior = Prior(1.0, 0.3)
    sheet_time_factor: Prior = Prior(0.9, 0.28)
    sheet_peak_share: Prior = Prior(0.48, 0.08)
    sheet_width_factor: Prior = Prior(1.0, 0.27)
    column_stands_s: Prior = Prior(0.05, 0.02)
    column_sinks_m_s: Prior = Prior(0.1, 0.06)
    variation: Variation = Variation()
    learned: Learned | None = None

    @property
    def priors(self) -> dict[str, Prior]:
        """The numbers of the rig by name, in the order of their declaration."""
        return {f.name: getattr(self, f.name) for f in fields(self) if f.name not in NO_PRIORS}

    def middle(self, name: str) -> float:
        """Return the middle of what is believed of a number: of the rigs that shots have left, or of its prior."""
        return self.priors[name].mean if self.learned is None else float(self.learned.values()[name].mean())

    def to_json(self) -> str:
        """Return the canonical JSON text that its address is computed from."""
        said = asdict(self)
        if self.learned is None:
            # As it was written before shots could teach: what nobody taught keeps its address.
            del said["learned"]
        return json.dumps(said, sort_keys=True, separators=(",", ":"), allow_nan=False)

    @property
    def revision(self) -> str:
        """Address by content: the first 16 hex digits of the SHA-256 of the canonical JSON."""
        return hashlib.sha256(self.to_json().encode()).hexdigest()[:16]


def belief_from_dict(data: dict[str, Any]) -> Belief:
    """Read a belief that `Belief.to_json` wrote, now or in an older version; left-out parts take their defaults.

    Of one that was made by an older law only what still holds is taken: see `STILL_HOLDS`.
    Raises ValueError that names the field.
    """
    if isinstance(data, dict) and OLDER_LAW in data:
        data = {name: value for name, value in data.items() if name in STILL_HOLDS}
    made = plain.read(Belief, data)
    if made.learned is not None:
        made.learned.check((*made.priors, *ONLY_LEARNED))
    return made


def was_taught_by_older_laws(text: str) -> bool:
    """Whether the JSON text of a belief holds what shots taught when releases, jets and sheets had other laws."""
    return f'"{OLDER_LAW}"' in text and '"learned"' in text


def belief_from_json(text: str) -> Belief:
    """Read a belief from its JSON text. Raises ValueError that names the field."""
    return belief_from_dict(plain.loads(text))
