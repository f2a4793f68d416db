"""What hands do at the table, joined with the studio; and all that the stages show, computed once."""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass, field, replace
from functools import cached_property
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from ondine.bench.protocol import Dispensed, Pour
from ondine.core.edit import EditError, edited
from ondine.core.focus import Focus
from ondine.core.ledger import Ledger
from ondine.core.light.anchor import Frame, Settings, settings_of
from ondine.core.light.session import DarkFrame, LightSession
from ondine.core.light.stops import nearest, speeds
from ondine.core.sequence import Pulse, Sequence
from ondine.core.setup import Flash, Mix, Setup
from ondine.core.table import TableResults, table_results
from ondine.core.units import Length, Temperature, Units
from ondine.core.weighing import Weighing
from ondine.core.wire import setup_from_dict
from ondine.logbook.records import KeptSetupRecord, ShotRecord, SittingFacts, SittingRecord
from ondine.logbook.setup_file import SetupFileError, read_setup, write_setup
from ondine.logbook.trial_frame import TrialFrame
from ondine.studio.events import BenchState, Purpose
from ondine.studio.pouring import pour_of, prime_of
from ondine.studio.studio import Studio
from ondine.ui.prediction import Prediction

MOST_FLASHES = 4


@dataclass(frozen=True)
class Scene:
    """Everything that the stages show at one moment."""

    setup: Setup
    sequence: Sequence
    units: Units
    prediction: Prediction
    ledger: Ledger
    focus: Focus
    facts: SittingFacts
    looked_after: frozenset[str]
    light: LightSession
    shot: ShotRecord | None
    newest: ShotRecord | None
    state: BenchState

    @cached_property
    def results(self) -> TableResults:
        """What the first drop will do."""
        return table_results(self.prediction.forecast)


@dataclass
class WeighingRow:
    """A row of the weighing table while it is being filled."""

    open_us: int
    pulses: int
    grams: float = 0.0


@dataclass
class Shelf:
    """Lists that the logbook told last."""

    setups: list[KeptSetupRecord] = field(default_factory=list)
    sittings: list[SittingRecord] = field(default_factory=list)
    current: int | None = None
    mixes: dict[str, Mix] = field(default_factory=dict)
    units: dict[str, Flash] = field(default_factory=dict)


