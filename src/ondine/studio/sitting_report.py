"""What there is to tell of one sitting: its table, its shapes, its course, its timings, its shots."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

from ondine.core.numbers import counted
from ondine.core.setup import Setup
from ondine.core.table.course import Course, CourseShot, courses, usual_goal
from ondine.core.timing.wire import sequence_to_json
from ondine.logbook.errors import LogbookError
from ondine.logbook.records import ShotRecord, SittingRecord
from ondine.logbook.store import Logbook

MOST_TIMINGS = 12


@dataclass(frozen=True)
class Timing:
    """Shots of one timing in a sitting: the first of them, how many, of how many it is known, how many hit the goal."""

    shot: ShotRecord
    count: int
    known: int
    hits: int


@dataclass(frozen=True, eq=False)
class SittingReport:
    """A sitting and its shots, oldest first; `setup`: the last one that can be read; `goal`: the shape that counts as a
    hit, None where nothing is tagged; `counts`: how many shots show each shape; `names` of the shapes by their keys.
    """

    sitting: SittingRecord
    shots: tuple[ShotRecord, ...]
    setup: Setup | None
    goal: str | None
    counts: tuple[tuple[str, int], ...]
    courses: tuple[Course, ...]
    timings: tuple[Timing, ...]
    names: dict[str, str]

    @property
    def is_simulated(self) -> bool:
        """Whether no water fell for any of its shots."""
        return any(shot.is_simulated for shot in self.shots)

    @property
    def best(self) -> list[ShotRecord]:
        """The shots with a picture that were kept; where none was, those rated four or five."""
        pictured = [shot for shot in self.shots if shot.picture is not None]
        return [shot for shot in pictured if shot.keeper] or [shot for shot in pictured if shot.rating >= 4]


def report_of(logbook: Logbook, sitting_id: int) -> SittingReport:
    """Return the report of a sitting. Raises LogbookError where there is none of this number, or it has no shots."""
    sitting = next((known for known in logbook.sittings.all() if known.id == sitting_id), None)
    ids = [] if sitting is None else logbook.search.of_sitting(sitting_id).tolist()
    shots = tuple(logbook.shots.each(ids))
    if sitting is None or not shots:
        raise LogbookError("This sitting has no shots that can be read, so there is nothing to report.")
    setups = logbook.setups.by_revision({shot.setup_id for shot in shots})
    figures = logbook.search.figures_of([shot.id for shot in shots])
    course_shots = [
        CourseShot(shot.at.timestamp(), shot.sequence, setups.get(shot.setup_id), known, shot.shapes, shot.note)
        for shot, known in zip(shots, figures, strict=True)
    ]
    goal = usual_goal(course_shots)
    counts = Counter(key for shot in shots for key in shot.shapes)
    last = next((setups[shot.setup_id] for shot in reversed(shots) if shot.setup_id in setups), None)
    return SittingReport(
        sitting,
        shots,
        last,
        goal,
        tuple(counts.most_common()),
        tuple(courses(course_shots, goal)),
        _timings(shots, goal),
        {shape.key: shape.name for shape in logbook.shapes.all()},
    )


def _timings(shots: tuple[ShotRecord, ...], goal: str | None) -> tuple[Timing, ...]:
    """The timings that were fired, the most hits first."""
    groups: dict[str, list[ShotRecord]] = {}
    for shot in shots:
        groups.setdefault(f"{shot.setup_id} {sequence_to_json(shot.sequence)}", []).append(shot)
    found = [
        Timing(of[0], len(of), sum(bool(s.shapes) for s in of), sum(goal in s.shapes for s in of))
        for of in groups.values()
    ]
    found.sort(key=lambda timing: (-timing.hits, -timing.count, timing.shot.id))
    return tuple(found[:MOST_TIMINGS])


def sitting_named(logbook: Logbook, name: str) -> int:
    """Return the number of a sitting by its number or name; the newest that has shots where no name is given.

    Raises LogbookError where there is none, or several.
    """
    known = [sitting for sitting in logbook.sittings.all() if sitting.shots]
    if not known:
        raise LogbookError("This logbook has no sitting with shots yet.")
    if not name:
        return known[0].id
    fits = [s for s in known if s.name.casefold() == name.casefold() or str(s.id) == name]
    if len(fits) == 1:
        return fits[0].id
    listed = "\n".join(f"{s.id}: {s.name}, {s.started_at:%Y-%m-%d}, {counted(s.shots, 'shot')}" for s in fits or known)
    why = "Several sittings are called so: give its number." if fits else f"There is no sitting “{name}”. There are:"
    raise LogbookError(f"{why}\n{listed}")
