"""Shots side by side: what differs between them, in words, and nothing else."""

from __future__ import annotations

from collections.abc import Mapping
from collections.abc import Sequence as Shots
from dataclasses import dataclass

from ondine.core.log.quantities import QUANTITIES, Quantity
from ondine.core.setup import Setup
from ondine.core.setup.compare import says
from ondine.core.setup.fields import leaves
from ondine.core.timing.sequence import Sequence
from ondine.core.units import Units, value_words

LEFT_OUT = ("crater_clocks", "diameter_mm", "rating")
"""Figures that only say in other words what others say; a rating stands beside the picture anyway."""

TOLD_BY_FIGURES = (
    "valves.0.nozzle_height_m",
    "mix.temperature_c",
    "light.units.0.power",
    "camera.f_number",
    "camera.iso",
    "camera.exposure_s",
)
"""Fields of the set-up that a figure tells already."""

NOTHING = "none"


@dataclass(frozen=True)
class Row:
    """One thing that differs: what it is, and what each shot has of it, in the order of the shots."""

    name: str
    values: tuple[str, ...]


@dataclass(frozen=True)
class Beside:
    """What is known of one shot: its sequence, its figures by the keys of `quantities` without those that it lacks,
    and its set-up, None where it cannot be read.
    """

    sequence: Sequence
    figures: Mapping[str, float]
    setup: Setup | None


def differing(shots: Shots[Beside]) -> list[Row]:
    """Return what differs between shots, timings first, then the table. What reads the same is the same."""
    figures = [_figure(quantity, shots) for quantity in QUANTITIES if quantity.key not in LEFT_OUT]
    rows = (*figures, *_further_drops(shots), *_fields([shot.setup for shot in shots]))
    return [row for row in rows if len(set(row.values)) > 1]


def _figure(quantity: Quantity, shots: Shots[Beside]) -> Row:
    values = (shot.figures.get(quantity.key) for shot in shots)
    return Row(quantity.name, tuple(NOTHING if value is None else quantity.words(value) for value in values))


def _further_drops(shots: Shots[Beside]) -> list[Row]:
    """The third drop and those after it: figures tell of two."""
    most = max((len(shot.sequence.drops) for shot in shots), default=0)
    return [Row(f"drop {n + 1}", tuple(_drop_words(shot.sequence, n) for shot in shots)) for n in range(2, most)]


def _drop_words(sequence: Sequence, number: int) -> str:
    if number >= len(sequence.drops):
        return NOTHING
    drop = sequence.drops[number]
    return f"at {drop.start_us / 1e3:g}, open {drop.open_us / 1e3:g} ms"


def _fields(setups: Shots[Setup | None]) -> list[Row]:
    known = [None if setup is None else dict(leaves(setup)) for setup in setups]
    paths = dict.fromkeys(path for of in known if of is not None for path in of)
    rows = []
    for path in paths:
        if path == "other" or path in TOLD_BY_FIGURES:
            continue
        if any(of is not None and path not in of for of in known) and not path.endswith(".name"):
            # A part that some of them have at all is told by its name.
            continue
        has = next(setup for setup, of in zip(setups, known, strict=True) if of is not None and path in of)
        assert has is not None
        values = (NOTHING if of is None or path not in of else value_words(path, of[path], Units()) for of in known)
        rows.append(Row(says(has, path), tuple(values)))
    return rows
