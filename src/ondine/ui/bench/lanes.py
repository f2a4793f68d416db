"""The lanes of the flight chart: one for the shutter, for each valve, and for each output that fires a flash."""

from __future__ import annotations

from dataclasses import dataclass

from ondine.core.forecast.prediction import Prediction
from ondine.core.timing.limits import Problem

USUAL_ROWS, LEAST_PX, NAMED_PX = 3, 8.0, 13.0
"""A lane is at least so high; one that is lower than `NAMED_PX` has no room for its name."""


@dataclass(frozen=True)
class Faults:
    """What cannot be fired as it is: drops and flashes by their numbers, from 0, and the camera."""

    drops: frozenset[int] = frozenset()
    flashes: frozenset[int] = frozenset()
    camera: bool = False

    @staticmethod
    def of(problems: tuple[Problem, ...]) -> Faults:
        """Gather what the problems name."""
        return Faults(
            frozenset(drop for problem in problems for drop in problem.drops),
            frozenset(flash for problem in problems for flash in problem.flashes),
            any(problem.camera for problem in problems),
        )


@dataclass(frozen=True)
class Lanes:
    """Where the lanes lie: from `top` downwards, each `px` high; `valves` and `outputs` by their numbers, from 0."""

    top: float
    px: float
    valves: tuple[int, ...]
    outputs: tuple[int, ...]

    @staticmethod
    def of(prediction: Prediction, top: float, foot: float) -> Lanes:
        """Lay out the lanes of a sequence between two heights of the widget."""
        sequence, table = prediction.sequence, prediction.forecast.setup
        used = {pulse.valve for pulse in sequence.drops}
        valves = tuple(sorted(used | set(range(len(table.valves)))))
        outputs = tuple(sorted({flash.output for flash in sequence.flashes})) or (0,)
        rows = 1 + len(valves) + len(outputs)
        return Lanes(top, max(LEAST_PX, (foot - top) / max(rows, USUAL_ROWS)), valves, outputs)

    @property
    def rows(self) -> int:
        """How many lanes."""
        return 1 + len(self.valves) + len(self.outputs)

    @property
    def foot(self) -> float:
        """Where the last lane ends."""
        return self.top + self.rows * self.px

    def valve_y(self, valve: int) -> float:
        """Top of a valve's lane."""
        return self.top + (1 + self.valves.index(valve)) * self.px

    def output_y(self, output: int) -> float:
        """Top of an output's lane."""
        return self.top + (1 + len(self.valves) + self.outputs.index(output)) * self.px

    def valve_at(self, y: float) -> int | None:
        """The valve whose lane lies at a height; None if none does."""
        return next((valve for valve in self.valves if self.valve_y(valve) <= y <= self.valve_y(valve) + self.px), None)

    def names(self) -> list[str]:
        """What the lanes are called, from the top down; none where they are too low to be named."""
        if self.px < NAMED_PX:
            return []
        valves = ["valve"] if len(self.valves) == 1 else [f"valve {valve + 1}" for valve in self.valves]
        outputs = ["flash"] if len(self.outputs) == 1 else [f"out {output + 1}" for output in self.outputs]
        return ["shutter", *valves, *outputs]
