"""What the studio tells: plain values, emitted from whatever thread found them out."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path
from typing import TYPE_CHECKING

from ondine.bench.protocol import Dispensed, Pour
from ondine.core.belief.priors import Belief
from ondine.core.forecast.plan import Plan
from ondine.core.setup import BenchKind, Setup
from ondine.core.timing.sequence import Sequence
from ondine.logbook.records import KeptSetupRecord, ShotRecord, SittingRecord
from ondine.logbook.trial_frame import TrialFrame
from ondine.studio.log_events import LogEvent

if TYPE_CHECKING:
    # Nobody needs the coach, nor practises, for the first frame.
    from ondine.bench.simulated.instants import Instant
    from ondine.core.belief.learned import Learned
    from ondine.core.coach.diagnosis import Diagnosis
    from ondine.core.coach.facts import Fact
    from ondine.core.coach.mapping import Axis, ChanceMap
    from ondine.core.coach.progress import Step
    from ondine.core.coach.proposal import Proposal


class BenchState(StrEnum):
    """What the bench is doing."""

    READY = "ready"
    FIRING = "firing"
    POURING = "pouring"
    RECYCLING = "waiting for the flash"
    RESTING = "letting the valve rest"
    BETWEEN = "between two shots"


@dataclass(frozen=True)
class PlanChanged:
    """The sequence, set-up or belief in hand is another one now."""


@dataclass(frozen=True)
class BenchChanged:
    """The bench began or ended a firing."""

    state: BenchState


@dataclass(frozen=True)
class ShotLogged:
    """A shot is in the log for the first time."""

    shot: ShotRecord


@dataclass(frozen=True)
class ShotChanged:
    """A shot's outcome, picture, tags, rating or note changed."""

    shot: ShotRecord


@dataclass(frozen=True)
class PictureArrived:
    """A picture was taken in and belongs to a shot."""

    shot: ShotRecord


@dataclass(frozen=True)
class FolderChanged:
    """The watched folder was chosen, vanished, or came back."""

    folder: Path
    present: bool


@dataclass(frozen=True)
class Trouble:
    """Something did not work: a sentence that says what, where, and what to do; `details` are for a report."""

    message: str
    details: str = ""


@dataclass(frozen=True)
class Notice:
    """Something worth a line, with no harm done."""

    message: str


@dataclass(frozen=True)
class LogbookNamed:
    """A file that was opened is a logbook."""

    path: Path


@dataclass(frozen=True)
class RecipeRead:
    """A recipe was read. `bench`: the kind where it was written."""

    path: Path
    name: str
    plan: Plan
    bench: BenchKind


@dataclass(frozen=True)
class SetupRead:
    """A set-up was read. `bench`: the kind where it was written."""

    path: Path
    setup: Setup
    belief: Belief
    bench: BenchKind


class Purpose(StrEnum):
    """What a pour is for."""

    WEIGHING = "weighing"
    PRIMING = "priming"
    TEST_DROP = "test drop"


@dataclass(frozen=True)
class Pouring:
    """A pour goes on: pulses so far."""

    done: int
    of: int


@dataclass(frozen=True)
class PourEnded:
    """A pour has ended, whole or cut short."""

    purpose: Purpose
    pour: Pour
    dispensed: Dispensed


@dataclass(frozen=True)
class LedgerChanged:
    """More has run through the valve, or reservoir or bowl were filled anew."""


@dataclass(frozen=True)
class SittingsFound:
    """All sittings, newest first, and which of them is going on."""

    sittings: list[SittingRecord]
    current: int | None


@dataclass(frozen=True)
class SetupsFound:
    """The named set-ups, newest first."""

    setups: list[KeptSetupRecord]


@dataclass(frozen=True)
class SetupFetched:
    """The set-up that a shot was fired with, and what was believed then."""

    shot_id: int
    setup: Setup
    belief: Belief


@dataclass(frozen=True)
class SetupOfShot:
    """The set-up that a shot was fired with, for what is measured in its picture."""

    shot_id: int
    setup: Setup


@dataclass(frozen=True)
class TrialFrameRead:
    """A test frame was read."""

    frame: TrialFrame


@dataclass(frozen=True)
class SeriesGoesOn:
    """A series has fired so many of its shots; zero of zero when it is over."""

    done: int
    of: int


@dataclass(frozen=True)
class ForeseenSeen:
    """A look at the foreseen picture of a wish, by its number: RGB, coarser or finer by `level`, at last `finished`."""

    number: int
    level: int
    finished: bool
    width: int
    height: int
    pixels: bytes


@dataclass(frozen=True)
class ForeseenLost:
    """There is no foreseen picture for a wish, nor for those before it; `details` if it failed."""

    number: int
    details: str = ""


@dataclass(frozen=True)
class CoachSays:
    """What the coach has to say.

    `reason` : why the proposal; `steps` : how far the search has come; `shots` : how many taught it;
    `last`, `verdict` : how the newest tagged picture lay, and whether the advice before it was right;
    `doubt` : what does not fit; `steady` : how steady the rig is;
    `learned`, `facts` : what is left of the rig, as rigs and in words;
    `taught_most` : numbers of the shots that taught most; `changes` : what changes of the table have undone;
    `hit` : whether the newest tag is what is searched for; `newest` : number of the shot that has it, 0 for none;
    `map` : chances over two timings, where a map is open, out of the `map_axes` that it could have.
    """

    proposal: Proposal
    reason: str
    steps: tuple[Step, ...]
    shots: int
    last: Diagnosis | None = None
    verdict: str = ""
    doubt: str = ""
    steady: str = ""
    learned: Learned | None = None
    facts: tuple[Fact, ...] = ()
    taught_most: tuple[int, ...] = ()
    changes: tuple[str, ...] = ()
    hit: bool = False
    newest: int = 0
    map: ChanceMap | None = None
    map_axes: tuple[Axis, ...] = ()


@dataclass(frozen=True)
class CoachSilent:
    """The coach has nothing to propose; a sentence says why."""

    why: str


@dataclass(frozen=True)
class CoachThinks:
    """The coach has begun to think, or is done."""

    busy: bool


@dataclass(frozen=True)
class Showed:
    """A hidden rig that one practises on has fired; the picture of the shot shows `shape`, whatever it is tagged."""

    shot: int
    sequence: Sequence
    shape: str


@dataclass(frozen=True)
class PracticeChanged:
    """A run on a hidden rig has begun, gone on or ended, or more is known of it."""


@dataclass(frozen=True)
class RigMeasured:
    """What the coach needs on a hidden rig of this number: `par` shots, and one `path` of its own."""

    rig: int
    par: int
    path: tuple[Showed, ...]


@dataclass(frozen=True)
class InstantReady:
    """The next picture to name is there: its place in the round, the picture's file, and what it shows."""

    place: int
    picture: Path
    instant: Instant


Event = (
    CoachSays
    | CoachSilent
    | CoachThinks
    | Showed
    | PracticeChanged
    | RigMeasured
    | InstantReady
    | ForeseenSeen
    | ForeseenLost
    | TrialFrameRead
    | SeriesGoesOn
    | LogEvent
    | LogbookNamed
    | RecipeRead
    | SetupRead
    | Pouring
    | PourEnded
    | LedgerChanged
    | SittingsFound
    | SetupsFound
    | SetupFetched
    | SetupOfShot
    | PlanChanged
    | BenchChanged
    | ShotLogged
    | ShotChanged
    | PictureArrived
    | FolderChanged
    | Trouble
    | Notice
)
