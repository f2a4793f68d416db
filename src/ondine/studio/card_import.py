"""A card's frames and the log's shots, matched by their times; shown before anything is written, then taken in."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime, timedelta
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from ondine.core.log.camera_clock import MOST_OFFSET_S, Anchor, Clock
from ondine.core.log.card_clock import CardMatch, match_card
from ondine.core.numbers import counted
from ondine.core.setup import BenchKind
from ondine.logbook.card import CardFiles, Frame
from ondine.logbook.intake import PictureFacts
from ondine.logbook.picture_error import PictureError
from ondine.studio.intake import read_for

if TYPE_CHECKING:
    from ondine.logbook.store import Logbook

MOST_ANCHORS = 12
SPAN = timedelta(seconds=MOST_OFFSET_S)


@dataclass(frozen=True)
class ShotTime:
    """A shot of the log, and when it was fired."""

    shot_id: int
    at: datetime


@dataclass(frozen=True)
class MatchedCard:
    """What a card and a log have to do with each other; nothing of it is written.

    `frames`, `shots` : what was matched, by whose places `match` counts; `known` : frames whose picture the log has,
    with their shot; `refused` : a sentence on each file that is of no use; `clock_cards` : how many photographs of the
    clock card were read.
    """

    frames: tuple[Frame, ...]
    shots: tuple[ShotTime, ...]
    match: CardMatch
    known: tuple[tuple[Frame, int], ...] = ()
    refused: tuple[str, ...] = ()
    fractions: bool = False
    anchors: tuple[Anchor, ...] = ()
    clock_cards: int = 0

    def with_clock(self, clock: Clock) -> MatchedCard:
        """Return the same with the clock as somebody has set it by hand."""
        match = match_card(
            _seconds(shot.at for shot in self.shots), _seconds(frame.taken_at for frame in self.frames), self.fractions,
            self.anchors, clock,
        )  # fmt: skip
        return replace(self, match=match)

    @property
    def tally(self) -> str:
        """Say in words how many pictures and shots fit, and how many are left."""
        pairs, sure = self.match.pairs, sum(pair.sure for pair in self.match.pairs)
        return (
            f"{sure} sure, {len(pairs) - sure} doubtful, {counted(len(self.match.frames_left), 'picture')} without a "
            f"shot, {counted(len(self.match.shots_left), 'shot')} without a picture."
        )


def matched(logbook: Logbook, card: CardFiles, anchors: tuple[Anchor, ...] = ()) -> MatchedCard:
    """Match a card to the shots of a log that have no sure picture yet. Raises LogbookError."""
    if not card.frames:
        return MatchedCard((), (), CardMatch(), refused=card.refused)
    bodies = _Bodies()
    anchors = (*anchors, *(_anchor(frame, at, bodies) for frame, at in card.clocks))
    first, last = card.frames[0].taken_at, card.frames[-1].taken_at
    fired, pictures = logbook.pictures.for_card(first - SPAN, last + SPAN)
    shots = {candidate.shot_id: candidate for candidate in fired}
    had = {(name, round(at.timestamp())): shot_id for name, at, shot_id in pictures}
    known: list[tuple[Frame, int]] = []
    waiting: list[Frame] = []
    for frame in card.frames:
        shot_id = _known_as(frame, had)
        if shot_id is None:
            waiting.append(frame)
        else:
            known.append((frame, shot_id))
    # What the log knows of this card tells its clock.
    told = tuple(_anchor(frame, shots[shot_id].fired_at, bodies) for frame, shot_id in known if shot_id in shots)
    anchors = (*anchors, *told[:: max(1, len(told) // MOST_ANCHORS)])
    open_shots = tuple(ShotTime(s.shot_id, s.fired_at) for s in fired if not s.has_picture)
    match = match_card(
        _seconds(shot.at for shot in open_shots), _seconds(frame.taken_at for frame in waiting), card.fractions,
        anchors, bodies=bodies.of(waiting),
    )  # fmt: skip
    return MatchedCard(
        tuple(waiting), open_shots, match, tuple(known), card.refused, card.fractions, anchors, len(card.clocks)
    )


def _anchor(frame: Frame, at: datetime, bodies: _Bodies) -> Anchor:
    """Return what a frame tells whose true time is known; a clock of whole seconds shows half of one too little."""
    shown_s = frame.taken_at.timestamp() + (0.0 if frame.fractions else 0.5)
    return Anchor(shown_s, at.timestamp(), body=bodies.number(frame))


def _known_as(frame: Frame, had: dict[tuple[str, int], int]) -> int | None:
    """Return the shot whose picture a frame is, by its name and time; None if the log has none such.

    The log reads a clock without a zone as local time, the card as it stands: both are tried.
    """
    local = frame.taken_at.replace(tzinfo=None).astimezone(UTC)
    for file in frame.files:
        for at in (frame.taken_at, local):
            found = had.get((file.name, round(at.timestamp())))
            if found is not None:
                return found
    return None


class _Bodies:
    """Numbers the cameras that wrote frames; those that do not say are of one."""

    def __init__(self) -> None:
        self._numbers: dict[str, int] = {}

    def number(self, frame: Frame) -> int:
        return self._numbers.setdefault(frame.body, len(self._numbers))

    def of(self, frames: Iterable[Frame]) -> NDArray[np.int64]:
        return np.array([self.number(frame) for frame in frames], dtype=np.int64)


def _seconds(times: Iterable[datetime]) -> NDArray[np.float64]:
    return np.array([at.timestamp() for at in times], dtype=np.float64)


@dataclass
class Taking:
    """How far the taking in has come: pictures that are in the log now, of how many, and what was refused."""

    done: int = 0
    of: int = 0
    taken: list[int] = field(default_factory=list)
    questions: list[int] = field(default_factory=list)
    refused: list[str] = field(default_factory=list)


def take_in(
    kind: BenchKind,
    found: MatchedCard,
    give: Callable[[PictureFacts, int, bool], bool],
    progress: Callable[[Taking], None] = lambda so_far: None,
    is_cancelled: Callable[[], bool] = lambda: False,
    doubtful: bool = True,
) -> Taking:
    """Take in the pictures of a matched card, one by one; `doubtful` ones as questions.

    give : logs a picture with a shot, and whether that is sure. What was taken in stays when it is cancelled, and is
    known when it is begun again.
    """
    pairs = [pair for pair in found.match.pairs if pair.sure or doubtful]
    so_far = Taking(of=len(pairs))
    for pair in pairs:
        if is_cancelled():
            break
        frame, shot = found.frames[pair.frame], found.shots[pair.shot]
        try:
            for file in frame.files:
                give(read_for(kind, file), shot.shot_id, pair.sure)
            (so_far.taken if pair.sure else so_far.questions).append(shot.shot_id)
        except PictureError as error:
            so_far.refused.append(str(error))
        so_far.done += 1
        progress(so_far)
    return so_far


def told(found: MatchedCard) -> dict[str, object]:
    """Return a match as plain values, for JSON; format 1 of `ondine-card-match`."""

    def pair(number: int) -> dict[str, object]:
        p = found.match.pairs[number]
        return {
            "file": str(found.frames[p.frame].path),
            "shot": found.shots[p.shot].shot_id,
            "probability": round(p.probability, 4),
            "late_s": round(p.late_s, 3),
            "clock": p.clock,
        }

    numbers = range(len(found.match.pairs))
    return {
        "format": "ondine-card-match",
        "version": 1,
        "clocks": [
            {
                "offset_s": round(clock.offset_s, 3),
                "drift_s_per_day": round(clock.drift_s_per_day, 3),
                "drift_sd_s_per_day": round(clock.drift_sd_s_per_day, 3),
                "at": datetime.fromtimestamp(clock.at_s, UTC).isoformat(timespec="seconds"),
                "spread_s": round(clock.sd_s, 3),
                "confidence": round(clock.weight, 4),
            }
            for clock in found.match.clocks
        ],
        "pairs": [pair(n) for n in numbers if found.match.pairs[n].sure],
        "doubtful": [pair(n) for n in numbers if not found.match.pairs[n].sure],
        "frames_without_shot": [str(found.frames[n].path) for n in found.match.frames_left],
        "shots_without_frame": [found.shots[n].shot_id for n in found.match.shots_left],
        "known": [{"file": str(frame.path), "shot": shot_id} for frame, shot_id in found.known],
        "clock_cards": found.clock_cards,
        "refused": list(found.refused),
    }
