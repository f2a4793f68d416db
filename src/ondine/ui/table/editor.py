"""Changes of the set-up by hand: checked, refused with a sentence, or taken in hand as a whole."""

from __future__ import annotations

import json
from dataclasses import asdict, replace

from ondine.core import plain
from ondine.core.belief.priors import Belief
from ondine.core.belief.rigs import check_belief
from ondine.core.light.stops import nearest, speeds
from ondine.core.setup import Flash, Setup
from ondine.core.table.edit import EditError, check, edited
from ondine.core.table.firing import problems
from ondine.core.timing.sequence import Sequence
from ondine.core.units import Length, Temperature, Units
from ondine.studio.studio import Studio
from ondine.ui.table.signals import TableSignals

MOST_FLASHES = MOST_VALVES = 4
LETTERS = "ABCD"
BESIDE_M = 0.06
"""Where a new valve is put: far enough for its splash to be its own."""


class SetupEditor:
    """Edits the set-up in hand, in the units that the window shows."""

    def __init__(self, studio: Studio, signals: TableSignals) -> None:
        self._studio, self._signals = studio, signals
        self._composer = studio.composer
        self.units = studio.kept.read("units", lambda text: plain.parse(Units, text), Units())

    def edit(self, path: str, value: object, gesture: str | None = None) -> bool:
        """Change one field; return whether the table can stand so."""
        return self.edit_many([(path, value)], gesture)

    def edit_many(self, edits: list[tuple[str, object]], gesture: str | None = None) -> bool:
        """Change several fields at once; each that cannot be is refused, the others hold."""
        setup, problem = self._composer.setup, ""
        for path, value in edits:
            try:
                setup = edited(setup, path, value, self.units)
            except EditError as error:
                problem = str(error)
        # The change holds; what is in hand may no longer be fired with it.
        cannot = problems(self._composer.sequence, setup)
        self._signals.refused.emit(problem or (cannot[0].says if cannot else ""))
        self._composer.use_setup(setup, gesture=gesture)
        if problem:
            self._signals.altered.emit()
        return not problem

    def use(self, setup: Setup, belief: Belief | None = None) -> None:
        """Take a whole set-up in hand, and the belief that comes with it; one that cannot stand is refused."""
        try:
            check(setup, self.units)
            check_belief(belief or self._composer.belief)
        except ValueError as error:
            self._signals.refused.emit(str(error))
            return
        self._signals.refused.emit("")
        self._composer.use_setup(setup, belief)

    def end_gesture(self) -> None:
        """A drag or a run of keys is over."""
        if self._composer.in_gesture:
            self._composer.end_gesture()
            self._signals.altered.emit()

    def set_units(self, length: Length | None = None, temperature: Temperature | None = None) -> None:
        """Show lengths or temperatures in another unit; nothing of the set-up changes."""
        self.units = Units(length or self.units.length, temperature or self.units.temperature)
        self._studio.log.keep("units", json.dumps(asdict(self.units)))
        self._signals.altered.emit()

    # Valves and flashes

    def add_valve(self) -> None:
        """Put one more valve on the table, beside the last."""
        setup = self._composer.setup
        if len(setup.valves) < MOST_VALVES:
            last = setup.valves[-1]
            name = f"Valve {LETTERS[len(setup.valves)]}"
            self.use(replace(setup, valves=(*setup.valves, replace(last, name=name, aside_m=last.aside_m + BESIDE_M))))

    def remove_valve(self, index: int) -> None:
        """Take a valve off the table; its drops fall from the one before it. The last one stays."""
        plan = self._composer.plan
        if len(plan.setup.valves) > 1:
            valves = plan.setup.valves
            kept = replace(plan.setup, valves=(*valves[:index], *valves[index + 1 :]))
            drops = tuple(
                replace(pulse, valve=max(pulse.valve - 1, 0)) if pulse.valve >= index else pulse
                for pulse in plan.sequence.drops
            )
            self._composer.use_plan(replace(plan, setup=kept, sequence=replace(plan.sequence, drops=drops)))

    def add_flash(self) -> None:
        """Put one more flash on the table, beside the last."""
        units = self._composer.setup.light.units
        if len(units) < MOST_FLASHES:
            last = units[-1]
            name = f"Unit {LETTERS[len(units)]}"
            more = replace(last, name=name, x_m=last.x_m - 0.1, height_m=last.height_m + 0.05)
            self.use_flashes((*units, more))

    def remove_flash(self, index: int) -> None:
        """Take a flash off the table; the last one stays."""
        units = self._composer.setup.light.units
        if len(units) > 1:
            self.use_flashes((*units[:index], *units[index + 1 :]))

    def use_flashes(self, units: tuple[Flash, ...]) -> None:
        """Replace all flashes."""
        setup = self._composer.setup
        self.use(replace(setup, light=replace(setup.light, units=units)))

    def set_power(self, power: float, gesture: str | None, unit: int = 0) -> None:
        """Set the power of a unit."""
        self.edit(f"light.units.{unit}.power", power, gesture)

    def change_power(self, stops: float) -> None:
        """Change all units by so many stops, as one."""
        units = self._composer.setup.light.units
        edits: list[tuple[str, object]] = [
            (f"light.units.{i}.power", unit.power * 2**stops) for i, unit in enumerate(units)
        ]
        self.edit_many(edits)

    def change_iso(self, stops: float) -> None:
        """Change the ISO by so many stops, to the nearest click."""
        wanted = self._composer.setup.camera.iso * 2**stops
        self.edit("camera.iso", int(nearest(speeds(), wanted).label))

    # The sequence

    def single_drop(self, flash_us: int) -> None:
        """Take one drop in hand, to be seen on its way down."""
        plan = self._composer.plan
        first = replace(plan.sequence.drops[0], start_us=0)
        self._composer.use_sequence(Sequence.with_one_flash((first,), flash_us))
