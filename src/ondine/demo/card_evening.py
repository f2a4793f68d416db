"""An evening of the season whose camera had a wrong clock: its shots are logged without pictures, its card lies beside.

What the card is for: to be matched in the log, where its page finds out how far the clock was off.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from ondine.core.timing.sequence import FlashPulse, Pulse, Sequence
from ondine.demo.scenario import SEASON

NAME = "Second light, with the card"
TABLE = "Tidal Mill"
STARTS = datetime(2026, 4, 18, 18, 20, 3, tzinfo=UTC)
GAPS_S = (52, 41, 66, 38, 47, 93, 44, 58, 39, 71, 49, 43, 120, 55, 46)
"""From shot to shot: a hand takes its time, and never the same."""

OFF = timedelta(minutes=12, seconds=48)
"""The camera stood on summer time, and was an hour and three quarters slow beside."""

MISSED = (4, 11)
"""Shots that the camera slept through, counted from 0."""

TRIAL_S = 77
"""After so many seconds of the ninth gap's shot somebody tried the light: a frame without a shot."""

FOLDER = SEASON / "card"
FIRST_FILE = 2101


@dataclass(frozen=True)
class CardShot:
    """One shot of the evening: when it was fired, and its sequence."""

    at: datetime
    sequence: Sequence


def shots() -> list[CardShot]:
    """Return the evening's shots, oldest first: a ladder over the umbrella's life."""
    times = [STARTS]
    for gap_s in GAPS_S:
        times.append(times[-1] + timedelta(seconds=gap_s))
    drops = (Pulse(0, 22_000), Pulse(95_000, 22_000))
    return [CardShot(at, Sequence(drops, (FlashPulse(349_000 + 1_000 * number),))) for number, at in enumerate(times)]


def frames() -> Iterator[tuple[str, datetime, int]]:
    """Go through the card's files: name, what the camera's clock showed, and of which shot it is, counted from 0."""
    fired = shots()
    taken = [(shot.at, number) for number, shot in enumerate(fired) if number not in MISSED]
    taken.append((fired[12].at + timedelta(seconds=TRIAL_S), 12))
    for count, (at, number) in enumerate(sorted(taken)):
        # A camera that knows no zone, and counts whole seconds.
        yield f"IMG_{FIRST_FILE + count}.JPG", (at + OFF).replace(tzinfo=None, microsecond=0), number
