"""What keys mean on the page in view."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from ondine.ui.kit.actions import Actions
from ondine.ui.kit.own_shapes import shape_name
from ondine.ui.shell.log_door import LogDoor
from ondine.ui.shell.navigation import Navigation
from ondine.ui.shell.shot_browser import ShotBrowser


@dataclass(frozen=True)
class PageKeys:
    """On the log's page keys are about its selected shots, elsewhere about the shot in view.

    is_firing_page : whether the page in view is one that Space fires from.
    """

    navigation: Navigation
    log: LogDoor
    shots: ShotBrowser
    is_firing_page: Callable[[], bool]

    def here(self) -> Actions:
        """What keys mean here instead of what they mean elsewhere."""
        return self.log.room.actions.in_log() if self.navigation.in_log else {}

    def is_tagging_page(self) -> bool:
        """Whether letters tag here."""
        return self.navigation.in_log or self.is_firing_page()

    def tag(self, shape: str) -> None:
        """Tag what is in view, or selected."""
        if self.navigation.in_log:
            self.log.room.actions.tag(shape, shape_name(shape))
        else:
            self.shots.tag(shape)
