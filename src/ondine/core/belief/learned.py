"""What shots have left of a belief: rigs that could be this one, each as likely as the others."""

from __future__ import annotations

import base64
import binascii
from collections.abc import Collection, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

MOST = 1e3
"""No factor, time or share of a rig is greater, and none is known worse than so many times over."""

SIGNED = ("height_error_m", "flash_lag_s")
"""Numbers that may be negative; all others are believed in their logarithm."""

ONLY_LEARNED = ("flash_lag_s", "jitter_s")
"""Numbers of a rig that nobody believes anything of before a shot: the lags and the jitter entered hold till then."""

MAY_BE_ZERO = (*SIGNED, "jitter_s", "column_sinks_m_s")

MOST_RIGS = 4096
"""More rigs say nothing more, and no file of ours holds them."""


@dataclass(frozen=True)
class Learned:
    """A joint belief as equally likely rigs, so that what hangs together stays together: a late drop may have fallen
    from higher or let go later, but hardly both.

    `names` : the numbers that each rig has, those of `Belief.priors`, and `flash_lag_s` and `jitter_s` besides;
    `packed` : their values in SI as half-precision floats, little-endian, rig by rig, in Base64. Half precision keeps
    three digits, more than any shot teaches. The first rig is the most typical one.
    """

    names: tuple[str, ...]
    packed: str

    @classmethod
    def of(cls, values: Mapping[str, Floats]) -> Learned:
        """Pack numbers by name, each of shape (n,)."""
        table = np.stack([np.asarray(column, dtype="<f2") for column in values.values()], axis=1)
        return cls(tuple(values), base64.b64encode(table.tobytes()).decode())

    def check(self, needed: Collection[str]) -> None:
        """Raise ValueError for what no rigs can be read from; needed : the numbers that each rig must have.

        Numbers of a newer Ondine are passed over.
        """
        missing = sorted(set(needed) - set(self.names))
        if missing or len(set(self.names)) < len(self.names):
            raise ValueError(f"learned.names lacks {missing[0]}" if missing else "learned.names has a name twice")
        for name, column in self.values().items():
            least = -MOST if name in SIGNED else 0.0
            if name in needed and not least <= column.min() <= column.max() <= MOST:
                raise ValueError(f"learned {name} cannot be from {column.min():g} to {column.max():g}")
            if name in needed and name not in MAY_BE_ZERO and not column.all():
                raise ValueError(f"learned {name} cannot be 0")

    def values(self) -> dict[str, Floats]:
        """Return the numbers by name, each of shape (n,). Raises ValueError where the text is no such table."""
        try:
            raw = base64.b64decode(self.packed, validate=True)
        except binascii.Error as error:
            raise ValueError("learned.packed is no Base64") from error
        width = 2 * len(self.names)
        if not width or not raw or len(raw) % width or len(raw) // width > MOST_RIGS:
            raise ValueError(f"learned.packed holds {len(raw)} bytes: no whole number of rigs")
        table = np.frombuffer(raw, dtype="<f2").reshape(-1, len(self.names)).astype(float)
        if not np.isfinite(table).all():
            raise ValueError("learned.packed holds what is no number")
        return {name: table[:, index].copy() for index, name in enumerate(self.names)}
