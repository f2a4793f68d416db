"""What leaves the log and comes into it, in the window: its page asks, dialogs name the files, the studio does it."""

from __future__ import annotations

import re
from pathlib import Path

from PySide6.QtWidgets import QWidget

from ondine.logbook.writing import WriteError
from ondine.studio.log_events import ExchangeProgress, LogReplaced, ShotsFound, TableRead, TableUnderstood
from ondine.studio.log_exchange import Form
from ondine.studio.studio import Studio
from ondine.ui.bench.page import BenchPage
from ondine.ui.kit.actions import Actions
from ondine.ui.kit.bridge import Bridge
from ondine.ui.kit.files import ask_for_file, ask_for_folder, ask_where_to_write
from ondine.ui.log.exchange_page import Deed
from ondine.ui.log.view import LogView
from ondine.ui.shell.messages import Messages
from ondine.ui.shell.navigation import Navigation

FORMS = {
    Deed.CSV: (Form.CSV, "log.csv", "Tables (*.csv)"),
    Deed.JSON: (Form.JSON, "log.json", "JSON (*.json)"),
    Deed.SQLITE: (Form.SQLITE, "log.sqlite", "Databases (*.sqlite *.db)"),
}


class ExchangeActions:
    """Joins the pages with the studio."""

    def __init__(
        self,
        window: QWidget,
        studio: Studio,
        bench: BenchPage,
        log: LogView,
        navigation: Navigation,
        messages: Messages,
        bridge: Bridge,
    ) -> None:
        self._window, self._studio, self._bench, self._log = window, studio, bench, log
        self._navigation, self._messages = navigation, messages
        self._page, self._table = log.exchange, log.table_map
        self.drawer = navigation.add_drawer("In and out", self._page)
        self._table_drawer = navigation.add_drawer("Table that others wrote", self._table)
        log.exchange_wanted.connect(self.toggle)
        self._page.asked.connect(self.do)
        self._page.cancelled.connect(studio.errands.cancel)
        self._table.meant.connect(self._understand)
        self._table.taken.connect(self._take)
        bridge.on(ExchangeProgress, lambda event: self._page.show_progress(event.what, event.done, event.of))
        bridge.on(TableRead, self._show_table)
        bridge.on(TableUnderstood, lambda event: self._table.show_understood(event.found, event.words))
        bridge.on(ShotsFound, lambda _: self._count())
        bridge.on(LogReplaced, lambda _: self._replaced())

    def key_actions(self) -> Actions:
        """What keys can ask for."""
        return {"exchange": self.toggle}

    def toggle(self) -> None:
        """Open or close the page of what can be written out or taken in."""
        if not self._navigation.in_log:
            self._navigation.toggle_log()
        self._navigation.toggle(self.drawer)
        self._count()
        if self._page.isVisible():
            self._page.buttons[Deed.CSV].setFocus()

    @property
    def _numbers(self) -> list[int]:
        """The selected shots, or all that were found where one alone is."""
        chosen = self._log.sheet_choice()[0]
        return chosen if len(chosen) > 1 else [int(number) for number in self._log.model.ids]

    def _count(self) -> None:
        """Say how many it would be."""
        if self._page.isVisible():
            chosen = len(self._log.sheet_choice()[0])
            self._page.show_found(chosen if chosen > 1 else len(self._log.model.ids))

    def do(self, deed: Deed) -> None:
        """Do what was asked for, once its file is named."""
        exchange, stem = self._studio.log_exchange, _stem(self._studio.composer.setup.name)
        if deed in FORMS:
            form, name, kinds = FORMS[deed]
            numbers = self._numbers
            self._ask_out(f"{stem}-{name}", kinds, lambda path: exchange.write(form, numbers, path))
        elif deed is Deed.XMP:
            exchange.write_sidecars(self._numbers, "stem")
        elif deed is Deed.LOGBOOK:
            numbers = self._numbers
            name, kinds = f"{stem}-part.ondine", "Logbooks (*.ondine)"
            self._ask_out(name, kinds, lambda path: exchange.write_logbook(numbers, path))
        elif deed is Deed.CHART:
            self._ask_out(f"{stem}-chart.svg", "Charts (*.svg *.pdf *.png)", self.write_chart)
        elif deed is Deed.TABLE:
            ask_for_file(
                self._window, "A table that others wrote", "Tables (*.csv *.tsv *.txt)", self._studio.table_desk.read
            )
        elif deed is Deed.MERGE:
            ask_for_file(self._window, "Another logbook", "Logbooks (*.ondine)", exchange.merge)
        elif deed is Deed.MOVED:
            ask_for_folder(self._window, "Where the pictures may lie now", exchange.find_moved)
        elif deed is Deed.COPY:
            dialog = ask_for_file(self._window, "A copy of this logbook", "Logbooks (*.ondine)", exchange.open_copy)
            dialog.setDirectory(str(self._studio.backups.folder))
        else:
            self._studio.backups.now()

    def _ask_out(self, name: str, kinds: str, does: object) -> None:
        ask_where_to_write(self._window, "Write out", name, kinds, does)  # type: ignore[arg-type]

    def write_chart(self, path: Path) -> None:
        """Write the flight chart as a file."""
        # It brings a printer along that nobody needs who writes nothing.
        from ondine.ui.bench.chart_file import write_chart

        try:
            write_chart(self._bench.chart, path, self._studio.composer.setup.name)
        except WriteError as error:
            self._messages.trouble(str(error))
        else:
            self._messages.notice(f"The flight chart is written to {path}.")

    # A table of others

    def _show_table(self, event: TableRead) -> None:
        self._table.show_table(event.path.name, event.table, event.meanings)
        if not self._table.isVisible():
            self._navigation.toggle(self._table_drawer)
        self._understand()

    def _understand(self) -> None:
        from ondine.logbook.import_table import Dates

        dates = self._table.dates_meant
        self._studio.table_desk.understand(
            self._table.meanings, Dates(dates) if dates else None, self._studio.composer.plan
        )

    def _take(self) -> None:
        self._table.take.setEnabled(False)
        self._studio.table_desk.take_in()
        self._navigation.toggle(self._table_drawer)

    def _replaced(self) -> None:
        self._log.model.forget()
        self._log.ask()
        self._studio.search.tell_words()
        self._studio.search.tell_shapes()


def _stem(name: str) -> str:
    return re.sub(r"[^\w -]+", "", name).strip().lower().replace(" ", "-") or "ondine"
