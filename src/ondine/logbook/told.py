"""The times of logged shots as a convention tells them, for the table of the log."""

from __future__ import annotations

from functools import lru_cache

from ondine.core.belief.priors import Belief
from ondine.core.forecast.landmarks import predicts_for
from ondine.core.physics.liquid import LiquidError
from ondine.core.setup import Setup
from ondine.core.timing.conventions import Convention, ConventionError, Landmarks, light_base_us, wait_us
from ondine.core.timing.sequence import Pulse
from ondine.logbook.records import ShotRecord

Cell = str | int | float


class Telling:
    """Tells shots in one convention; what is predicted is so for each shot's own set-up, as it was foreseen then."""

    def __init__(self, convention: Convention, setups: dict[str, Setup], beliefs: dict[str, Belief]) -> None:
        self.convention = convention
        self._setups, self._beliefs = setups, beliefs
        self._landmarks = lru_cache(maxsize=4096)(self._predict)

    @staticmethod
    def columns(drops: int, flashes: int) -> list[str]:
        """Return the names of the columns."""
        waits = [f"drop{n + 1}_wait_ms" for n in range(drops)]
        return ["counted", *waits, *(f"flash{n + 1}_delay_ms" for n in range(flashes))]

    def row(self, shot: ShotRecord, drops: int, flashes: int) -> list[Cell]:
        """Return the cells of a shot; a delay is left open where its beginning is not predicted."""
        sequence, convention = shot.sequence, self.convention
        waits: list[Cell] = [
            wait_us(sequence, n, convention.counts) / 1000 for n in range(len(sequence.drops))
        ]  # fmt: skip
        delays: list[Cell] = []
        try:
            base_us = light_base_us(
                sequence.drops, convention.light_from, lambda d: self._landmarks(shot.setup_id, shot.belief_id, d)
            )
            delays = [(lit.at_us - base_us) / 1000 for lit in sequence.flashes]
        except ConventionError:
            pass
        counted = f"{convention.counts}, flash from {convention.light_from}"
        return [counted, *_filled(waits, drops), *_filled(delays, flashes)]

    def _predict(self, setup_id: str, belief_id: str, drops: tuple[Pulse, ...]) -> Landmarks:
        setup, belief = self._setups.get(setup_id), self._beliefs.get(belief_id)
        if setup is None or belief is None:
            return Landmarks()
        try:
            return predicts_for(setup, belief)(drops)
        except LiquidError:
            # A table of the past that cannot be foreseen.
            return Landmarks()


def _filled(cells: list[Cell], count: int) -> list[Cell]:
    return [*cells, *[""] * (count - len(cells))]
