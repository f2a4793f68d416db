"""What is kept under a name: set-ups, liquids, flash units; files of set-ups; and what is compared."""

from __future__ import annotations

import json
from dataclasses import asdict, replace
from pathlib import Path
from typing import Any

from ondine.core import plain
from ondine.core.belief.priors import Belief
from ondine.core.setup import Flash, Mix, Setup
from ondine.core.setup.fields import put, within_limits
from ondine.logbook.records import KeptSetupRecord, SittingRecord
from ondine.studio.studio import Studio
from ondine.ui.kit.shot_in_view import ShotInView
from ondine.ui.table.editor import SetupEditor
from ondine.ui.table.signals import TableSignals


class Library:
    """Lists that the logbook told last, and what comes out of them. `sitting` is the number of the one going on.

    `compared`: name, set-up and belief that stand beside those in hand; `measured`: a shot whose picture is measured,
    and its set-up once that is told.
    """

    def __init__(self, studio: Studio, editor: SetupEditor, in_view: ShotInView, signals: TableSignals) -> None:
        self._studio, self._editor, self._in_view, self._signals = studio, editor, in_view, signals
        self.mixes: dict[str, Mix] = studio.kept.read("mixes", _mixes, {})
        self.flashes: dict[str, Flash] = studio.kept.read("flashes", _flashes, {})
        self.setups: list[KeptSetupRecord] = []
        self.sittings: list[SittingRecord] = []
        self.sitting: int | None = None
        self.compared: tuple[str, Setup, Belief] | None = None
        self.measured: tuple[int, Setup | None] | None = None

    # Set-ups and sittings

    def keep_setup(self) -> None:
        """Keep the set-up in hand under its own name."""
        plan = self._studio.composer.plan
        self._studio.log.keep_setup(plan.setup.name, plan.setup, plan.belief)

    def setups_found(self, setups: list[KeptSetupRecord]) -> None:
        """Hear the named set-ups."""
        self.setups = setups
        self._signals.altered.emit()

    def sittings_found(self, sittings: list[SittingRecord], current: int | None) -> None:
        """Hear all sittings."""
        self.sittings, self.sitting = sittings, current
        self._signals.altered.emit()

    def fetch_of_shot(self) -> None:
        """Ask for the set-up that the shot in view was fired with; it comes to be compared and restored."""
        if self._in_view.shot is not None:
            self._studio.log.fetch_setup(self._in_view.shot.id)

    def setup_fetched(self, shot_id: int, setup: Setup, belief: Belief) -> None:
        """Compare with a set-up that was fetched."""
        self.compared = (f"shot {shot_id}", setup, belief)
        self._signals.altered.emit()

    def measure(self, shot_id: int) -> None:
        """Ask once for the set-up of a shot whose picture is measured: an older camera may have stood elsewhere."""
        if self.measured is None or self.measured[0] != shot_id:
            self.measured = shot_id, None
            self._studio.log.tell_setup(shot_id)

    def setup_told(self, shot_id: int, setup: Setup) -> None:
        """Hear the set-up of a shot."""
        if self.measured is not None and self.measured[0] == shot_id:
            self.measured = shot_id, setup
            self._signals.altered.emit()

    def write_file(self, path: Path) -> None:
        """Write the set-up in hand into a file."""
        plan = self._studio.composer.plan
        self._studio.exchange.write_setup(plan.setup, plan.belief, path)

    # Liquids

    def keep_mix(self, name: str, mix: Mix) -> None:
        """Keep a liquid under a name."""
        if name.strip():
            self.mixes[name.strip()] = mix
            kept = {key: asdict(mix) for key, mix in self.mixes.items()}
            self._studio.log.keep("mixes", json.dumps(kept))
            self._signals.altered.emit()

    def use_mix(self, mix: Mix, path: str = "mix") -> None:
        """Take another liquid, for all valves or for one; its temperature is that of the room."""
        setup = self._studio.composer.setup
        self._editor.use(put(setup, path, replace(mix, temperature_c=setup.mix.temperature_c)))

    # Flash units

    def keep_flash(self, index: int) -> None:
        """Keep a unit under its own name."""
        unit = self._studio.composer.setup.light.units[index]
        self.flashes[unit.name] = unit
        kept = {name: asdict(flash) for name, flash in self.flashes.items()}
        self._studio.log.keep("flashes", json.dumps(kept))
        self._signals.altered.emit()

    def use_flash(self, index: int, name: str) -> None:
        """Take a kept unit; it stands where the one before stood."""
        units = list(self._studio.composer.setup.light.units)
        stood, unit = units[index], self.flashes[name]
        units[index] = replace(
            unit, x_m=stood.x_m, height_m=stood.height_m, aside_m=stood.aside_m, place=stood.place, guard=stood.guard
        )
        self._editor.use_flashes(tuple(units))


def _mixes(text: str) -> dict[str, Mix]:
    mixes = {name: within_limits(plain.read(Mix, values)) for name, values in _named(text).items()}
    for mix in mixes.values():
        mix.liquid()
    return mixes


def _flashes(text: str) -> dict[str, Flash]:
    return {name: within_limits(plain.read(Flash, unit)) for name, unit in _named(text).items()}


def _named(text: str) -> dict[str, Any]:
    found = plain.loads(text)
    if not isinstance(found, dict):
        raise ValueError("it is no object")
    return found
