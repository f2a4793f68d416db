"""What the drops of a sequence do, as it is drawn: each part computed once, and kept while its drops do as before."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any, TypeVar

import numpy as np

from ondine.core.forecast.curves import (
    ColumnCurve,
    CraterCurve,
    FallCurve,
    JetCurve,
    SheetCurve,
    column_curves,
    crater_curves,
    fall_curves,
    jet_curves,
    sheet_curves,
)
from ondine.core.forecast.events import Event, events, meeting_events
from ondine.core.forecast.whole import Forecast
from ondine.core.setup import Setup

Curve = FallCurve | JetCurve | ColumnCurve | SheetCurve | CraterCurve
CURVES = "falls", "jets", "columns", "sheets", "craters"
Made = TypeVar("Made")


@dataclass
class Course:
    """What the drops do, whenever the flash falls: curves and events, each computed when it is first drawn.

    `known` : what was computed of another course, by name; it holds for the drops that do as there.
    """

    forecast: Forecast
    known: dict[str, list[Any]] = field(default_factory=dict)

    def on(self, setup: Setup) -> Course:
        """Return the course on a table whose drops fall alike: what was computed holds there too."""
        other = Course(replace(self.forecast, setup=setup), self.known)
        vars(other).update({name: made for name, made in vars(self).items() if name not in vars(other)})
        return other

    def going_on(self, forecast: Forecast) -> Course:
        """Return the course of a forecast that went on from this one's."""
        known = {name: vars(self)[name] for name in CURVES if name in vars(self)}
        if "meetings" in vars(self) and np.array_equal(forecast.unforeseen_s, self.forecast.unforeseen_s):
            known["meetings"] = self.meetings
        return Course(forecast, known)

    def _each(
        self, name: str, make: Callable[[Forecast, Sequence[int]], list[Made]], number: Callable[[Made], int]
    ) -> list[Made]:
        """Return something of each drop: what is known of those that do as before, the others' made anew."""
        drops = range(len(self.forecast.sequence.drops))
        as_before = self.forecast.as_before if name in self.known else frozenset()
        made = make(self.forecast, [drop for drop in drops if drop not in as_before])
        kept = [one for one in self.known.get(name, []) if number(one) in as_before]
        return sorted([*kept, *made], key=number)

    @cached_property
    def falls(self) -> list[FallCurve]:
        """The falling drops."""
        return self._each("falls", fall_curves, _drop)

    @cached_property
    def jets(self) -> list[JetCurve]:
        """The tips of the jets."""
        return self._each("jets", jet_curves, _drop)

    @cached_property
    def columns(self) -> list[ColumnCurve]:
        """The columns that outlive their sheets."""
        return self._each("columns", column_curves, _drop)

    @cached_property
    def sheets(self) -> list[SheetCurve]:
        """The open sheets."""
        return self._each("sheets", sheet_curves, _drop)

    @cached_property
    def craters(self) -> list[CraterCurve]:
        """The floors of the craters."""
        return self._each("craters", crater_curves, _drop)

    @cached_property
    def meetings(self) -> list[Event]:
        """Those of `events` that begin with a meeting."""
        found = self._each("meetings", meeting_events, lambda event: event.drop - 1)
        return sorted(found, key=lambda event: event.time_s.mean)

    @cached_property
    def events(self) -> list[Event]:
        """All that happens, in order."""
        return events(self.forecast)


def _drop(curve: Curve) -> int:
    return curve.drop
