"""The log: any number of shots as a contact sheet or a table, found by a line of words."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QItemSelectionModel, QModelIndex, QSize, Qt, QTimer, Signal
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QStackedWidget,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from ondine.logbook.query import Order
from ondine.logbook.records import ShotRecord
from ondine.ui.kit.pictures import PictureLoader
from ondine.ui.kit.shot_list import ShotDelegate
from ondine.ui.kit.theme import GRID_PX, SMALL_PX, Theme, font
from ondine.ui.log.atlas_page import AtlasPage
from ondine.ui.log.card_page import CardPage
from ondine.ui.log.columns import COLUMNS
from ondine.ui.log.query_field import QueryField
from ondine.ui.log.saved_searches import SavedSearches
from ondine.ui.log.sheet_view import SheetView
from ondine.ui.log.shot_card import WIDE_PX, ShotCard
from ondine.ui.log.shots_model import ShotsModel

NOTHING_FITS = "No shot fits. Ask for less, or fire one: it will be here."
AGAIN_MS = 400
"""A shot that is fired while the log is in view is looked for so much later, together with others."""


SHEET, TABLE, ATLAS, CARD = "Sheet", "Table", "Atlas", "Card"
KINDS = (
    (SHEET, "The shots found as pictures  Ctrl H"),
    (TABLE, "The shots found as a table  Ctrl H"),
    (ATLAS, "The shots found over two of their figures: which timings made which shapes  Ctrl H"),
    (CARD, "Pictures of a camera's card, matched to their shots by time  Ctrl Shift I"),
)
"""The ways to look at what was found, and what each is."""


def _kind(name: str, tip: str) -> QPushButton:
    button = QPushButton(name)
    button.setCheckable(True)
    button.setToolTip(tip)
    return button


class LogView(QWidget):
    """A line of search, the shots that fit, and the one under the cursor.

    Emits `asked(line, order, like)`, `like` being the shot that others are compared with, whose answer comes through
    `show_found`; `wanted(numbers)` for records in view; `chosen(shot)` for the one to go to the bench with; `left()`.
    """

    asked = Signal(str, object, object)
    wanted = Signal(list)
    chosen = Signal(object)
    left = Signal()

    def __init__(self, loader: PictureLoader, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.model = ShotsModel(self)
        self.model.wanted.connect(self.wanted)
        self.text = QueryField()
        self.order = QComboBox()
        self.order.setAccessibleName("In which order")
        for order in Order:
            self.order.addItem(order.value.capitalize(), order)
        self._like: int | None = None
        self.searches = SavedSearches()
        self.understood = QLabel()
        self.understood.setObjectName("soft")
        self.understood.setFont(font(SMALL_PX))
        self.tally = QLabel()
        self.back = QPushButton("Back to the bench  Esc")
        self.back.clicked.connect(self.left)
        self.delegate = ShotDelegate(loader, QSize(186, 124), words=True, parent=self)
        self.sheet = SheetView(self.delegate)
        self.sheet.setAccessibleName("Shots found, as a contact sheet")
        self.table = QTableView()
        self.table.setAccessibleName("Shots found, as a table")
        self.atlas = AtlasPage()
        self.card_page = CardPage()
        self.card = ShotCard(loader)
        self.empty = QLabel(NOTHING_FITS)
        self.empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.empty.setWordWrap(True)
        self.views = QStackedWidget()
        self.kinds = {name: _kind(name, key) for name, key in KINDS}
        loader.ready.connect(lambda _: self.sheet.viewport().update())
        self._again = QTimer(self)
        self._again.setSingleShot(True)
        self._again.setInterval(AGAIN_MS)
        self._again.timeout.connect(self.ask)
        self._join_views()
        self._lay_out()
        self.text.asked.connect(lambda _: self.ask())
        self.text.asked.connect(self.searches.offer)
        self.text.left.connect(self.go_to_shots)
        self.order.currentIndexChanged.connect(self._order_chosen)
        self.searches.chosen.connect(self.text.write)
        for name, button in self.kinds.items():
            button.clicked.connect(lambda _=False, kind=name: self.show_as(kind))
        self.kinds[SHEET].setChecked(True)

    def _join_views(self) -> None:
        """Both views show one model, and share what is selected."""
        table = self.table
        table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        table.setTabKeyNavigation(False)
        table.setShowGrid(False)
        table.setWordWrap(False)
        table.verticalHeader().hide()
        table.verticalHeader().setDefaultSectionSize(3 * GRID_PX)
        table.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        for view in (self.sheet, table):
            view.setModel(self.model)
            self.views.addWidget(view)
        table.setSelectionModel(self.sheet.selectionModel())
        self.views.addWidget(self.atlas)
        self.views.addWidget(self.card_page)
        for number, column in enumerate(COLUMNS):
            table.setColumnWidth(number, column.width_px)
        self.sheet.selectionModel().currentChanged.connect(lambda *_: self.show_current())
        self.sheet.selectionModel().selectionChanged.connect(lambda *_: self.show_current())
        self.model.dataChanged.connect(lambda *_: self.show_current())
        self.sheet.chosen.connect(self._choose)
        table.activated.connect(self._choose)

    def _lay_out(self) -> None:
        line = QHBoxLayout()
        line.setSpacing(GRID_PX)
        for widget, stretch in ((self.text, 1), (self.searches, 0), (self.order, 0), (self.back, 0)):
            line.addWidget(widget, stretch)
        under = QHBoxLayout()
        under.setSpacing(GRID_PX)
        for button in self.kinds.values():
            under.addWidget(button)
        under.addWidget(self.understood, 1)
        under.addWidget(self.tally)
        found = QVBoxLayout()
        found.addWidget(self.empty, 1)
        found.addWidget(self.views, 1)
        across = QHBoxLayout()
        across.setSpacing(2 * GRID_PX)
        across.addLayout(found, 1)
        self.card.setFixedWidth(WIDE_PX)
        across.addWidget(self.card)
        column = QVBoxLayout(self)
        column.setContentsMargins(2 * GRID_PX, GRID_PX, 2 * GRID_PX, GRID_PX)
        for part in (line, under):
            column.addLayout(part)
        column.addLayout(across, 1)

    # What is asked

    def ask(self) -> None:
        """Ask for the shots that fit now."""
        self._again.stop()
        order = Order(self.order.currentData())
        self.asked.emit(self.text.text(), order, self._like if order is Order.LIKE else None)

    def _order_chosen(self) -> None:
        # The shot under the cursor now, not the one that the cursor comes to.
        self._like = self.current_number()
        self.ask()

    def show_like_this(self) -> None:
        """Put the shots first that are most like the one under the cursor."""
        place = self.order.findData(Order.LIKE)
        if self.order.currentIndex() == place:
            self._order_chosen()
        else:
            self.order.setCurrentIndex(place)

    def ask_again(self) -> None:
        """Ask soon: something was fired or changed."""
        if self.isVisible():
            self._again.start()

    def show_found(self, ids: NDArray[np.int64], understood: str, waiting: int) -> None:
        """Show the answer, and how it was understood."""
        current = self.current_number()
        if not np.array_equal(ids, self.model.ids):
            chosen = set(self.selected_numbers())
            self.model.set_ids(ids)
            self._select_again(current, chosen)
        shots = "1 shot" if len(ids) == 1 else f"{len(ids):,} shots".replace(",", " ")
        self.tally.setText(shots)
        late = (
            f"   {waiting} shots of an older Ondine are still being read, and may be missing here." if waiting else ""
        )
        self.say(f"{understood}{late}")
        self.empty.setText(NOTHING_FITS)
        self._show_empty()
        self.show_current()

    def _show_empty(self) -> None:
        """Say so where no shot fits; a card may be looked at all the same."""
        shown = bool(len(self.model.ids)) or self.views.currentWidget() is self.card_page
        if not shown and self.views.isAncestorOf(self.focusWidget() or self):
            # Keys must not go to what happens to come next: Space there would press it.
            self.text.setFocus()
        self.views.setVisible(shown)
        self.empty.setVisible(not shown)

    def say(self, words: str) -> None:
        """Say how a search was understood, or why it cannot be; what was found before stays."""
        self.understood.setText(words)
        self.understood.setToolTip(words)

    def _select_again(self, current: int | None, chosen: set[int]) -> None:
        """Stay at the shot that was under the cursor, if it is still among those found; else at the first."""
        row = self.model.row_of(current) if current is not None else None
        if not len(self.model.ids):
            return
        flags = QItemSelectionModel.SelectionFlag
        if row is not None and len(chosen) > 1:
            for place in np.flatnonzero(np.isin(self.model.ids, list(chosen)))[:2000]:
                self.sheet.selectionModel().select(self.model.index(int(place), 0), flags.Select | flags.Rows)
        index = self.model.index(row or 0, 0)
        self.sheet.selectionModel().setCurrentIndex(index, flags.Select | flags.Rows)
        self.scroll_to(index)

    # Which shots

    @property
    def view(self) -> QWidget:
        """The view in front: sheet, table or atlas; what takes the keys."""
        found = self.views.currentWidget()
        assert found is not None
        if found is self.card_page:
            return self.card_page.choose
        return self.atlas.view if found is self.atlas else found

    @property
    def is_atlas(self) -> bool:
        """Whether the atlas is in front."""
        return self.views.currentWidget() is self.atlas

    def show_as(self, kind: str) -> None:
        """Show what was found another way: by its name in `KINDS`."""
        self.views.setCurrentWidget(
            {SHEET: self.sheet, TABLE: self.table, ATLAS: self.atlas, CARD: self.card_page}[kind]
        )
        for name, button in self.kinds.items():
            button.setChecked(name == kind)
        self._show_empty()
        self.view.setFocus()
        if self.is_atlas:
            self.ask()
        else:
            self.scroll_to(self.sheet.currentIndex())

    def scroll_to(self, index: QModelIndex) -> None:
        """Bring a shot into sight, in sheet and table."""
        for view in (self.sheet, self.table):
            view.scrollTo(index)

    def show_only(self, ids: NDArray[np.int64]) -> None:
        """Show some of the shots alone, as the atlas was asked for them; until something is searched for."""
        self.model.set_ids(ids)
        self._select_again(None, set())
        self.show_as(SHEET)
        self.tally.setText(f"{len(ids)} shots of the atlas")

    def toggle_kind(self) -> None:
        """Look at what was found the next way: sheet, table, atlas."""
        order = (SHEET, TABLE, ATLAS)
        self.show_as(order[(self.views.currentIndex() + 1) % len(order)])

    def go_to_shots(self) -> None:
        """Leave the search for what it found; where that is nothing, stay."""
        (self.text if self.views.isHidden() else self.view).setFocus()

    def current_number(self) -> int | None:
        """Return the number of the shot under the cursor."""
        row = self.sheet.currentIndex().row()
        return int(self.model.ids[row]) if 0 <= row < len(self.model.ids) else None

    def selected_numbers(self) -> list[int]:
        """Return the numbers of the selected shots, in their order; the one under the cursor where none is."""
        rows: set[int] = set()
        for first, last in runs_of(self.sheet):
            rows.update(range(first, last + 1))
        found = [int(self.model.ids[row]) for row in sorted(rows) if row < len(self.model.ids)]
        current = self.current_number()
        return found or ([] if current is None else [current])

    def step_to(self, row: int) -> None:
        """Put the cursor on a row, if there is one of that number."""
        if 0 <= row < len(self.model.ids):
            flags = QItemSelectionModel.SelectionFlag
            index = self.model.index(row, 0)
            self.sheet.selectionModel().setCurrentIndex(index, flags.ClearAndSelect | flags.Rows)
            self.scroll_to(index)

    def current(self) -> ShotRecord | None:
        """Return the shot under the cursor, as far as it is read."""
        row = self.sheet.currentIndex().row()
        return self.model.record(row) if 0 <= row < len(self.model.ids) else None

    def show_current(self) -> None:
        """Show the shot under the cursor on the card."""
        self.card.show_shot(self.current(), sum(last + 1 - first for first, last in runs_of(self.sheet)))

    def _choose(self, index: object) -> None:
        shot = self.current()
        if shot is not None:
            self.chosen.emit(shot)

    def set_theme(self, theme: Theme) -> None:
        """Apply the theme."""
        self.delegate.theme = theme
        self.sheet.forget_drawn()
        self.card.set_theme(theme)
        self.atlas.view.theme = theme
        self.atlas.view.update()
        self.card_page.set_theme(theme)


def runs_of(view: QAbstractItemView) -> list[tuple[int, int]]:
    """First and last row of each run that is selected in a view."""
    chosen = view.selectionModel().selection()
    # Its parts live no longer than it does.
    return [(chosen.at(number).top(), chosen.at(number).bottom()) for number in range(chosen.size())]
