"""Comparing and the film in the window: which shots they show, and what is done to the one under the cursor."""

from __future__ import annotations

from collections.abc import Sequence

from ondine.logbook.records import ShotRecord
from ondine.studio.log_events import LadderFound, ShotsCompared, ShotsRead
from ondine.studio.studio import Studio
from ondine.ui.kit.actions import Actions
from ondine.ui.kit.announce import announce
from ondine.ui.kit.bridge import Bridge
from ondine.ui.log.best_of import MOST_IN_VIEW
from ondine.ui.log.kinds import COMPARE, FILM
from ondine.ui.log.view import LogView
from ondine.ui.shell.messages import Messages

MOST_COMPARED = 500
"""The best of more than so many is not found by looking at six at a time."""


class CompareActions:
    """Joins the two pages with the logbook."""

    def __init__(self, studio: Studio, log: LogView, messages: Messages, bridge: Bridge) -> None:
        self._studio, self._log, self._messages = studio, log, messages
        self._film: tuple[int, ...] = ()
        self._begin: int | None = None
        log.several.connect(self._show)
        log.compare.turned.connect(self._fetch)
        for view in (log.compare, log.film):
            view.chosen.connect(lambda _: self._choose())
        bridge.on(ShotsRead, self._read)
        bridge.on(ShotsCompared, lambda event: log.compare.show_differences(event.shot_ids, event.rows))
        bridge.on(LadderFound, self._ladder)

    def key_actions(self) -> Actions:
        """What keys can ask for."""
        return {"compare": lambda: self._come(COMPARE), "film": lambda: self._come(FILM)}

    def in_compare(self) -> Actions:
        """What keys mean while shots are side by side, instead of what they mean in the rest of the log."""
        if self._log.kind != COMPARE:
            return {}
        return {"remove": self._strike, "undo": self._put_back}

    def change(self, shots: dict[int, ShotRecord]) -> None:
        """Show what has changed of the shots in view."""
        self._log.compare.take(shots)
        self._log.film.take(shots)

    def _come(self, kind: str) -> None:
        if self._log.isVisible():
            self._log.show_as(kind)

    def _show(self, kind: str, selected: Sequence[int], current: int | None) -> None:
        if kind == COMPARE:
            numbers = selected if len(selected) > 1 else self._log.after_current(MOST_IN_VIEW)
            if len(numbers) > MOST_COMPARED:
                self._messages.notice(f"The first {MOST_COMPARED} of the {len(numbers)} selected shots are compared.")
            self._log.compare.show_shots(numbers[:MOST_COMPARED])
        elif len(selected) > 2:
            self._roll(selected[:MOST_COMPARED], current)
        elif current is not None:
            self._studio.search.find_ladder(current)
        else:
            self._log.film.show_shots((), None)

    # What comes back

    def _fetch(self, in_view: tuple[int, ...]) -> None:
        self._studio.search.fetch(in_view)
        self._studio.search.compare(in_view)

    def _ladder(self, event: LadderFound) -> None:
        if self._log.kind == FILM:
            self._roll(event.shot_ids[:MOST_COMPARED], event.shot_id)

    def _roll(self, numbers: Sequence[int], begin: int | None) -> None:
        self._film, self._begin = tuple(numbers), begin
        self._studio.search.fetch(self._film)

    def _read(self, event: ShotsRead) -> None:
        self._log.compare.take(event.shots)
        if event.asked == self._film and self._log.kind == FILM:
            self._log.film.show_shots(list(event.shots.values()), self._begin)
            self._film = ()
        self._log.show_current()

    # What is done

    def _choose(self) -> None:
        shot = self._log.current()
        if shot is not None:
            self._log.chosen.emit(shot)

    def _strike(self) -> None:
        view = self._log.compare
        if not view.strike():
            self._messages.notice("This is the last one. Ctrl B keeps it; Ctrl Z brings the one before back.")
            return
        best = view.best_of
        left = len(best.in_view) + best.waiting
        if left == 1:
            self._messages.notice(f"Shot {view.current} is the best of {best.began_with}. Ctrl B keeps it.")
        else:
            announce(view, f"{left} of {best.began_with} left")

    def _put_back(self) -> None:
        if not self._log.compare.put_back():
            self._messages.notice("No shot is struck out.")
