"""The figures of the shots, beside them: written with each shot, and for older ones told anew, some at a time."""

from __future__ import annotations

import hashlib
import json
from dataclasses import astuple
from functools import lru_cache

from sqlalchemy.orm import Session

from ondine.core.belief.priors import Belief, belief_from_json
from ondine.core.forecast.plan import Plan
from ondine.core.log.facts import FACTS_VERSION, NAMES, Facts, Flight, facts_of, flight_of
from ondine.core.setup import Setup
from ondine.core.setup.wire import setup_from_json
from ondine.core.timing.sequence import Pulse, Sequence
from ondine.core.timing.wire import sequence_from_json, sequence_to_json
from ondine.logbook.database import Database

_WRITE = (
    f"INSERT OR REPLACE INTO shot_facts (shot_id, version, timing, {', '.join(NAMES)}) "
    f"VALUES ({', '.join('?' for _ in range(len(NAMES) + 3))})"
)
_WAITING = """
    SELECT shot.id, shot.sequence, shot.setup_id, shot.head_m, setup_revision.content, belief_revision.content
    FROM shot LEFT JOIN shot_facts ON shot_facts.shot_id = shot.id
    LEFT JOIN setup_revision ON setup_revision.id = shot.setup_id
    LEFT JOIN belief_revision ON belief_revision.id = shot.belief_id
    WHERE shot_facts.version IS NOT ? LIMIT ?
"""
_NOTHING = Facts(drops=0)


@lru_cache(maxsize=256)
def _flight(drops: tuple[Pulse, ...], setup: Setup, belief: Belief) -> Flight:
    """What many shots share: in a series only the flash moves."""
    return flight_of(Plan(Sequence(drops, ()), setup, belief))


def write_facts(session: Session, shot_id: int, plan: Plan, head_m: float | None) -> None:
    """Write the figures of a shot."""
    _write(session, shot_id, timing_of(sequence_to_json(plan.sequence), plan.setup.revision), _facts(plan, head_m))


def timing_of(sequence: str, setup_id: str) -> int:
    """Return the number of a timing: the same for one sequence, as it is stored, on one revision of a set-up.

    It has 48 bits, which a column of floats holds exactly; no two of a hundred thousand timings are likely to share
    one.
    """
    return int.from_bytes(hashlib.sha256(f"{setup_id} {sequence}".encode()).digest()[:6], "big")


def _facts(plan: Plan, head_m: float | None) -> Facts:
    return facts_of(plan, _flight(plan.sequence.drops, plan.setup, plan.belief), head_m)


def _write(session: Session, shot_id: int, timing: int, facts: Facts) -> None:
    session.connection().exec_driver_sql(_WRITE, (shot_id, FACTS_VERSION, timing, *astuple(facts)))


class FactsTable:
    """Tells anew what an older Ondine told otherwise, or not at all."""

    def __init__(self, database: Database) -> None:
        self._database = database
        self._all_told = False

    def look_again(self) -> None:
        """Shots may have come without figures: from another logbook, say."""
        self._all_told = False

    def waiting(self) -> int:
        """How many shots wait for their figures. New ones never do: once none waits, nobody counts again."""
        if self._all_told:
            return 0
        counted = "SELECT (SELECT count(*) FROM shot) - (SELECT count(*) FROM shot_facts WHERE version = ?)"
        with self._database.session() as session:
            return int(session.connection().exec_driver_sql(counted, (FACTS_VERSION,)).scalar_one())

    def tell(self, most: int) -> int:
        """Tell the figures of some shots that wait, at most so many; return how many it were."""
        with self._database.session() as session:
            rows = session.connection().exec_driver_sql(_WAITING, (FACTS_VERSION, most)).fetchall()
            for number, sequence, setup_id, *rest in rows:
                _write(session, number, timing_of(str(sequence), str(setup_id)), _read(sequence, *rest))
        self._database.touched.note([row[0] for row in rows])
        self._all_told = not rows
        return len(rows)


def _read(sequence: object, head_m: object, setup: object, belief: object) -> Facts:
    """Tell the figures of a shot as its row holds it; none of one that cannot be read, so that it waits no longer."""
    try:
        plan = Plan(sequence_from_json(str(sequence)), _setup(str(setup)), _belief(str(belief)))
        return _facts(plan, float(head_m) if isinstance(head_m, int | float) else None)
    except (ValueError, json.JSONDecodeError):
        return _NOTHING


@lru_cache(maxsize=64)
def _setup(content: str) -> Setup:
    return setup_from_json(content)


@lru_cache(maxsize=64)
def _belief(content: str) -> Belief:
    return belief_from_json(content)
