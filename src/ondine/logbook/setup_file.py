"""Set-ups as JSON files that travel: checked on the way in, with what was unknown on the way out."""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any, Literal

from pydantic import Field, ValidationError

from ondine.core.belief.priors import Belief
from ondine.core.setup import BenchKind, Setup
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
from ondine.logbook.writing import JSON, write_text

SetupWire = wire_model(Setup)
BeliefWire = wire_model(Belief)


class SetupFileError(Exception):
    """A set-up file that cannot be used; the text names each wrong field by its path and says what is wanted."""


class SetupFileWire(Wire):
    """An Ondine set-up."""

    format: Literal["ondine-setup"]
    version: Literal[3]
    bench: Literal[tuple(str(kind) for kind in BenchKind)] = Field(  # type: ignore[valid-type]
        default="unknown", description="What opens the valve where it was written; simulated is no evidence of a table."
    )
    setup: SetupWire  # type: ignore[valid-type]
    belief: BeliefWire = Field(default_factory=BeliefWire)  # type: ignore[valid-type]


@dataclass(frozen=True)
class SetupFile:
    """A set-up, what is believed of its rig, and the kind of bench where it was written."""

    setup: Setup
    belief: Belief
    bench: BenchKind


def read_setup(path: Path) -> tuple[Setup, Belief]:
    """Read a set-up file; return set-up and belief alone. Raises SetupFileError as `read_setup_file` does."""
    found = read_setup_file(path)
    return found.setup, found.belief


def read_setup_file(path: Path) -> SetupFile:
    """Read and check a set-up file, and what is believed of its rig. Raises SetupFileError with every reason."""
    try:
        text = read_text(path, "set-up")
    except ValueError as error:
        raise SetupFileError(str(error)) from error
    return _parsed(text, str(path))


def parse_setup(text: str, source: str) -> tuple[Setup, Belief]:
    """Check a set-up's JSON text; return set-up and belief. `source` is named in messages. Raises SetupFileError."""
    found = _parsed(text, source)
    return found.setup, found.belief


def _parsed(text: str, source: str) -> SetupFile:
    try:
        wire = SetupFileWire.model_validate(up_to_date(load_json(text, source)))
        return SetupFile(setup_from_wire(wire.setup), belief_from_wire(wire.belief), BenchKind(wire.bench))
    except ValidationError as error:
        raise SetupFileError(explain(source, "set-up", error)) from error
    except ValueError as error:
        raise SetupFileError(f"{source}: {error}") from error


def write_setup(setup: Setup, belief: Belief, path: Path, bench: BenchKind = BenchKind.UNKNOWN) -> None:
    """Write a set-up file. Raises WriteError."""
    data = {
        "format": "ondine-setup",
        "version": FORMAT_VERSION,
        "bench": bench.value,
        "setup": setup_to_wire(setup),
        "belief": asdict(belief),
    }
    write_text(path, json.dumps(data, indent=2, allow_nan=False) + "\n", JSON)


def setup_schema() -> dict[str, Any]:
    """Return the JSON Schema that ships with Ondine, in assets/schemas."""
    return SetupFileWire.model_json_schema()
