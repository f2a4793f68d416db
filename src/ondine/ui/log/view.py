"""The log: any number of shots as a contact sheet or a table, found by a line of words."""

from __future__ import annotations

from typing import Protocol

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QItemSelectionModel, QModelIndex, QSize, Qt, Signal
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QStackedWidget,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from ondine.logbook.records import ShotRecord
from ondine.ui.kit.pictures import PictureLoader
from ondine.ui.kit.shot_list import ShotDelegate
from ondine.ui.kit.theme import GRID_PX, SMALL_PX, Theme, font
from ondine.ui.log.atlas_page import AtlasPage
from ondine.ui.log.card_page import CardPage
from ondine.ui.log.columns import COLUMNS
from ondine.ui.log.compare_view import CompareView
from ondine.ui.log.exchange_page import ExchangePage
from ondine.ui.log.film_view import FilmView
from ondine.ui.log.groups_page import GroupsPage
from ondine.ui.log.hinted import Hinted
from ondine.ui.log.kinds import ATLAS, CARD, COMPARE, FILM, GROUPS, KINDS, SHEET, TABLE
from ondine.ui.log.search_line import SearchLine
from ondine.ui.log.sheet_view import SheetView
from ondine.ui.log.shot_card import WIDE_PX, ShotCard
from ondine.ui.log.shots_model import ShotsModel
from ondine.ui.log.sitting_page import SittingPage
from ondine.ui.log.table_map_page import TableMapPage

NOTHING_FITS = "No shot fits. Ask for less, or fire one: it will be here."

HANDS_COMPARE = (
    "Arrows choose a shot, the wheel zooms, dragging moves all. Del strikes one out, Ctrl Z brings it back; "
    "Ctrl B keeps the best."
)
HANDS_FILM = (
    "The wheel or the arrows turn the film. It is what is selected, or all shots of the sitting with the same drops."
)


def _kind(name: str, tip: str) -> QPushButton:
    button = QPushButton(name)
    button.setCheckable(True)
    button.setToolTip(tip)
    return button


class HasCursor(Protocol):
    """A way of looking with a cursor of its own: the number of the shot under it, and the shot as far as it is read."""

    @property
    def current(self) -> int | None: ...  # noqa: D102

    @property
    def record(self) -> ShotRecord | None: ...  # noqa: D102


