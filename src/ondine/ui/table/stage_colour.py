"""Colour: white balance against flash and gel, what can be told apart, and a background sheet to print."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from PySide6.QtWidgets import QComboBox, QStackedWidget

from ondine.core.light.colour import palette, sheet_size_m
from ondine.core.units import Quantity, value_words
from ondine.studio.background import BackgroundSheet, SheetError, SheetKind, paint_sheet
from ondine.ui.kit.fields import ChoiceField, ColourField, WholeField, YesNoField
from ondine.ui.kit.files import ask_for_file, ask_where_to_write
from ondine.ui.kit.form import Form
from ondine.ui.kit.theme import GRID_PX
from ondine.ui.table.palette_figure import PaletteFigure
from ondine.ui.table.stage import StagePage, button, heading, note, row, tag
from ondine.ui.table.state import TableState
from ondine.ui.table.tools import TableTools

FIELDS = (
    "light.white_balance_k",
    "mix.tint",
    "bowl.tint",
    "light.background_tint",
    "light.background_m",
)
LAMP_FIELDS = ("colour_k", "gel_mired")
PREVIEW_PX = 360


class ColourStage(StagePage):
    """Palette and sheet."""

    title = "Colours in the picture"
    hint = "Set the white balance against the flash; print a sheet for behind the splash."

    def __init__(self, tools: TableTools) -> None:
        super().__init__(tools)
        self.figure = self.palette = PaletteFigure(tools.foresight)
        self.sheet = BackgroundSheet()
        self._painted: tuple[object, NDArray[np.uint8]] | None = None
        self.which = QComboBox()
        self.which.setMinimumHeight(32)
        self.which.setAccessibleName("Flash unit")
        self.which.activated.connect(lambda _: tools.signals.altered.emit())
        self.lamps = QStackedWidget()
        self.form = Form(FIELDS)
        self.form.edited.connect(tools.editor.edit)
        self.says = note(soft=False)
        self.kind = ChoiceField("Kind of sheet", SheetKind)
        self.kind.edited.connect(lambda kind: self._sheet(kind=kind))
        self.foot, self.head = ColourField("Colour at its foot"), ColourField("Colour at its head")
        self.foot.edited.connect(lambda tint: self._sheet(foot=tint))
        self.head.edited.connect(lambda tint: self._sheet(head=tint))
        self.bands = WholeField("Number of bands")
        self.bands.show_as(Quantity("", 1, 0, 1, 5))
        self.bands.edited.connect(lambda bands: self._sheet(bands=bands))
        self.turned = YesNoField("Upside down")
        self.turned.edited.connect(lambda on: self._sheet(upside_down=on))
        self.picture = button("Choose a picture", self._picture)
        self.write = button("Write PNG or PDF", self._write)
        self.column.addWidget(self.which)
        self.column.addWidget(self.lamps)
        self.column.addWidget(self.form)
        self.column.addWidget(self.says)
        self.column.addSpacing(GRID_PX)
        self.column.addWidget(heading("Background sheet"))
        self.column.addLayout(row(self.kind, self.picture, stretch=False))
        self.column.addLayout(row(tag("Foot"), self.foot, tag("Head"), self.head, stretch=False))
        self.column.addLayout(row(tag("Bands"), self.bands, tag("Upside down"), self.turned, stretch=False))
        self.column.addWidget(note("A drop turns what is behind it upside down: a turned sheet stands upright in it."))
        self.column.addLayout(row(self.write))
        self.column.addStretch(1)

    def show(self, table: TableState) -> None:
        """Show colours and sheet."""
        self.form.show_setup(table.setup, table.units)
        self._show_lamp(table)
        found = palette(table.setup, table.times)
        self.says.setText(found.words)
        for field, value in (
            (self.kind, self.sheet.kind),
            (self.foot, self.sheet.foot),
            (self.head, self.sheet.head),
            (self.bands, self.sheet.bands),
            (self.turned, self.sheet.upside_down),
        ):
            field.display(value)
        self.bands.setEnabled(self.sheet.kind is SheetKind.BANDS)
        self.picture.setEnabled(self.sheet.kind is SheetKind.PICTURE)
        wide, tall = sheet_size_m(table.setup)
        size = " × ".join(value_words("bowl.diameter_m", side, table.units) for side in (wide, tall))
        try:
            painted = self._preview(max(2, round(PREVIEW_PX * tall / wide)))
            away = value_words("light.background_m", table.setup.light.background_m, table.units)
            words = f"the sheet as printed, {size}, to stand {away} behind the drops"
        except SheetError as error:
            painted, words = None, str(error)
        self.palette.show_palette(found, painted, words)

    def _show_lamp(self, table: TableState) -> None:
        """Show colour and gel of the unit in hand."""
        names = [unit.name for unit in table.setup.light.units]
        if names != [self.which.itemText(n) for n in range(self.which.count())]:
            held = min(max(self.which.currentIndex(), 0), len(names) - 1)
            self.which.clear()
            self.which.addItems(names)
            self.which.setCurrentIndex(held)
        self.which.setVisible(len(names) > 1)
        index = self.which.currentIndex()
        while self.lamps.count() <= index:
            stem = f"light.units.{self.lamps.count()}"
            lamp = Form([f"{stem}.{name}" for name in LAMP_FIELDS], table.setup)
            lamp.edited.connect(self.tools.editor.edit)
            self.lamps.addWidget(lamp)
        self.lamps.setCurrentIndex(index)
        form = self.lamps.widget(index)
        assert isinstance(form, Form)
        form.show_setup(table.setup, table.units)

    def _preview(self, height_px: int) -> NDArray[np.uint8]:
        """The sheet, small; painted anew only when it has changed."""
        key = (self.sheet, height_px)
        if self._painted is None or self._painted[0] != key:
            self._painted = (key, paint_sheet(self.sheet, PREVIEW_PX, height_px))
        return self._painted[1]

    def _sheet(self, **change: object) -> None:
        self.sheet = replace(self.sheet, **change)  # type: ignore[arg-type]
        self.tools.signals.altered.emit()

    def _picture(self) -> None:
        ask_for_file(self.panel, "A picture for the sheet", "", lambda path: self._sheet(picture=path))

    def _write(self) -> None:
        size_m = sheet_size_m(self.tools.studio.composer.setup)
        write = lambda path: self.tools.studio.light_table.write(self.sheet, size_m, path)  # noqa: E731
        ask_where_to_write(self.panel, "Write the sheet", "background.pdf", "PDF or PNG (*.pdf *.png)", write)
