"""A table where a hand opens the valve, by a box with dials, a syringe, a bag: Ondine logs, and drives nothing."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from ondine.bench.protocol import Bench, BenchError, Clock, Dispensed, FiringReport, Pour
from ondine.core.setup import BenchKind, Setup
from ondine.core.timing.commands import Commands
from ondine.core.timing.limits import Outputs


class HandController:
    """Takes the hand's word: what was asked for is done when it says so."""

    name = "By hand"
    outputs: Outputs | None = None

    def __init__(self, clock: Clock) -> None:
        self._clock = clock

    def fire(self, commands: Commands, setup: Setup) -> FiringReport:
        """See `Controller.fire`. Nobody measured when the flash fired."""
        how = f"dialled by hand on {setup.box.name}" if setup.box.in_use else "fired by hand"
        return FiringReport(self._clock(), None, how + (", flash off" if commands.dark else ""))

    def pour(self, pour: Pour, setup: Setup, goes_on: Callable[[int], bool]) -> Dispensed:
        """See `Controller.pour`. The hand has poured them all before it says so; its scale has no cable."""
        goes_on(pour.pulses)
        return Dispensed(pour.pulses)

    def refilled(self) -> None:
        """See `Controller.refilled`."""


class HandCamera:
    """The photographer's own camera: its files come into the watched folder by themselves, or from the card."""

    name = "Your camera"

    def deliver_to(self, folder: Path, on_error: Callable[[BenchError], None]) -> None:
        """See `CameraDevice.deliver_to`. It cannot be told where."""

    def close(self) -> None:
        """See `CameraDevice.close`."""


def by_hand_bench(clock: Clock) -> Bench:
    """Return the bench of a table that nothing but hands move."""
    return Bench(BenchKind.BY_HAND, HandController(clock), HandCamera())
