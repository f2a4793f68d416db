"""The instants of a forecast that flashes can be counted from."""

from __future__ import annotations

from ondine.core.belief.priors import Belief
from ondine.core.constants import US_PER_S
from ondine.core.forecast.events import MEETINGS, Event, EventKind, events
from ondine.core.forecast.whole import forecast
from ondine.core.setup import Setup
from ondine.core.timing.conventions import Landmarks, Predicts
from ondine.core.timing.sequence import Pulse, Sequence

LEAST_SHARE = 0.5
"""What fewer rigs show is not predicted."""


def landmarks_of(found: list[Event]) -> Landmarks:
    """Return the mean times of the first touchdown and of the first meeting that most rigs show."""
    return Landmarks(_first(found, (EventKind.TOUCHDOWN,)), _first(found, MEETINGS))


def _first(found: list[Event], kinds: tuple[EventKind, ...]) -> int | None:
    times = [e.time_s.mean for e in found if e.kind in kinds and e.probability >= LEAST_SHARE]
    return round(min(times) * US_PER_S) if times else None


def predicts_for(setup: Setup, belief: Belief) -> Predicts:
    """Return what tells the landmarks of drops on a table."""

    def predicts(drops: tuple[Pulse, ...]) -> Landmarks:
        return landmarks_of(events(forecast(setup, belief, Sequence(drops, ()))))

    return predicts
