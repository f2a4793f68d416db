"""The interfaces of what stands on the table. Real and simulated devices look alike from above."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Protocol

from ondine.core.setup import BenchKind, Setup
from ondine.core.timing.commands import Commands
from ondine.core.timing.limits import Outputs

Clock = Callable[[], datetime]
"""Returns the present time, with its zone."""

Ticks = Callable[[], float]
"""Returns seconds of a clock that nobody can set; only differences mean anything."""

Sleep = Callable[[float], None]
"""Waits a number of seconds."""


class BenchError(Exception):
    """A device did not do what it was told; the text says what, where, and what to do."""


@dataclass(frozen=True)
class FiringReport:
    """What the controller says it did: when the trigger fell, and when each flash fired after it if known.

    `showed` : key of the shape in the picture, which only a simulated rig knows, and tells where one practises.
    """

    fired_at: datetime
    flashes_us: tuple[int, ...] | None
    note: str = ""
    showed: str = ""


@dataclass(frozen=True)
class Dispensed:
    """How many pulses came out, and what a scale under the nozzle reads, where one is connected [g]."""

    pulses: int
    grams: float | None = None


@dataclass(frozen=True)
class Pour:
    """Pulses without light, for weighing, priming or a test drop: `pulses` of `open_us`, one each `period_us`,
    from a valve, counted from 0.
    """

    open_us: int
    pulses: int
    period_us: int
    valve: int = 0


class Controller(Protocol):
    """Opens the valve and fires flash and camera at the times it is told."""

    name: str
    outputs: Outputs | None
    """What it can drive; None where a hand does it."""

    def fire(self, commands: Commands, setup: Setup) -> FiringReport:
        """Run one sequence to its end. Blocks; raises BenchError when the bench refuses or fails."""
        ...

    def pour(self, pour: Pour, setup: Setup, goes_on: Callable[[int], bool]) -> Dispensed:
        """Dispense; after each pulse `goes_on(pulses so far)` says whether to go on. Blocks; raises BenchError."""
        ...

    def refilled(self) -> None:
        """Hear that the reservoir was filled to its mark by hand."""
        ...


class CameraDevice(Protocol):
    """Takes one frame per shot and drops its file into a folder some moments later."""

    name: str

    def deliver_to(self, folder: Path, on_error: Callable[[BenchError], None]) -> None:
        """Put the files of all coming frames into `folder`; report a frame that could not be written."""
        ...

    def close(self) -> None:
        """Finish or drop what is under way and release the device."""
        ...


@dataclass(frozen=True)
class Bench:
    """What stands on one table: the kind of bench it is, and its two devices."""

    kind: BenchKind
    controller: Controller
    camera: CameraDevice
