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
    Curve,
    FallCurve,
    JetCurve,
    SheetCurve,
    column_curves,
    crater_curves,
    fall_curves,
    jet_curves,
    sheet_curves,
)
from ondine.core.forecast.events import Event, events, meeting_events, touchdown_events
from ondine.core.forecast.landmarks import landmarks_of
from ondine.core.forecast.whole import Forecast
from ondine.core.setup import Setup
from ondine.core.timing.conventions import Landmarks

CURVES = "falls", "jets", "columns", "sheets", "craters"
Made = TypeVar("Made", bound=Curve)


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

    def _each(self, name: str, make: Callable[[Forecast, Sequence[int]], list[Made]]) -> list[Made]:
        """Return something of each drop: what is known of those that do as before, the others' made anew.

        What comes out as it was known stays the same object: who draws it need not look twice.
        """
        known = {one.drop: one for one in self.known.get(name, [])}
        as_before = self.forecast.as_before if name in self.known else frozenset()
        others = [drop for drop in range(len(self.forecast.sequence.drops)) if drop not in as_before]
        found = [one for drop, one in known.items() if drop in as_before]
        for one in make(self.forecast, others):
            last = known.get(one.drop)
            found.append(last if last is not None and _same(last, one) else one)
        return sorted(found, key=lambda one: one.drop)

    @cached_property
    def falls(self) -> list[FallCurve]:
        """The falling drops."""
        return self._each("falls", fall_curves)

    @cached_property
    def jets(self) -> list[JetCurve]:
        """The tips of the jets."""
        return self._each("jets", jet_curves)

    @cached_property
    def columns(self) -> list[ColumnCurve]:
        """The columns that outlive their sheets."""
        return self._each("columns", column_curves)

    @cached_property
    def sheets(self) -> list[SheetCurve]:
        """The open sheets."""
        return self._each("sheets", sheet_curves)

    @cached_property
    def craters(self) -> list[CraterCurve]:
        """The floors of the craters."""
        return self._each("craters", crater_curves)

    @cached_property
    def meetings(self) -> list[Event]:
        """Those of `events` that begin with a meeting."""
        what = self.forecast
        if "meetings" not in self.known:
            return meeting_events(what)
        as_before = {drop + 1 for drop in what.as_before}
        kept = [event for event in self.known["meetings"] if event.drop in as_before]
        others = [drop for drop in range(len(what.sequence.drops)) if drop not in what.as_before]
        return sorted([*kept, *meeting_events(what, others)], key=lambda event: event.time_s.mean)

    @cached_property
    def landmarks(self) -> Landmarks:
        """The instants that flashes can be counted from, and locks hold to: asked for while a hand drags."""
        return landmarks_of([*touchdown_events(self.forecast), *self.meetings])

    @cached_property
    def events(self) -> list[Event]:
        """All that happens, in order."""
        return events(self.forecast)


def _same(one: Curve, other: Curve) -> bool:
    """Whether two curves of one kind are equal to the last bit."""
    pairs = zip(vars(one).values(), vars(other).values(), strict=True)
    return all(a.tobytes() == b.tobytes() if isinstance(a, np.ndarray) else a == b for a, b in pairs)
