"""A logbook of any length for the benchmarks: timings that wander, as those of a long season do."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable
from contextlib import closing
from datetime import UTC, datetime, timedelta
from pathlib import Path

import numpy as np

from ondine.core.forecast.plan import Plan
from ondine.core.forecast.shapes import SHAPES
from ondine.core.log.facts import FACTS_VERSION, NAMES, facts_of, flight_of
from ondine.core.setup import BenchKind
from ondine.core.timing.sequence import FlashPulse, Pulse, Sequence
from ondine.core.timing.wire import sequence_to_json
from ondine.demo.taught import IN_HAND
from ondine.logbook.facts_table import timing_of
from ondine.logbook.records import SittingFacts
from ondine.logbook.store import Logbook

BEGAN = datetime(2024, 1, 6, 17, 0, tzinfo=UTC)
A_SITTING = 250
NOTES = ("", "", "", "clouded with milk", "for the foyer", "too early, into the crater", "glycerine again", "print 3")


def make_logbook(path: Path, shots: int, seed: int = 1) -> None:
    """Write a logbook with so many shots, in sittings of `A_SITTING`, most of them with a picture and a tag."""
    rng = np.random.default_rng(seed)
    book = Logbook.open(path)
    book.state.put("bench", BenchKind.SIMULATED)
    plan = IN_HAND
    first = book.shots.plan(book.sittings.begin(SittingFacts("Sitting 0"), BEGAN), plan, BEGAN)
    setup, belief = book.shots.get(first).setup_id, book.shots.get(first).belief_id
    book.close()
    rows, facts, tags, pictures, sittings = [], [], [], [], []
    flights = {}
    for number in range(first + 1, shots + 1):
        sitting = 1 + number // A_SITTING
        if number % A_SITTING == 0:
            sittings.append(
                (sitting, _stored(BEGAN + timedelta(days=sitting)), f"Sitting {sitting}", "Mill loft", "", "")
            )
        at = BEGAN + timedelta(days=sitting, seconds=41 * (number % A_SITTING))
        interval, opened = 80 + int(rng.integers(0, 40)), 18 + int(rng.integers(0, 8))
        flash = 330_000 + int(rng.integers(0, 600)) * 100
        drops = (Pulse(0, opened * 1000), Pulse(interval * 1000, opened * 1000))
        sequence = Sequence(drops, (FlashPulse(flash),))
        if drops not in flights:
            flights[drops] = flight_of(Plan(sequence, plan.setup, plan.belief))
        told = facts_of(Plan(sequence, plan.setup, plan.belief), flights[drops], 0.1)
        rows.append((
            number, sitting, setup, belief, _stored(at), _stored(at), "fired", sequence_to_json(sequence), 0.1,
            f"[{flash}]", "", "simulated", int(rng.integers(0, 6)), NOTES[int(rng.integers(0, len(NOTES)))],
            int(rng.random() < 0.03),
        ))  # fmt: skip
        facts.append((number, FACTS_VERSION, timing_of(rows[-1][7], setup), *(getattr(told, name) for name in NAMES)))
        if rng.random() < 0.9:
            tags.append((number, SHAPES[int(rng.integers(0, len(SHAPES)))].key))
        pictures.append((number, f"/pictures/{number:06d}.jpg", f"{number:064x}", 6000, 4000, _stored(at), _stored(at)))
    with closing(sqlite3.connect(path)) as raw:
        _insert(raw, "sitting", "id, started_at, name, place, note, preflight", sittings)
        _insert(raw, "shot",
                "id, sitting_id, setup_id, belief_id, planned_at, fired_at, state, sequence, head_m, flash_reports_us, "
                "report, bench, rating, note, keeper", rows)  # fmt: skip
        _insert(raw, "shot_facts", f"shot_id, version, timing, {', '.join(NAMES)}", facts)
        _insert(raw, "tag", "shot_id, shape", tags)
        _insert(raw, "picture", "shot_id, path, sha256, width_px, height_px, taken_at, arrived_at", pictures)
        raw.commit()


def _insert(raw: sqlite3.Connection, table: str, columns: str, rows: Iterable[tuple[object, ...]]) -> None:
    slots = ", ".join("?" for _ in columns.split(","))
    raw.executemany(f"INSERT INTO {table} ({columns}) VALUES ({slots})", rows)


def _stored(at: datetime) -> str:
    return at.replace(tzinfo=None).isoformat(" ", "microseconds")