class TableDesk(QObject):
    """Answers the stages. Emits `refused(message)` where a change cannot be, `altered()` when more than the set-up did.

    Edits go to the studio as whole set-ups; nothing of the table lives here but choices of the window.
    """

    refused = Signal(str)
    altered = Signal()
    poured = Signal(object, object)

    def __init__(self, studio: Studio) -> None:
        super().__init__()
        self.studio = studio
        desk = studio.glance.desk
        self.units = _units(desk.get("units"))
        self.focus = Focus.from_json(desk["focus"]) if "focus" in desk else Focus()
        self.shelf = Shelf(mixes=_mixes(desk.get("mixes")), units=_units_kept(desk.get("flashes")))
        self.weighings = _weighings(desk.get("weighings"))
        self.progress = (0, 0)
        self.series = (0, 0)
        self.light = LightSession.from_json(desk["light"]) if "light" in desk else LightSession()
        self.trial: TrialFrame | None = None
        self.compared: tuple[str, Setup] | None = None
        self.shot_in_view: ShotRecord | None = None
        self._fillings: list[tuple[Pour, int]] = []

    # The set-up

    def edit(self, path: str, value: object, gesture: str | None = None) -> bool:
        """Change one field; return whether the table can stand so."""
        return self.edit_many([(path, value)], gesture)

    def edit_many(self, edits: list[tuple[str, object]], gesture: str | None = None) -> bool:
        """Change several fields at once; each that cannot be is refused, the others hold."""
        setup, problem = self.studio.setup, ""
        for path, value in edits:
            try:
                setup = edited(setup, path, value, self.units)
            except EditError as error:
                problem = str(error)
        self.refused.emit(problem)
        self.studio.use_setup(setup, gesture)
        if problem:
            self.altered.emit()
        return not problem

    def take(self, setup: Setup) -> None:
        """Take a whole set-up in hand."""
        self.refused.emit("")
        self.studio.use_setup(setup)

    def end_gesture(self) -> None:
        """A drag or a run of keys is over."""
        if self.studio.in_gesture:
            self.studio.end_gesture()
            self.altered.emit()

    def add_flash(self) -> None:
        """Put one more flash on the table, beside the last."""
        units = self.studio.setup.light.units
        if len(units) < MOST_FLASHES:
            last = units[-1]
            name = f"Unit {'ABCD'[len(units)]}"
            more = replace(last, name=name, x_m=last.x_m - 0.1, height_m=last.height_m + 0.05)
            self._lights((*units, more))

    def remove_flash(self, index: int) -> None:
        """Take a flash off the table; the last one stays."""
        units = self.studio.setup.light.units
        if len(units) > 1:
            self._lights((*units[:index], *units[index + 1 :]))

    def _lights(self, units: tuple[Flash, ...]) -> None:
        self.take(replace(self.studio.setup, light=replace(self.studio.setup.light, units=units)))

    def set_units(self, length: Length | None = None, temperature: Temperature | None = None) -> None:
        """Show lengths or temperatures in another unit; nothing of the set-up changes."""
        self.units = Units(length or self.units.length, temperature or self.units.temperature)
        self.studio.keep("units", json.dumps(asdict(self.units)))
        self.altered.emit()

    # Valve

    def prime(self, on: bool) -> None:
        """Let liquid flow while a hand holds the key."""
        if on:
            self.studio.pour(prime_of(self.studio.setup.rig), Purpose.PRIMING)
        else:
            self.studio.stop_pouring()

    def test_drop(self) -> None:
        """Let one drop fall, as long as the first of the sequence."""
        self._pour(self.studio.sequence.drops[0].open_us, 1, Purpose.TEST_DROP)

    def dispense(self, row: int) -> None:
        """Dispense the pulses of a weighing."""
        self._pour(self.weighings[row].open_us, self.weighings[row].pulses, Purpose.WEIGHING, row)

    def _pour(self, open_us: int, pulses: int, purpose: Purpose, row: int = 0) -> None:
        try:
            pour = pour_of(self.studio.setup.rig, open_us, pulses)
        except ValueError as error:
            self.refused.emit(str(error))
            return
        self.refused.emit("")
        if self.studio.pour(pour, purpose):
            self._fillings.append((pour, row))

    def pour_ended(self, purpose: Purpose, pour: Pour, dispensed: Dispensed) -> None:
        """Take down what a weighing really dispensed, and what a scale read."""
        self.progress = (0, 0)
        known = [index for asked, index in self._fillings if asked is pour]
        self._fillings = [entry for entry in self._fillings if entry[0] is not pour]
        if purpose is Purpose.WEIGHING and known:
            row = self.weighings[known[0]]
            row.pulses = dispensed.pulses
            if dispensed.grams is not None:
                row.grams = dispensed.grams
            self.keep_weighings()
        self.altered.emit()

    def set_weighing(self, index: int, **values: float) -> None:
        """Fill in a row of the weighings; rows before it come along."""
        while len(self.weighings) <= index:
            self.weighings.append(WeighingRow(25_000, 40))
        row = self.weighings[index]
        for name, value in values.items():
            if name != "grams" and getattr(row, name) != value:
                # What was weighed belongs to other pulses.
                row.grams = 0.0
            setattr(row, name, value)
        self.keep_weighings()
        self.altered.emit()

    def keep_weighings(self) -> None:
        """Keep the weighings on the desk."""
        self.studio.keep("weighings", json.dumps([asdict(row) for row in self.weighings]))

    def filled_weighings(self) -> list[Weighing]:
        """Return the rows that have grams."""
        return [Weighing(r.open_us, r.pulses, r.grams) for r in self.weighings if r.grams > 0]

    # Liquid

    def keep_mix(self, name: str) -> None:
        """Keep the liquid in hand under a name."""
        if name.strip():
            self.shelf.mixes[name.strip()] = self.studio.setup.mix
            kept = {key: asdict(mix) for key, mix in self.shelf.mixes.items()}
            self.studio.keep("mixes", json.dumps(kept))
            self.altered.emit()

    def use_mix(self, mix: Mix) -> None:
        """Take another liquid; its temperature is that of the room."""
        self.take(replace(self.studio.setup, mix=replace(mix, temperature_c=self.studio.setup.mix.temperature_c)))

    # Light

    def set_power(self, power: float, gesture: str | None) -> None:
        """Set the key unit."""
        self.edit("light.units.0.power", power, gesture)

    def change_power(self, stops: float) -> None:
        """Change all units by so many stops, as one."""
        units = self.studio.setup.light.units
        edits: list[tuple[str, object]] = [
            (f"light.units.{i}.power", unit.power * 2**stops) for i, unit in enumerate(units)
        ]
        self.edit_many(edits)

    def change_iso(self, stops: float) -> None:
        """Change the ISO by so many stops, to the nearest click."""
        wanted = self.studio.setup.camera.iso * 2**stops
        self.edit("camera.iso", int(nearest(speeds(), wanted).label))

    def read_last(self) -> None:
        """Read the picture of the shot in view as a test frame."""
        shot = self.shot_in_view
        if shot is None or shot.picture is None:
            self.refused.emit("There is no picture of the shot in view yet. Fire one, and wait for its picture.")
            return
        self.studio.light_table.read(shot.picture)

    def took_trial(self, frame: TrialFrame) -> None:
        """A test frame was read."""
        self.trial = frame
        self.refused.emit("")
        self.altered.emit()

    def settings_of_trial(self) -> Settings:
        """How the test frame was set: aperture and ISO from its file, the rest from the set-up."""
        settings = settings_of(self.studio.setup, self.light.clouding_stops)
        if self.trial is None:
            return settings
        return replace(settings, f_number=self.trial.f_number, iso=self.trial.iso or settings.iso)

    def rate_frame(self, what: str, frame: Frame) -> None:
        """Take a rated frame down."""
        self._light_learnt(self.light.with_frame(what, frame))

    def rate_room(self, dark: DarkFrame) -> None:
        """Take the frame of the room down."""
        self._light_learnt(replace(self.light, dark=dark))

    def set_clouding(self, stops: float) -> None:
        """Say how many stops milk or dye gained since the anchor frame."""
        self._light_learnt(replace(self.light, clouding_stops=stops))

    def keep_unit(self, index: int) -> None:
        """Keep a unit in the library, under its own name."""
        unit = self.studio.setup.light.units[index]
        self.shelf.units[unit.name] = unit
        kept = {name: asdict(flash) for name, flash in self.shelf.units.items()}
        self.studio.keep("flashes", json.dumps(kept))
        self.altered.emit()

    def use_unit(self, index: int, name: str) -> None:
        """Take a unit of the library; it stands where the one before stood."""
        units = list(self.studio.setup.light.units)
        stood, unit = units[index], self.shelf.units[name]
        units[index] = replace(
            unit, x_m=stood.x_m, height_m=stood.height_m, aside_m=stood.aside_m, place=stood.place, guard=stood.guard
        )
        self._lights(tuple(units))

    def forget_frames(self) -> None:
        """Begin again: the light or the liquid has changed."""
        self._light_learnt(LightSession())

    def _light_learnt(self, light: LightSession) -> None:
        self.light = light
        self.studio.keep("light", light.to_json())
        self.refused.emit("")
        self.altered.emit()

    def fire_dark(self) -> None:
        """Fire a frame without flash."""
        self.studio.fire(dark=True)

    def fire_series(self, count: int, interval_s: float) -> None:
        """Fire a series; never faster than the flash recycles."""
        if not 2 <= count <= 200:
            self.refused.emit(f"A series has 2 to 200 frames, not {count}.")
            return
        self.refused.emit("")
        self.studio.fire(count=count, interval_s=max(interval_s, 0.0))

    # Focus and checks

    def tick_focus(self, step: int) -> None:
        """Tick a step of the focus, or take it off."""
        self.focus = self.focus.voided(self.studio.setup).ticked(step, self.studio.setup)
        self.studio.keep("focus", self.focus.to_json())
        self.altered.emit()

    def tick(self, item: str) -> None:
        """Tick an item of a checklist, or take it off."""
        self.studio.sitting.tick(item)
        self.altered.emit()

    # Files

    def read_file(self, path: Path) -> None:
        """Take a set-up from a file in hand."""
        try:
            self.take(read_setup(path))
        except SetupFileError as error:
            self.refused.emit(str(error))

    def write_file(self, path: Path) -> None:
        """Write the set-up in hand into a file."""
        try:
            write_setup(self.studio.setup, path)
            self.refused.emit("")
        except SetupFileError as error:
            self.refused.emit(str(error))

    def fetch_of_shot(self) -> None:
        """Ask for the set-up that the shot in view was fired with; it comes to be compared and restored."""
        if self.shot_in_view is not None:
            self.studio.fetch_setup(self.shot_in_view.id)

    def fetched(self, name: str, setup: Setup) -> None:
        """Compare with a set-up that was fetched."""
        self.compared = (name, setup)
        self.altered.emit()

    # The lag

    def single_drop(self, flash_us: int) -> None:
        """Take one drop in hand, to be seen on its way down."""
        first = self.studio.sequence.drops[0]
        self.studio.compose(Sequence((Pulse(0, first.open_us),), flash_us, self.studio.setup.rig.max_open_us))

    def scene(self, prediction: Prediction, shot: ShotRecord | None, newest: ShotRecord | None) -> Scene:
        """Return what the stages show now: the shot in view, and the newest."""
        studio = self.studio
        self.shot_in_view = shot
        return Scene(
            setup=studio.setup,
            sequence=studio.sequence,
            units=self.units,
            prediction=prediction,
            ledger=studio.ledger,
            focus=self.focus,
            facts=studio.sitting.facts,
            looked_after=frozenset(studio.sitting.looked_after),
            light=self.light,
            shot=shot,
            newest=newest,
            state=studio.state,
        )


def _units(text: str | None) -> Units:
    if not text:
        return Units()
    kept = json.loads(text)
    return Units(Length(kept["length"]), Temperature(kept["temperature"]))


def _weighings(text: str | None) -> list[WeighingRow]:
    if not text:
        return [WeighingRow(15_000, 50), WeighingRow(40_000, 30)]
    return [WeighingRow(**row) for row in json.loads(text)]


def _mixes(text: str | None) -> dict[str, Mix]:
    return {name: Mix(**values) for name, values in json.loads(text).items()} if text else {}


def _units_kept(text: str | None) -> dict[str, Flash]:
    if not text:
        return {}
    return {name: setup_from_dict({"light": {"units": [unit]}}).light.key for name, unit in json.loads(text).items()}
