"""Recipes: a sequence and the set-up it is meant for, as JSON that travels. Checked here, trusted inside."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from ondine.core.sequence import DEFAULT_MAX_OPEN_US, MAX_TIME_US, Pulse, Sequence, SequenceError
from ondine.core.setup import Setup
from ondine.core.wire import setup_from_dict


class RecipeError(Exception):
    """A recipe that cannot be used; the text names each wrong field by its path and says what is wanted."""


class _Wire(BaseModel):
    # Unknown fields are let through: a newer Ondine may have written them.
    model_config = ConfigDict(extra="ignore", allow_inf_nan=False, strict=True)


Positive = Annotated[float, Field(gt=0)]
Micro = Annotated[int, Field(ge=0, le=MAX_TIME_US)]


class PulseWire(_Wire):
    """One opening of the valve."""

    start_us: Micro = Field(description="From the trigger to the opening command, whole microseconds.")
    open_us: Annotated[int, Field(ge=1, le=MAX_TIME_US)] = Field(description="Open time, whole microseconds.")


class SequenceWire(_Wire):
    """Drops and flash."""

    drops: list[PulseWire] = Field(min_length=1, max_length=4)
    flash_us: Micro = Field(description="From the trigger to the flash, whole microseconds.")


class RigWire(_Wire):
    """Nozzle and valve, SI units."""

    nozzle_height_m: Annotated[float, Field(ge=0.02, le=3.0)] = 0.365
    orifice_diameter_m: Positive = 1.8e-3
    flow_m3_s: Positive = 2.6e-6
    dead_time_s: Annotated[float, Field(ge=0, le=0.1)] = 3.0e-3
    max_open_us: Annotated[int, Field(ge=1_000, le=MAX_TIME_US)] = DEFAULT_MAX_OPEN_US


class MixWire(_Wire):
    """The falling liquid."""

    glycerine_mass_fraction: Annotated[float, Field(ge=0, le=1)] = 0.0
    temperature_c: Annotated[float, Field(ge=0, le=40)] = 20.0


class CameraWire(_Wire):
    """Sensor, lens and exposure."""

    name: str = "Body A"
    sensor_width_m: Positive = 23.5e-3
    width_px: Annotated[int, Field(gt=0)] = 6000
    height_px: Annotated[int, Field(gt=0)] = 4000
    magnification: Positive = 0.25
    focal_length_m: Positive = 0.090
    f_number: Positive = 16.0
    iso: Annotated[int, Field(gt=0)] = 200
    exposure_s: Positive = 0.5
    water_line_share: Annotated[float, Field(ge=0, le=1)] = 0.2


class LightWire(_Wire):
    """The flash."""

    name: str = "Unit A"
    power: Annotated[float, Field(gt=0, le=1)] = 1 / 64


class PriorWire(_Wire):
    """A belief: mean and standard deviation."""

    mean: float
    sd: Annotated[float, Field(ge=0)]


class SetupWire(_Wire):
    """The table that the recipe is meant for; what is left out takes Ondine's defaults."""

    name: str = "Untitled set-up"
    rig: RigWire = Field(default_factory=RigWire)
    mix: MixWire = Field(default_factory=MixWire)
    camera: CameraWire = Field(default_factory=CameraWire)
    light: LightWire = Field(default_factory=LightWire)
    beliefs: dict[
        Literal[
            "lag_s",
            "release_share",
            "start_speed_m_s",
            "flow_factor",
            "height_error_m",
            "energy_share",
            "jet_delay_factor",
            "jet_speed_factor",
            "tip_mass_share",
        ],
        PriorWire,
    ] = Field(default_factory=dict)


class RecipeWire(_Wire):
    """An Ondine recipe."""

    format: Literal["ondine-recipe"]
    version: Literal[1]
    name: str = ""
    sequence: SequenceWire
    setup: SetupWire = Field(default_factory=SetupWire)


def read_recipe(path: Path) -> tuple[Sequence, Setup]:
    """Read and check a recipe file. Raises RecipeError with every reason, each with its path in the file."""
    try:
        text = path.read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as error:
        why = error.strerror if isinstance(error, OSError) else "it is not UTF-8 text"
        raise RecipeError(f"The recipe {path} cannot be read: {why}. Check the name and try again.") from error
    return parse_recipe(text, str(path))


def parse_recipe(text: str, source: str) -> tuple[Sequence, Setup]:
    """Check a recipe's JSON text; `source` is named in messages. Raises RecipeError."""
    try:
        data = json.loads(text, parse_constant=_no_constant)
    except (ValueError, RecursionError) as error:
        raise RecipeError(f"{source} is not valid JSON: {error}. Correct it there.") from error
    try:
        wire = RecipeWire.model_validate(data)
    except ValidationError as error:
        raise RecipeError(_explain(source, error)) from error
    drops = tuple(Pulse(p.start_us, p.open_us) for p in wire.sequence.drops)
    try:
        sequence = Sequence(drops, wire.sequence.flash_us, wire.setup.rig.max_open_us)
    except SequenceError as error:
        raise RecipeError(f"{source} cannot be fired. {error}") from error
    return sequence, setup_from_dict(wire.setup.model_dump())


def _no_constant(name: str) -> None:
    raise ValueError(f"{name} is not a number that JSON knows")


def _explain(source: str, error: ValidationError) -> str:
    lines = []
    for item in error.errors(include_url=False):
        where = ".".join(str(part) for part in item["loc"]) or "the file"
        given = item.get("input")
        shown = f" (it is {given!r})" if isinstance(given, str | int | float) else ""
        lines.append(f"{where}: {item['msg'][0].lower()}{item['msg'][1:]}{shown}")
    return f"{source} is not a recipe that Ondine can use. Correct these fields: " + "; ".join(lines) + "."


def write_recipe(sequence: Sequence, setup: Setup, name: str = "") -> str:
    """Return the recipe's JSON text."""
    drops = [{"start_us": p.start_us, "open_us": p.open_us} for p in sequence.drops]
    recipe = {
        "format": "ondine-recipe",
        "version": 1,
        "name": name,
        "sequence": {"drops": drops, "flash_us": sequence.flash_us},
        "setup": json.loads(setup.to_json()),
    }
    return json.dumps(recipe, indent=2, allow_nan=False) + "\n"


def recipe_schema() -> dict[str, Any]:
    """Return the JSON Schema that is published in docs/schemas."""
    return RecipeWire.model_json_schema()
