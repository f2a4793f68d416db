"""Searches of the log: asked from the window, answered by the reader's thread as events."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from ondine.bench.protocol import Clock
from ondine.core.log.side_by_side import Beside, differing
from ondine.logbook.query import Order
from ondine.logbook.query_line import QueryError, Vocabulary, read_query
from ondine.studio.events import Event
from ondine.studio.log_events import (
    GroupFetched,
    GroupsFound,
    LadderFound,
    LogWordsFound,
    OwnShapesFound,
    SearchRefused,
    ShotsCompared,
    ShotsFound,
    ShotsRead,
)
from ondine.studio.log_service import LogService
from ondine.studio.logbook_writer import LogbookWriter

if TYPE_CHECKING:
    # SQLAlchemy stands behind it; see `snapshot`.
    from ondine.logbook.store import Logbook

Ids = Sequence[int]

MOST_GROUPS = 300
"""So many timings are told; nobody reads more."""


class LogSearch:
    """Finds shots, tells what a search can be made of, and keeps searches. Returns at once."""

    def __init__(self, log: LogService, writer: LogbookWriter, clock: Clock) -> None:
        self._log, self._writer, self._clock = log, writer, clock
        self._asked = self._compared = 0

    def _write(self, change: Callable[[Logbook], object]) -> None:
        self._writer.write(lambda: change(self._writer.logbook))

    def find(self, line: str, order: Order = Order.NEWEST, like: int | None = None) -> None:
        """Search the log by a line of words; the answer comes as `ShotsFound`, or `SearchRefused`.

        like : a shot; what is most like it comes first. A search that a newer one has overtaken is not answered.
        """
        self._asked += 1
        number = self._asked

        def answer(logbook: Logbook) -> Event | None:
            if number != self._asked:
                return None
            try:
                query = read_query(line, Vocabulary(self._clock(), logbook.shapes.all()))
            except QueryError as error:
                return SearchRefused(line, str(error))
            ids = logbook.search.ids(query, order) if like is None else logbook.search.near(query, like)
            return ShotsFound(line, query.words, ids, logbook.facts.waiting())

        self._log.read(answer)

    def fetch(self, shot_ids: Ids) -> None:
        """Read some shots; they come as `ShotsRead`."""
        self._log.read(lambda logbook: ShotsRead(tuple(shot_ids), logbook.shots.page(shot_ids)))

    def compare(self, shot_ids: Ids) -> None:
        """Ask what differs between some shots; it comes as `ShotsCompared`, unless a newer wish overtakes this one."""
        self._compared += 1
        number = self._compared

        def answer(logbook: Logbook) -> Event | None:
            if number != self._compared:
                return None
            shots = logbook.shots.page(shot_ids)
            known = [shots[one] for one in shot_ids if one in shots]
            setups = logbook.setups.by_revision({shot.setup_id for shot in known})
            figures = logbook.search.figures_of([shot.id for shot in known])
            beside = [
                Beside(shot.sequence, of, setups.get(shot.setup_id)) for shot, of in zip(known, figures, strict=True)
            ]
            return ShotsCompared(tuple(shot.id for shot in known), tuple(differing(beside)))

        self._log.read(answer)

    def find_ladder(self, shot_id: int) -> None:
        """Ask for the shots that show one splash at other instants; they come as `LadderFound`."""
        self._log.read(lambda logbook: LadderFound(shot_id, tuple(logbook.search.ladder(shot_id).tolist())))

    def find_groups(self, line: str, shape: str) -> None:
        """Ask for the shots that fit a search by equal timing; they come as `GroupsFound`, or `SearchRefused`.

        shape : which tag counts as a hit, or "keeper".
        """

        def answer(logbook: Logbook) -> Event:
            try:
                query = read_query(line, Vocabulary(self._clock(), logbook.shapes.all()))
            except QueryError as error:
                return SearchRefused(line, str(error))
            groups = logbook.search.groups(query, shape, MOST_GROUPS)
            return GroupsFound(line, shape, tuple(groups), logbook.shots.page([group.shot_id for group in groups]))

        self._log.read(answer)

    def fetch_group(self, shot_id: int) -> None:
        """Ask for the shots that have the timing and the set-up of one; they come as `GroupFetched`."""
        self._log.read(lambda logbook: GroupFetched(logbook.search.of_group(shot_id)[::-1]))

    def make_ready(self, seldom: bool) -> None:
        """Read the columns that searches need often, or those that they need seldom, part by part.

        What is asked meanwhile comes in between.
        """

        def one(logbook: Logbook, left: tuple[str, ...]) -> None:
            further = left[1:] if logbook.search.make_ready(left[0]) else left
            if further:
                self._log.read(lambda logbook: one(logbook, further))

        def begin(logbook: Logbook) -> None:
            one(logbook, logbook.search.SELDOM if seldom else logbook.search.OFTEN)

        self._log.read(begin)

    def tell_words(self) -> None:
        """Tell what a search can be completed with, and what was saved, as `LogWordsFound`."""
        self._log.read(lambda logbook: LogWordsFound(logbook.names.words(), logbook.names.searches()))

    def tell_shapes(self) -> None:
        """Tell the photographer's own shapes, as `OwnShapesFound`."""
        self._log.read(lambda logbook: OwnShapesFound(tuple(logbook.shapes.own())))

    def save_search(self, name: str, line: str) -> None:
        """Save a search under a name."""
        self._write(lambda logbook: logbook.names.save_search(name, line, self._clock()))
        self.tell_words()

    def forget_search(self, name: str) -> None:
        """Forget a saved search."""
        self._write(lambda logbook: logbook.names.forget_search(name))
        self.tell_words()

    def add_shape(self, name: str, letter: str, glyph: str) -> None:
        """Add a shape of one's own; all of them are told anew."""
        self._write(lambda logbook: logbook.shapes.add(name, letter, glyph))
        self.tell_shapes()
        self.tell_words()

    def forget_shape(self, key: str) -> None:
        """Take a shape of one's own off the board; all others are told anew."""
        self._write(lambda logbook: logbook.shapes.forget(key))
        self.tell_shapes()
        self.tell_words()