class LogView(QWidget):
    """A line of search, the shots that fit, and the one under the cursor.

    Emits `asked(line, order, like)`, `like` being the shot that others are compared with, whose answer comes through
    `show_found`; `wanted(numbers)` for records in view; `several(kind, numbers, current)` when the selected shots are
    to be compared, or turned as a film; `chosen(shot)` for the one to go to the bench with; `left()`;
    `sitting_wanted()` and `exchange_wanted()` for the pages beside it.
    """

    asked = Signal(str, object, object)
    wanted = Signal(list)
    several = Signal(str, object, object)
    chosen = Signal(object)
    left = Signal()
    sitting_wanted = Signal()
    exchange_wanted = Signal()

    def __init__(self, loader: PictureLoader, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.model = ShotsModel(self)
        self.model.wanted.connect(self.wanted)
        self.line = SearchLine(self.current_number)
        self.text, self.order, self.searches = self.line.text, self.line.order, self.line.searches
        self.ask, self.ask_again, self.show_like_this = self.line.ask, self.line.ask_again, self.line.show_like_this
        self.understood = QLabel()
        self.understood.setObjectName("soft")
        self.understood.setFont(font(SMALL_PX))
        self.tally = QLabel()
        self.delegate = ShotDelegate(loader, QSize(186, 124), words=True, parent=self)
        self.sheet = SheetView(self.delegate)
        self.sheet.setAccessibleName("Shots found, as a contact sheet")
        self.table = QTableView()
        self.table.setAccessibleName("Shots found, as a table")
        self.atlas = AtlasPage(loader)
        self.groups = GroupsPage()
        self.compare, self.film = CompareView(loader), FilmView(loader)
        self.card_page = CardPage()
        self.exchange, self.table_map, self.sitting = ExchangePage(), TableMapPage(), SittingPage()
        self.card = ShotCard(loader)
        self.pages = {
            SHEET: self.sheet, TABLE: self.table, ATLAS: self.atlas, GROUPS: self.groups,
            COMPARE: Hinted(self.compare, HANDS_COMPARE), FILM: Hinted(self.film, HANDS_FILM), CARD: self.card_page,
        }  # fmt: skip
        self.kind = SHEET
        self.empty = QLabel(NOTHING_FITS)
        self.empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.empty.setWordWrap(True)
        self.views = QStackedWidget()
        self.kinds = {name: _kind(name, key) for name, key in KINDS}
        loader.ready.connect(lambda _: self.sheet.viewport().update())
        self._join_views()
        self._lay_out()
        self.line.asked.connect(self.asked)
        self.line.left.connect(self.left)
        self.text.left.connect(self.go_to_shots)
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
        table.setSelectionModel(self.sheet.selectionModel())
        for page in self.pages.values():
            self.views.addWidget(page)
        for one in (self.compare, self.film, self.groups):
            one.pointed.connect(lambda _: self.show_current())
        for number, column in enumerate(COLUMNS):
            table.setColumnWidth(number, column.width_px)
        self.sheet.selectionModel().currentChanged.connect(lambda *_: self.show_current())
        self.sheet.selectionModel().selectionChanged.connect(lambda *_: self.show_current())
        self.model.dataChanged.connect(lambda *_: self.show_current())
        self.sheet.chosen.connect(self._choose)
        table.activated.connect(self._choose)

    def _lay_out(self) -> None:
        under = QHBoxLayout()
        under.setSpacing(GRID_PX)
        for button in self.kinds.values():
            under.addWidget(button)
        under.addWidget(self.understood, 1)
        under.addWidget(self.tally)
        for name, tip, wanted in (
            ("Sitting", "How the sitting of this shot went, and its report  Ctrl Shift G", self.sitting_wanted),
            ("In and out", "Write out what was found, take in what others have  Ctrl Shift E", self.exchange_wanted),
        ):
            button = QPushButton(name)
            button.setToolTip(tip)
            button.clicked.connect(wanted)
            under.addWidget(button)
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
        column.addWidget(self.line)
        column.addLayout(under)
        column.addLayout(across, 1)

    # What is asked

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
        if self.kind in (COMPARE, FILM) and self.current_number() is None:
            self.several.emit(self.kind, *self.sheet_choice())
        self.show_current()

    def _show_empty(self) -> None:
        """Say so where no shot fits; a card may be looked at all the same."""
        shown = bool(len(self.model.ids)) or self.kind == CARD
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
        """What takes the keys of the way of looking that is in front."""
        inner = {
            ATLAS: self.atlas.view,
            GROUPS: self.groups.table,
            COMPARE: self.compare,
            FILM: self.film,
            CARD: self.card_page.choose,
        }
        return inner.get(self.kind, self.pages[self.kind])

    @property
    def is_atlas(self) -> bool:
        """Whether the atlas is in front."""
        return self.kind == ATLAS

    def show_as(self, kind: str) -> None:
        """Show what was found another way: by its name in `KINDS`."""
        self.kind = kind
        self.views.setCurrentWidget(self.pages[kind])
        for name, button in self.kinds.items():
            button.setChecked(name == kind)
        # Side by side, and as a film, pictures need all the room there is.
        self.card.setVisible(kind not in (COMPARE, FILM))
        self._show_empty()
        self.go_to_shots()
        if kind in (ATLAS, GROUPS):
            self.ask()
        elif kind in (COMPARE, FILM):
            self.several.emit(kind, *self.sheet_choice())
        else:
            self.scroll_to(self.sheet.currentIndex())

    def show_card(self) -> None:
        """Bring the card of the shot under the cursor into view, for its note and its labels."""
        self.card.show()
        self.show_current()

    def after_current(self, most: int) -> list[int]:
        """Return the shot under the cursor and those that come after it, at most so many."""
        row = max(self.sheet.currentIndex().row(), 0)
        return [int(number) for number in self.model.ids[row : row + most]]

    def scroll_to(self, index: QModelIndex) -> None:
        """Bring a shot into sight, in sheet and table."""
        for view in (self.sheet, self.table):
            view.scrollTo(index)

    def show_only(self, ids: NDArray[np.int64], words: str) -> None:
        """Show some of the shots alone, and say which, until something is searched for."""
        self.model.set_ids(ids)
        self._select_again(None, set())
        self.show_as(SHEET)
        self.tally.setText(words)

    def toggle_kind(self) -> None:
        """Look at what was found the next way: sheet, table, atlas."""
        order = (SHEET, TABLE, ATLAS)
        self.show_as(order[(order.index(self.kind) + 1) % len(order)] if self.kind in order else SHEET)

    def go_to_shots(self) -> None:
        """Leave the search for what it found; where that is nothing, stay."""
        (self.text if self.views.isHidden() else self.view).setFocus()

    @property
    def _one(self) -> HasCursor | None:
        """What has a cursor of its own."""
        own: dict[str, HasCursor] = {COMPARE: self.compare, FILM: self.film, GROUPS: self.groups}
        return own.get(self.kind)

    def current_number(self) -> int | None:
        """Return the number of the shot under the cursor."""
        return self.sheet_choice()[1] if self._one is None else self._one.current

    def selected_numbers(self) -> list[int]:
        """Return the numbers of the selected shots, in their order; the one under the cursor where none is."""
        if self._one is not None:
            return [] if self._one.current is None else [self._one.current]
        return self.sheet_choice()[0]

    def sheet_choice(self) -> tuple[list[int], int | None]:
        """Return the numbers that are selected in the sheet, and the one under its cursor."""
        row = self.sheet.currentIndex().row()
        current = int(self.model.ids[row]) if 0 <= row < len(self.model.ids) else None
        rows: set[int] = set()
        for first, last in runs_of(self.sheet):
            rows.update(range(first, last + 1))
        found = [int(self.model.ids[row]) for row in sorted(rows) if row < len(self.model.ids)]
        return found or ([] if current is None else [current]), current

    def step_to(self, row: int) -> None:
        """Put the cursor on a row, if there is one of that number."""
        if 0 <= row < len(self.model.ids):
            flags = QItemSelectionModel.SelectionFlag
            index = self.model.index(row, 0)
            self.sheet.selectionModel().setCurrentIndex(index, flags.ClearAndSelect | flags.Rows)
            self.scroll_to(index)

    def current(self) -> ShotRecord | None:
        """Return the shot under the cursor, as far as it is read."""
        if self._one is not None:
            return self._one.record
        row = self.sheet.currentIndex().row()
        return self.model.record(row) if 0 <= row < len(self.model.ids) else None

    def show_current(self) -> None:
        """Show the shot under the cursor on the card."""
        many = 1 if self._one is not None else sum(last + 1 - first for first, last in runs_of(self.sheet))
        self.card.show_shot(self.current(), many)

    def _choose(self, index: object) -> None:
        shot = self.current()
        if shot is not None:
            self.chosen.emit(shot)

    def set_theme(self, theme: Theme) -> None:
        """Apply the theme."""
        self.text.set_theme(theme)
        self.delegate.theme = theme
        self.sheet.forget_drawn()
        self.card.set_theme(theme)
        self.atlas.view.near.frames.theme = theme
        self.atlas.view.update()
        self.card_page.set_theme(theme)
        self.sitting.set_theme(theme)
        for one in (self.compare, self.film):
            one.frames.theme = theme
            one.update()


def runs_of(view: QAbstractItemView) -> list[tuple[int, int]]:
    """First and last row of each run that is selected in a view."""
    chosen = view.selectionModel().selection()
    # Its parts live no longer than it does.
    return [(chosen.at(number).top(), chosen.at(number).bottom()) for number in range(chosen.size())]
