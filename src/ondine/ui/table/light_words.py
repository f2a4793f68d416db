"""What each unit gives to the picture, and how sharp it is: in the same words on every stage of the light."""

from __future__ import annotations

from ondine.core.light.blur import blur_px
from ondine.core.light.flash import duration_of
from ondine.core.light.stops import power_label
from ondine.core.timing.limits import flash_label
from ondine.ui.table.state import TableState


def light_words(table: TableState) -> list[str]:
    """Say what each unit gives to the picture, where there are several, or several flashes."""
    units, lights = table.setup.light.units, table.unit_lights
    several = len(table.sequence.flashes) > 1
    if len(units) < 2 and not several:
        return []
    found = []
    for one in lights:
        numbers = " and ".join(str(n + 1) for n in one.flashes)
        if not one.flashes:
            found.append(f"{units[one.unit].name} gives none, no flash of the sequence fires it")
        elif several:
            found.append(f"{units[one.unit].name} gives {one.share:.0%} at flash {numbers}")
        else:
            found.append(f"{units[one.unit].name} gives {one.share:.0%}")
    said = [f"Of the light on the splash: {'; '.join(found)}."]
    for one in lights:
        if one.missed:
            numbers = " and ".join(str(n + 1) for n in one.missed)
            said.append(f"{units[one.unit].name} has not recycled at flash {numbers}.")
    return said


def pair_words(table: TableState, number: int, flash: int) -> str:
    """Name a unit and a flash at which it lights, and say how sharp it is there."""
    unit, seen = table.setup.light.units[number], table.prediction.at(flash)
    if flash not in table.unit_lights[number].flashes:
        return f"{unit.name}: lights at no flash"
    worst = max((edge.speed_m_s for edge in seen.outline.edges), default=0.0)
    blur = float(blur_px(worst, duration_of(unit, unit.power).half_s, table.setup.camera.pixel_on_subject_m))
    name = flash_label(table.sequence, flash)
    return f"{unit.name}, {power_label(unit.power)}, {name}: {blur:.1f} px"
