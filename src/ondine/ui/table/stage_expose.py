"""The exposure that matches: from a test frame to a right one, for subject, background and room."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QAbstractItemView, QFileDialog, QHeaderView, QTableWidget, QTableWidgetItem

from ondine.core.light.ambient import allowed_lux, longest_exposure_s, verdict
from ondine.core.light.anchor import Combination, RatedFrame, equivalents, next_frame, parse_rating, settings_of
from ondine.core.light.exposure import background_under_subject_stops
from ondine.core.light.session import DarkFrame
from ondine.core.light.stops import apertures, powers, speeds, stops_words
from ondine.core.light.tones import SUBJECT_LINEAR, TONES, Tones, rating_of, tones
from ondine.core.setup.light import Step
from ondine.core.units import Quantity
from ondine.ui.kit.fields import QuantityField, WordField
from ondine.ui.kit.form import Form
from ondine.ui.kit.theme import GRID_PX, SMALL_PX, font
from ondine.ui.table.light_words import light_words
from ondine.ui.table.stage import StagePage, button, heading, note, row, tag
from ondine.ui.table.state import TableState
from ondine.ui.table.tools import TableTools
from ondine.ui.table.trial_view import Region, TrialView

FIELDS = ("light.background_tone", "light.dial_step", "camera.f_number", "camera.iso", "camera.exposure_s")
COLUMNS = ("power", "ISO", "aperture", "off")


class ExposeStage(StagePage):
    """Test frame with a region; advice; every equivalent; the room."""

    title = "The exposure that matches"
    hint = "Read a test frame, drag over the splash, rate it. Then the same over the background."

    def __init__(self, tools: TableTools) -> None:
        super().__init__(tools)
        self.figure = self.view = TrialView(tools.foresight)
        self.view.chosen.connect(self._region)
        self.region: Region = (0.35, 0.3, 0.65, 0.7)
        self.tones: Tones | None = None
        self._read_of: tuple[object, Region] | None = None
        self.last = button("Read the last picture", tools.light.read_last)
        self.file = button("Choose a file", self._choose)
        self.dark = button(
            "Fire without flash", tools.light.fire_dark, "A frame of the room alone: it must come out black"
        )
        self.form = Form(FIELDS, columns=2)
        self.form.edited.connect(tools.editor.edit)
        self.rating = WordField("How the frame came out")
        self.rating.setPlaceholderText("+1/3, right, black")
        self.rating.setToolTip("In stops, such as +1/3 or −2; or right, black, blown")
        self.clouding = QuantityField("Stops that milk or dye gained since")
        self.clouding.show_as(Quantity("stops", 1, 1, 1 / 3, 1))
        self.clouding.edited.connect(tools.light.set_clouding)
        self.subject = button("Rate the splash", lambda: self._rate("subject"), "Rate the splash in this frame")
        self.background = button(
            "Rate the background", lambda: self._rate("background"), "Rate the background in this frame"
        )
        self.room = button("Rate the room", self._rate_room, "This frame was taken without flash")
        self.again = button("Start over", tools.light.forget_frames)
        self.advice = note(soft=False)
        self.take = button("Correct by power", self._by_power)
        self.take_iso = button("Correct by ISO", self._by_iso)
        self.table = QTableWidget(0, len(COLUMNS))
        self.table.setHorizontalHeaderLabels(list(COLUMNS))
        self.table.setAccessibleName("Every equivalent exposure")
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.verticalHeader().hide()
        self.table.setShowGrid(False)
        self.table.setFont(font(SMALL_PX))
        self.table.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.table.verticalHeader().setDefaultSectionSize(24)
        self.table.itemActivated.connect(lambda item: self._take_row(item.row()))
        self.ways: list[Combination] = []
        self.ambient = note(soft=False)
        self.column.addLayout(row(self.last, self.file, self.dark))
        self.column.addWidget(self.form)
        self.column.addLayout(row(tag("It came out"), self.rating, tag("Clouding"), self.clouding, stretch=False))
        self.column.addLayout(row(self.subject, self.background))
        self.column.addLayout(row(self.room, self.again))
        self.column.addWidget(self.advice)
        self.column.addLayout(row(self.take, self.take_iso))
        self.column.addWidget(heading("The same exposure another way"))
        self.column.addWidget(self.table, 1)
        self.column.addSpacing(GRID_PX)
        self.column.addWidget(self.ambient)
        self.change = 0.0

    def show(self, table: TableState) -> None:
        """Show frame, tones, advice, equivalents and room."""
        self.form.show_setup(table.setup, table.units)
        frame = self.tools.light.trial
        if frame is not None and self._read_of != (frame, self.region):
            self._read_of = (frame, self.region)
            self._judge()
        self.view.show_frame(frame, self.region, self.tones)
        for pressed in (self.subject, self.background):
            pressed.setEnabled(frame is not None or bool(self.rating.text()))
        self.room.setEnabled(frame is not None)
        self.clouding.display(table.light.clouding_stops)
        self._show_advice(table)
        self._show_ways(table)
        self.ambient.setText(_room_words(table))

    def _judge(self) -> None:
        frame = self.tools.light.trial
        assert frame is not None
        height, width = frame.pixels.shape[:2]
        left, top, right, bottom = self.region
        part = frame.pixels[round(top * height) : round(bottom * height), round(left * width) : round(right * width)]
        self.tones = tones(part)
        rated = rating_of(self.tones, SUBJECT_LINEAR)
        words = stops_words(rated.low) if rated.exact else "black" if rated.high < 0 else "blown"
        self.rating.display(words)
        self.rating.setText(words)

    def _region(self, region: Region) -> None:
        self.region = region
        self.tools.signals.altered.emit()

    def _choose(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self.panel, "A test frame")
        if path:
            self.tools.studio.light_table.read(Path(path))

    def _rate(self, what: str) -> None:
        """Take the frame as rated: by its tones if they were read, by the words otherwise."""
        setup = self.tools.studio.composer.setup
        try:
            rating = parse_rating(self.rating.text())
            if what == "background" and self.tones is not None:
                rating = rating_of(self.tones, TONES[setup.light.background_tone])
            frame = RatedFrame(self.tools.light.settings_of_trial(), rating)
            self.tools.light.rate_frame(what, frame)
        except ValueError as error:
            self.tools.signals.refused.emit(str(error))

    def _rate_room(self) -> None:
        frame = self.tools.light.trial
        if frame is not None and self.tones is not None:
            iso = frame.iso or float(self.tools.studio.composer.setup.camera.iso)
            self.tools.light.rate_room(DarkFrame(self.tones.median, frame.exposure_s, frame.f_number, iso))

    def _show_advice(self, table: TableState) -> None:
        said, self.change = [], 0.0
        for what, frames in (("Splash", table.light.subject), ("Background", table.light.background)):
            if not frames:
                continue
            try:
                advice = next_frame(frames)
            except ValueError as error:
                said.append(f"{what}: {error}")
                continue
            if not frames[-1].rating.exact:
                said.append(f"{what}: clipped, so it tells only a bound. The last good frame stays the anchor.")
            if advice.done:
                said.append(f"{what}: right after {len(frames)} frames.")
            else:
                said.append(f"{what}: {stops_words(advice.change_stops)} stops. {advice.why}")
                if what == "Splash":
                    self.change = advice.change_stops
        said += light_words(table)
        under = background_under_subject_stops(table.setup.light, table.times)
        where = "under" if under >= 0 else "over"
        said.append(f"By place and power the background comes out {abs(under):.1f} stops {where} the splash.")
        self.advice.setText("\n".join(said))
        self.take.setEnabled(self.change != 0)
        self.take_iso.setEnabled(self.change != 0)

    def _show_ways(self, table: TableState) -> None:
        anchor = table.light.anchor
        key = table.setup.light.key
        self.ways = []
        if anchor is not None:
            now = settings_of(table.setup, table.light.clouding_stops, table.times)
            isos = [m for m in speeds(Step.FULL) if m.value <= table.setup.light.max_iso * 1.01]
            dial = apertures(table.setup.light.dial_step)
            self.ways = equivalents(anchor, now, powers(key.least_power, Step.FULL)[::-1], isos, dial)
        self.table.setRowCount(len(self.ways))
        for line, way in enumerate(self.ways):
            cells = (
                way.power.label,
                way.iso.label,
                f"f/{way.aperture.label}",
                f"{way.off_stops:+.2f}" if abs(way.off_stops) >= 0.005 else "0",
            )
            for column, words in enumerate(cells):
                item = QTableWidgetItem(words)
                item.setFlags(Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable)
                self.table.setItem(line, column, item)

    def _take_row(self, line: int) -> None:
        way = self.ways[line]
        units = self.tools.studio.composer.setup.light.units
        # All units by as many stops: the way is the same exposure only so.
        powers_of: list[tuple[str, object]] = [
            (f"light.units.{n}.power", way.power.value * unit.power / units[0].power) for n, unit in enumerate(units)
        ]
        self.tools.editor.edit_many(
            [*powers_of, ("camera.iso", round(way.iso.value)), ("camera.f_number", float(way.aperture.label))]
        )

    def _by_power(self) -> None:
        self.tools.editor.change_power(self.change)

    def _by_iso(self) -> None:
        self.tools.editor.change_iso(self.change)


def _room_words(table: TableState) -> str:
    camera = table.setup.camera
    allowed = f"At {camera.exposure_s:g} s the room may be {allowed_lux(camera):.2g} lx at most."
    stops = table.light.room_stops(table.setup)
    if stops is None:
        return f"{allowed} Fire without flash, then press “Rate the room”. A bright screen is a lamp: F5, F6."
    longest = longest_exposure_s(stops, camera.exposure_s)
    return f"{verdict(stops, camera.exposure_s)} {allowed} Longest shutter {longest:.2g} s."
