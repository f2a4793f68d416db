"""The foreseen picture of a plan, written into a file."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PIL import Image

from ondine.core.forecast.plan import Plan
from ondine.core.physics.liquid import LiquidError
from ondine.core.timing.sequence import MAX_TIME_US, FlashPulse
from ondine.logbook.writing import PNG, check_target, write_whole
from ondine.studio.foreseen.orders import Wanted, size_within
from ondine.studio.foreseen.photograph import foresee

USUAL_PX = 1200, 1200


class PreviewError(ValueError):
    """A picture that cannot be foreseen; the text says why."""


def write_preview(plan: Plan, at_us: int | None, room_px: tuple[int, int] | None, path: Path) -> tuple[int, int]:
    """Trace a plan's picture and write it as a PNG; returns its size, which fits into `room_px`.

    at_us : let the first flash alone light, at this time [us]; None: all flashes as they are.

    Raises PreviewError, WriteError.
    """
    # Before anything is traced: a slip in the name shall cost nothing.
    check_target(path, PNG)
    if at_us is not None:
        if not 0 <= at_us <= MAX_TIME_US:
            raise PreviewError(f"{at_us / 1000:g} ms is not between 0 and {MAX_TIME_US / 1000:g} ms from the trigger.")
        first = plan.sequence.flashes[0] if plan.sequence.flashes else FlashPulse(0)
        plan = replace(plan, sequence=replace(plan.sequence, flashes=(replace(first, at_us=at_us),)))
    size = size_within(plan.setup.camera, room_px or USUAL_PX)
    try:
        *_, look = foresee(Wanted(plan, size))
    except LiquidError as error:
        raise PreviewError(f"Nothing can be foreseen for it: {error}") from error
    assert look is not None, "the last look is at the finished picture"
    picture = Image.fromarray(look.pixels)
    write_whole(path, lambda file: picture.save(file, "PNG"), PNG)
    return size
