"""A forecast as a table for people or as JSON for programs."""

from __future__ import annotations

from typing import Any

from ondine.core.forecast.events import Event, Spread
from ondine.core.forecast.shapes import BY_KEY
from ondine.core.timing.sequence import FlashPulse

Flashes = list[tuple[FlashPulse, dict[str, float]]]
"""Each flash with the probabilities of the shapes that it shows."""


def events_as_table(found: list[Event], flashes: Flashes) -> str:
    """Return the events as lines of text, and what each flash shows."""
    lines = [f"{'time':>14}  {'height':>12}  {'speed':>15}  {'size':>12}  {'odds':>5}  event"]
    for event in found:
        lines.append(
            f"{_spread(event.time_s, 1e3, 'ms', 1):>14}  {_spread(event.height_m, 1e3, 'mm', 0):>12}  "
            f"{_spread(event.speed_m_s, 1, 'm/s', 2):>15}  {_spread(event.size_m, 1e3, 'mm', 1):>12}  "
            f"{event.probability:>5.0%}  {event.kind} (drop {event.drop})"
        )
    for flash, shapes in flashes:
        likely = ", ".join(f"{BY_KEY[key].name} {share:.0%}" for key, share in list(shapes.items())[:4])
        lines.append(f"At the flash, {flash.at_us / 1000:.1f} ms: {likely}")
    return "\n".join(lines)


def _spread(value: Spread | None, factor: float, unit: str, digits: int) -> str:
    if value is None:
        return ""
    return f"{value.mean * factor:.{digits}f} ± {value.sd * factor:.{digits}f} {unit}"


def events_as_json(found: list[Event], flashes: Flashes) -> dict[str, Any]:
    """Return the forecast as plain values in SI units, spreads as mean and standard deviation."""
    return {
        "format": "ondine-forecast",
        "version": 2,
        "events": [
            {
                "event": event.kind.value,
                "drop": event.drop,
                "probability": event.probability,
                **{
                    name: {"mean": value.mean, "sd": value.sd}
                    for name, value in (
                        ("time_s", event.time_s),
                        ("height_m", event.height_m),
                        ("speed_m_s", event.speed_m_s),
                        ("size_m", event.size_m),
                    )
                    if value is not None
                },
            }
            for event in found
        ],
        "flashes": [{"time_us": f.at_us, "output": f.output, "shapes": shapes} for f, shapes in flashes],
    }
