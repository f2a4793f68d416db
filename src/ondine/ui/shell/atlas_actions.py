"""The atlas in the window: asks for its points and regions, and does what is done on it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from ondine.core.forecast.plan import Plan
from ondine.core.log.regions import figures_in_hand, sequence_at, sequences_between
from ondine.core.numbers import counted
from ondine.logbook.records import ShotRecord
from ondine.studio.events import PlanChanged
from ondine.studio.log_events import PointsFound, RegionsFound, ShotsRead
from ondine.studio.studio import Studio
from ondine.ui.kit.bridge import Bridge
from ondine.ui.kit.shot_list import timing_words_of
from ondine.ui.log.kinds import SHEET
from ondine.ui.log.view import LogView
from ondine.ui.shell.messages import Messages


class AtlasActions:
    """Joins the atlas with the logbook, and with the sequence in hand."""

    def __init__(self, studio: Studio, log: LogView, messages: Messages, bridge: Bridge) -> None:
        self._studio, self._log, self._messages = studio, log, messages
        self.fire_all: Callable[[list[Plan]], object] = lambda plans: None
        """What fires a series."""
        self.took_in_hand = False
        """Whether the last thing that was done in the log was to take a spot in hand."""
        atlas = log.atlas
        atlas.asked.connect(log.ask)
        atlas.looked.connect(self._foresee)
        atlas.view.pointed.connect(lambda number: None if number is None else self._take_shot(number))
        atlas.view.chosen.connect(lambda number: log.show_as(SHEET))
        atlas.view.ringed.connect(lambda ids: log.show_only(ids, f"{counted(len(ids), 'shot')} of the atlas"))
        atlas.view.spotted.connect(self._take_spot)
        atlas.view.reached.connect(self._offer_series)
        bridge.on(PlanChanged, lambda _: self._mark_hand() if log.is_atlas else None)
        bridge.on(ShotsRead, lambda event: self._take_near(event.shots))
        bridge.on(PointsFound, self._points)
        bridge.on(RegionsFound, self._regions)

    def _points(self, event: PointsFound) -> None:
        if event.line == self._log.text.text() and (event.x, event.y) == self._log.atlas.keys:
            self._log.atlas.show_points(event.points, event.x, event.y, len(self._log.model.ids))
            self._mark_hand()

    def _mark_hand(self) -> None:
        """Mark where the sequence in hand stands."""
        view = self._log.atlas.view
        view.in_hand = figures_in_hand(self._studio.composer.plan, *self._log.atlas.keys)
        view.update()

    def _foresee(self) -> None:
        """Ask what the belief in hand expects in the part of the atlas that is in view."""
        atlas = self._log.atlas
        missing = atlas.view.near.missing(atlas.view.points, atlas.view.cells(), atlas.view.scale)
        if missing:
            self._studio.search.fetch(missing)
        self._studio.atlas.foresee(self._studio.composer.plan, *atlas.keys, atlas.view.view)

    def _take_near(self, shots: dict[int, ShotRecord]) -> None:
        """Show the pictures of shots that are looked at from near."""
        if self._log.is_atlas:
            self._log.atlas.view.near.take(shots)
            self._log.atlas.view.update()

    def _regions(self, event: RegionsFound) -> None:
        if (event.x, event.y) == self._log.atlas.keys:
            self._log.atlas.show_regions(event.regions)

    def _take_spot(self, x: float, y: float) -> None:
        """Take the timings of an empty spot in hand, as the next shot."""
        keys = self._log.atlas.keys
        made = sequence_at(self._studio.composer.plan, keys[0], x, keys[1], y)
        if made is None:
            self._messages.notice(
                "The sequence in hand cannot be moved to this spot: one of the two is no timing of it. Choose timings "
                "on both axes, such as interval and flash."
            )
            return
        self._studio.composer.use_sequence(made)
        self.took_in_hand = True
        self._messages.notice(
            f"In hand now: {timing_words_of(made)}. Ctrl Z takes it back; Esc goes to the bench to fire it."
        )

    def _offer_series(self, x: float, y: float) -> None:
        """Offer to fire a series from what is in hand to a spot."""
        plan, keys = self._studio.composer.plan, self._log.atlas.keys
        begin = figures_in_hand(plan, *keys)
        made = [] if begin is None else sequences_between(plan, *keys, begin, (x, y))
        if len(made) < 2:
            self._messages.notice(
                "No series leads from the sequence in hand to this spot. Choose timings on both axes, such as interval "
                "and flash."
            )
        elif not self._studio.bench.kind.is_driven:
            self._messages.notice("A series is fired by a controller; what is fired by hand is taken spot by spot.")
        else:
            plans = [replace(plan, sequence=sequence, locks=()) for sequence in made]
            shots = counted(len(made), "shot")
            words = f"A series of {shots}, from {timing_words_of(made[0])} to {timing_words_of(made[-1])}."
            self._messages.offer(f"{words} Esc stops it.", f"Fire {shots}", lambda: self.fire_all(plans))

    def _take_shot(self, number: int) -> None:
        row = self._log.model.row_of(number)
        if row is not None:
            self._log.step_to(row)
