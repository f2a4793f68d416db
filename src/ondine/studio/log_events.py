"""What the studio tells of the log: searches, the atlas, a camera's card."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from ondine.logbook.completion import LogWords
from ondine.logbook.records import ShotRecord

if TYPE_CHECKING:
    # Nobody needs the log for the first frame.
    from ondine.core.log.atlas import Points
    from ondine.core.log.regions import Regions
    from ondine.core.log.side_by_side import Row
    from ondine.logbook.column_map import Meaning
    from ondine.logbook.foreign_table import ForeignTable
    from ondine.logbook.import_table import Import
    from ondine.logbook.own_shapes import OwnShapeRecord
    from ondine.logbook.search import Group
    from ondine.studio.card_import import MatchedCard
    from ondine.studio.sitting_report import SittingReport


@dataclass(frozen=True, eq=False)
class ShotsFound:
    """The answer to a search: the numbers of the shots that fit, in order, shape (n,), and how it was understood.

    `waiting`: shots of an older Ondine whose figures are not told yet, so that a search by them may miss some.
    """

    line: str
    understood: str
    ids: NDArray[np.int64]
    waiting: int = 0


@dataclass(frozen=True)
class SearchRefused:
    """A search that cannot be understood; the sentence says which part, and how to write it."""

    line: str
    message: str


@dataclass(frozen=True)
class ShotsRead:
    """Shots that were asked for by their numbers; one that is not among them cannot be read."""

    asked: tuple[int, ...]
    shots: dict[int, ShotRecord]


@dataclass(frozen=True, eq=False)
class PointsFound:
    """The shots that fit a search over two figures, for the atlas."""

    line: str
    x: str
    y: str
    points: Points


@dataclass(frozen=True, eq=False)
class RegionsFound:
    """What the belief in hand makes likeliest over two figures; None where it tells nothing of them."""

    x: str
    y: str
    regions: Regions | None


@dataclass(frozen=True)
class CardProgress:
    """How far the reading or taking in of a card is; no words: it has ended."""

    what: str
    done: int
    of: int


@dataclass(frozen=True, eq=False)
class CardMatched:
    """What a card and the log have to do with each other; `folder` where it was read anew."""

    folder: Path | None
    found: MatchedCard


@dataclass(frozen=True)
class CardTaken:
    """How many of a card's pictures are in the log now, how many of them as questions, and what could not be read."""

    taken: int
    questions: int
    refused: tuple[str, ...]
    cancelled: bool


@dataclass(frozen=True)
class LogWordsFound:
    """What a search can be completed with, and the saved searches by name."""

    words: LogWords
    searches: dict[str, str]


@dataclass(frozen=True)
class OwnShapesFound:
    """The photographer's own shapes, by their letters."""

    shapes: tuple[OwnShapeRecord, ...]


@dataclass(frozen=True)
class ShotsCompared:
    """What differs between shots, a value for each of `shot_ids` in every row."""

    shot_ids: tuple[int, ...]
    rows: tuple[Row, ...]


@dataclass(frozen=True)
class LadderFound:
    """The shots that show the splash of one at other instants, by their flash; that one among them."""

    shot_id: int
    shot_ids: tuple[int, ...]


@dataclass(frozen=True)
class GroupsFound:
    """The shots that fit a search by equal timing, the most hits first, and the newest shot of each."""

    line: str
    shape: str
    groups: tuple[Group, ...]
    shots: dict[int, ShotRecord]


@dataclass(frozen=True, eq=False)
class GroupFetched:
    """The shots of one timing, newest first, shape (n,)."""

    ids: NDArray[np.int64]


@dataclass(frozen=True)
class ExchangeProgress:
    """How far the writing out or taking in of shots is; no words: it has ended."""

    what: str
    done: int
    of: int


@dataclass(frozen=True)
class LogReplaced:
    """Shots came into the log from elsewhere: whatever shows it asks anew."""


@dataclass(frozen=True, eq=False)
class SittingTold:
    """All that there is to tell of a sitting."""

    report: SittingReport


@dataclass(frozen=True)
class TableRead:
    """A table that others wrote, and what its columns may mean."""

    path: Path
    table: ForeignTable
    meanings: dict[str, Meaning]


@dataclass(frozen=True)
class TableUnderstood:
    """What a table comes to, in words too; None where its columns do not tell enough, and the words say what."""

    found: Import | None
    words: str


@dataclass(frozen=True)
class ShotsChanged:
    """Many shots were changed at once."""

    shots: dict[int, ShotRecord]


LogEvent = (
    ShotsFound
    | SearchRefused
    | ShotsRead
    | PointsFound
    | RegionsFound
    | CardProgress
    | CardMatched
    | CardTaken
    | LogWordsFound
    | OwnShapesFound
    | ShotsCompared
    | LadderFound
    | GroupsFound
    | GroupFetched
    | ExchangeProgress
    | LogReplaced
    | SittingTold
    | TableRead
    | TableUnderstood
    | ShotsChanged
)
