"""Recipes: a sequence, the set-up it is meant for and what is believed of it, as JSON that travels.

Checked here, trusted inside.
"""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Annotated, Any, Literal

from pydantic import Field, ValidationError

from ondine.core import plain
from ondine.core.belief.priors import Belief
from ondine.core.forecast.plan import Plan
from ondine.core.setup import BenchKind, Setup
from ondine.core.setup.whole import MOST_PARTS
from ondine.core.timing.limits import MAX_DROPS, MAX_FLASHES
from ondine.core.timing.sequence import MAX_TIME_US, Sequence
from ondine.logbook.wire_model import (
    FORMAT_VERSION,
    Wire,
    belief_from_wire,
    explain,
    load_json,
    read_text,
    setup_from_wire,
    setup_to_wire,
    up_to_date,
    wire_model,
)


class RecipeError(Exception):
    """A recipe that cannot be used; the text names each wrong field by its path and says what is wanted."""


Micro = Annotated[int, Field(ge=0, le=MAX_TIME_US)]


class PulseWire(Wire):
    """One opening of a valve."""

    start_us: Micro = Field(description="From the trigger to the opening command, whole microseconds.")
    open_us: Annotated[int, Field(ge=1, le=MAX_TIME_US)] = Field(description="Open time, whole microseconds.")
    valve: Annotated[int, Field(ge=0, le=MOST_PARTS)] = Field(default=0, description="Which valve, from 0.")


class FlashWire(Wire):
    """One flash."""

    at_us: Micro = Field(description="From the trigger to the light, whole microseconds.")
    output: Annotated[int, Field(ge=0, le=MOST_PARTS)] = Field(default=0, description="Which output, from 0.")


class CameraWire(Wire):
    """What the camera is asked for; null where nothing is asked."""

    opens_us: Micro | None = Field(default=None, description="The shutter stands open; null: the table's lead.")
    mirror_us: Micro | None = Field(default=None, description="The mirror is sent up.")
    half_press_us: Micro | None = Field(default=None, description="The release is half pressed.")


class SequenceWire(Wire):
    """Drops, flashes and camera."""

    drops: list[PulseWire] = Field(min_length=1, max_length=MAX_DROPS)
    flashes: list[FlashWire] = Field(min_length=1, max_length=MAX_FLASHES)
    camera: CameraWire = Field(default_factory=CameraWire)


SetupWire = wire_model(Setup)
BeliefWire = wire_model(Belief)


class RecipeWire(Wire):
    """An Ondine recipe."""

    format: Literal["ondine-recipe"]
    version: Literal[3]
    name: str = ""
    bench: Literal[tuple(str(kind) for kind in BenchKind)] = Field(  # type: ignore[valid-type]
        default="unknown", description="What opens the valve where it was written; simulated is no evidence of a table."
    )
    sequence: SequenceWire
    setup: SetupWire = Field(default_factory=SetupWire)  # type: ignore[valid-type]
    belief: BeliefWire = Field(default_factory=BeliefWire)  # type: ignore[valid-type]


@dataclass(frozen=True)
class Recipe:
    """A recipe: its name, its plan, and the kind of bench where it was written."""

    name: str
    plan: Plan
    bench: BenchKind


def read_recipe(path: Path) -> Plan:
    """Read and check a recipe file; return its plan alone. Raises RecipeError as `read_recipe_file` does."""
    return read_recipe_file(path).plan


def read_recipe_file(path: Path) -> Recipe:
    """Read and check a recipe file. Raises RecipeError with every reason, each with its path in the file."""
    try:
        text = read_text(path, "recipe")
    except ValueError as error:
        raise RecipeError(str(error)) from error
    return _parsed(text, str(path))


def parse_recipe(text: str, source: str) -> Plan:
    """Check a recipe's JSON text; return its plan alone. `source` is named in messages. Raises RecipeError."""
    return _parsed(text, source).plan


def _parsed(text: str, source: str) -> Recipe:
    try:
        wire = RecipeWire.model_validate(up_to_date(load_json(text, source)))
    except ValidationError as error:
        raise RecipeError(explain(source, "recipe", error)) from error
    except ValueError as error:
        raise RecipeError(str(error)) from error
    try:
        setup = setup_from_wire(wire.setup)
    except ValueError as error:
        raise RecipeError(f"{source} describes a table that cannot stand. {error}") from error
    try:
        belief = belief_from_wire(wire.belief)
    except ValueError as error:
        raise RecipeError(f"{source} says of its rig what cannot be: {error}. Correct it there.") from error
    # Whether it can be fired is asked where it is shown, and again before it is: another table may do it.
    sequence = plain.read(Sequence, wire.sequence.model_dump())
    return Recipe(wire.name, Plan(sequence, setup, belief), BenchKind(wire.bench))


def write_recipe(plan: Plan, name: str = "", bench: BenchKind = BenchKind.UNKNOWN) -> str:
    """Return the recipe's JSON text."""
    recipe = {
        "format": "ondine-recipe",
        "version": FORMAT_VERSION,
        "name": name,
        "bench": bench.value,
        "sequence": asdict(plan.sequence),
        "setup": setup_to_wire(plan.setup),
        "belief": asdict(plan.belief),
    }
    return json.dumps(recipe, indent=2, allow_nan=False) + "\n"


def recipe_schema() -> dict[str, Any]:
    """Return the JSON Schema that ships with Ondine, in assets/schemas."""
    return RecipeWire.model_json_schema()
