"""How hard hidden rigs are to find one's way on."""

from __future__ import annotations

from enum import StrEnum

from ondine.bench.simulated.hidden import Rooms


class Level(StrEnum):
    """How much a hidden rig has to hide."""

    EASY = "easy"
    NORMAL = "normal"
    TREACHEROUS = "treacherous"


ROOMS = {
    Level.EASY: Rooms(0.3, 0.5e-3, 0.0),
    Level.NORMAL: Rooms(0.6, 1.0e-3, 40e-3),
    Level.TREACHEROUS: Rooms(),
}
"""Easy: much as a new set-up expects it, and steady. Treacherous: anything that practice has."""
