"""The page of timings in the window: asks for them, and shows the shots of one."""

from __future__ import annotations

from ondine.core.numbers import counted
from ondine.studio.log_events import GroupFetched, GroupsFound, OwnShapesFound
from ondine.studio.studio import Studio
from ondine.ui.kit.actions import Actions
from ondine.ui.kit.bridge import Bridge
from ondine.ui.log.kinds import GROUPS
from ondine.ui.log.view import LogView


class GroupsActions:
    """Joins the page with the logbook."""

    def __init__(self, studio: Studio, log: LogView, bridge: Bridge) -> None:
        self._studio, self._log, self._page = studio, log, log.groups
        self._page.asked.connect(lambda _: self.find(log.text.text()))
        self._page.chosen.connect(studio.search.fetch_group)
        bridge.on(GroupsFound, self._found)
        bridge.on(
            GroupFetched, lambda event: log.show_only(event.ids, f"{counted(len(event.ids), 'shot')} of one timing")
        )
        bridge.on(OwnShapesFound, lambda _: self._page.offer())

    def key_actions(self) -> Actions:
        """What keys can ask for."""
        return {"groups": lambda: self._log.show_as(GROUPS) if self._log.isVisible() else None}

    def find(self, line: str) -> None:
        """Ask for the timings of the shots that fit a search, if they are in view."""
        if self._log.kind == GROUPS:
            self._studio.search.find_groups(line, self._page.shape)

    def _found(self, event: GroupsFound) -> None:
        if event.line == self._log.text.text() and event.shape == self._page.shape:
            self._page.show_groups(event.groups, event.shots)
