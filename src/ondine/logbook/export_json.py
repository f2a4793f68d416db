"""The log as JSON, with a published schema."""

from __future__ import annotations

import json
from collections.abc import Mapping
from pathlib import Path
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from ondine.core.log.quantities import BY_KEY
from ondine.logbook.exchange_columns import FIGURES
from ondine.logbook.export import Ids, all_ids
from ondine.logbook.records import ShotRecord
from ondine.logbook.store import Logbook
from ondine.logbook.writing import JSON, write_text

FORMAT, VERSION = "ondine-shots", 1


class _Told(BaseModel):
    model_config = ConfigDict(extra="forbid")


class DropTold(_Told):
    """One drop: the opening of its valve, in milliseconds from the trigger."""

    start_ms: float
    open_ms: float
    valve: Annotated[int, Field(ge=1, description="counted from 1")]


class FlashTold(_Told):
    """One flash, in milliseconds from the trigger."""

    at_ms: float
    output: Annotated[int, Field(ge=1, description="of the controller, counted from 1")]


class ShotTold(_Told):
    """One shot: what was commanded, what came of it, what was said of it."""

    shot: Annotated[int, Field(description="its number in the logbook, never used again")]
    fired_at_utc: Annotated[str, Field(json_schema_extra={"format": "date-time"})]
    sitting: str
    state: Literal["planned", "fired", "unknown", "failed"]
    bench: Annotated[str, Field(description="what opened the valve; where it is simulated, no water fell")]
    drops: list[DropTold]
    flashes: list[FlashTold]
    shapes: Annotated[list[str], Field(description="what the picture shows, by keys")]
    labels: list[str]
    rating: Annotated[int, Field(ge=0, le=5)]
    keeper: bool
    note: str
    picture: str | None
    setup: Annotated[str, Field(description="revision of the set-up, a key of setups")]
    figures: Annotated[
        dict[str, float],
        Field(description="; ".join(f"{q.key}: {q.says}" for q in FIGURES)),
    ]


class ShotsTold(_Told):
    """Shots of a logbook, oldest first, and the set-ups that they were fired with."""

    format: Literal["ondine-shots"]
    version: Literal[1]
    shots: list[ShotTold]
    setups: dict[str, dict[str, Any]]


def shot_as_json(shot: ShotRecord, figures: Mapping[str, float]) -> dict[str, Any]:
    """Return a shot as plain values; times in milliseconds from the trigger. `figures`: of `Search.figures_of`."""
    told = ShotTold(
        shot=shot.id,
        fired_at_utc=shot.at.isoformat(timespec="milliseconds"),
        sitting=_text(shot.sitting),
        state=shot.state.value,
        bench=shot.bench.value,
        drops=[
            DropTold(start_ms=pulse.start_us / 1e3, open_ms=pulse.open_us / 1e3, valve=pulse.valve + 1)
            for pulse in shot.sequence.drops
        ],
        flashes=[FlashTold(at_ms=flash.at_us / 1e3, output=flash.output + 1) for flash in shot.sequence.flashes],
        shapes=list(shot.shapes),
        labels=[_text(label) for label in shot.labels],
        rating=shot.rating,
        keeper=shot.keeper,
        note=_text(shot.note),
        picture=None if shot.picture is None else _text(str(shot.picture)),
        setup=shot.setup_id,
        figures={q.key: round(figures[q.key], BY_KEY[q.key].decimals + 1) for q in FIGURES if q.key in figures},
    )
    return told.model_dump()


def _text(text: str) -> str:
    """A name may hold bytes that are no text; JSON may not."""
    return text.encode("utf-8", "replace").decode("utf-8")


def export_json(logbook: Logbook, out: Path, shot_ids: Ids | None = None) -> int:
    """Write some shots, or all, oldest first, with their set-ups; return how many. Raises WriteError."""
    shots = list(logbook.shots.each(all_ids(logbook) if shot_ids is None else shot_ids))
    known = logbook.search.figures_of([shot.id for shot in shots])
    setups = logbook.setups.by_revision({shot.setup_id for shot in shots})
    told = {
        "format": FORMAT,
        "version": VERSION,
        "shots": [shot_as_json(shot, figures) for shot, figures in zip(shots, known, strict=True)],
        "setups": {revision: json.loads(setup.to_json()) for revision, setup in sorted(setups.items())},
    }
    write_text(out, json.dumps(told, indent=1, allow_nan=False) + "\n", JSON)
    return len(shots)


def shots_schema() -> dict[str, Any]:
    """Return the JSON schema of what `export_json` writes."""
    return ShotsTold.model_json_schema()
