"""From one rated test frame to every equivalent exposure, and to the next frame when it was not right."""

from __future__ import annotations

import math
import re
from collections.abc import Iterable
from dataclasses import dataclass, replace

from ondine.core.light.exposure import Times, light_on_subject, unit_on_subject
from ondine.core.light.lens import effective_f_number
from ondine.core.light.stops import Mark, nearest
from ondine.core.setup import Setup
from ondine.core.setup.fields import needed, number, plain

RIGHT_STOPS = 1 / 3
"""Nearer than this is right: dials go no finer."""

DARK_STOPS = 20.0
"""Less light than this against one flash of the key unit is none."""

FARTHEST_STOPS = 4.0
"""What a black or a blown frame is off by at least, for a start: beyond it nothing is seen."""


class AnchorError(ValueError):
    """A rating or a frame that tells nothing; the text says why, and what to do."""


@dataclass(frozen=True)
class Settings:
    """What decides the exposure. power : fraction of full; distance_m : [m]; clouding_stops : what milk or dye gains.

    `f_number` as on the lens; `magnification` makes it less. `power`, `distance_m` and `zoom_mm` are those of the key
    unit; all units and flashes of the picture together give `others_stops` more than it gives at one flash; None in
    frames of an older Ondine, which did not know.
    """

    power: float = needed(1e-6, 1.0, "Power")
    iso: float = needed(1.0, 1e7, "ISO")
    f_number: float = needed(0.5, 256.0, "Aperture")
    distance_m: float = needed(1e-3, 100.0, "Distance")
    zoom_mm: float = needed(1.0, 1e3, "Zoom")
    magnification: float = needed(0.0, 100.0, "Magnification")
    pupil_ratio: float = number(1.0, 0.05, 20.0, "Pupil ratio")
    clouding_stops: float = number(0.0, -20.0, 20.0, "Gained by milk or dye")
    others_stops: float | None = plain(None, "Gained by other units and flashes")

    @property
    def brightness_stops(self) -> float:
        """Brightness of the frame against an arbitrary zero, in stops: power/distance², √zoom, ISO/N²."""
        stopped = effective_f_number(self.f_number, self.magnification, self.pupil_ratio)
        return (
            math.log2(self.power)
            - 2 * math.log2(self.distance_m)
            + math.log2(self.zoom_mm)
            + math.log2(self.iso)
            - 2 * math.log2(stopped)
            + self.clouding_stops
            + (self.others_stops or 0.0)
        )

    def like(self, other: Settings) -> Settings:
        """Return these settings so that they can be compared with others that may not know of all units."""
        return replace(self, others_stops=None) if other.others_stops is None else self


def settings_of(setup: Setup, clouding_stops: float = 0.0, times: Times = None) -> Settings:
    """Return the settings of a set-up, by its key unit and what the others add; `times` : how often each unit lights
    in the picture, None: once.
    """
    key, camera = setup.light.key, setup.camera
    total = light_on_subject(setup.light, times) / unit_on_subject(key)
    return Settings(
        power=key.power,
        iso=camera.iso,
        f_number=camera.f_number,
        distance_m=key.distance_m,
        zoom_mm=key.zoom_mm,
        magnification=camera.magnification,
        pupil_ratio=camera.pupil_ratio,
        clouding_stops=clouding_stops,
        others_stops=max(math.log2(max(total, 1e-12)), -DARK_STOPS),
    )


@dataclass(frozen=True)
class Rating:
    """How far a frame was off: between `low` and `high` stops over right; equal for a number."""

    low: float
    high: float

    @property
    def exact(self) -> bool:
        """Whether it is a number rather than a bound."""
        return self.low == self.high


BLACK, BLOWN = Rating(-math.inf, -FARTHEST_STOPS), Rating(FARTHEST_STOPS, math.inf)


def parse_rating(text: str) -> Rating:
    """Read "+1/3", "−2", "1 2/3", "right", "black" or "blown". Raises AnchorError."""
    words = text.strip().lower().replace("−", "-").replace("–", "-").removesuffix("stops").strip()
    if words == "black":
        return BLACK
    if words in ("blown", "white"):
        return BLOWN
    if words in ("right", "good", "0"):
        return Rating(0.0, 0.0)
    found = re.fullmatch(r"([+-]?)\s*(?:(\d+(?:\.\d+)?)(?![/\d]))?\s*(?:(\d+)/(\d+))?", words)
    if not found or not (found[2] or found[3]) or found[4] == "0":
        raise AnchorError(f"'{text}' is no rating. Write +1/3, −2, right, black or blown.")
    value = float(found[2] or 0) + (int(found[3]) / int(found[4]) if found[3] else 0.0)
    value = -value if found[1] == "-" else value
    if abs(value) > 12:
        raise AnchorError(f"{text} stops off cannot be told from a picture. Say black or blown instead.")
    return Rating(value, value)


@dataclass(frozen=True)
class RatedFrame:
    """A test frame: how it was set, and how it came out."""

    settings: Settings
    rating: Rating


@dataclass(frozen=True)
class Advice:
    """What to change next, in stops of exposure; `done` when nothing."""

    change_stops: float
    done: bool
    why: str


def next_frame(frames: Iterable[RatedFrame]) -> Advice:
    """Advise the next test frame from those so far, by what is still possible.

    A number leads straight there; bounds are halved, in whole stops while they are far apart and in thirds then.
    Raises AnchorError if frames contradict each other, or there is none.
    """
    listed = list(frames)
    if not listed:
        raise AnchorError("Take a test frame first, and rate it.")
    now = listed[-1].settings.brightness_stops
    # Brightness of the settings at which the frame would be right.
    low = max(f.settings.brightness_stops - f.rating.high for f in listed)
    high = min(f.settings.brightness_stops - f.rating.low for f in listed)
    if low > high + RIGHT_STOPS:
        raise AnchorError("These ratings contradict each other. Has the light or the liquid changed? Begin again.")
    if math.isinf(low):
        return Advice(-FARTHEST_STOPS, False, "Blown: four stops less.")
    if math.isinf(high):
        return Advice(FARTHEST_STOPS, False, "Black: four stops more.")
    middle = (low + high) / 2
    change = middle - now
    if abs(change) < RIGHT_STOPS / 2 and high - low < 2 * RIGHT_STOPS:
        return Advice(0.0, True, "Right, as near as dials go.")
    step = 1.0 if high - low > 2 else RIGHT_STOPS
    rounded = round(change / step) * step or math.copysign(step, change)
    why = "By the number."
    if high - low > 1e-6:
        why = f"Between too dark and too bright, {high - low:.1f} stops apart."
    return Advice(rounded, False, why)


@dataclass(frozen=True)
class Combination:
    """One way to the same exposure: clicks of power, ISO and aperture, and what rounding leaves [stops]."""

    power: Mark
    iso: Mark
    aperture: Mark
    off_stops: float


def right_brightness(anchor: RatedFrame) -> float:
    """Brightness of the settings that would be right, from a rated frame [stops]. Raises AnchorError for a bound."""
    if not anchor.rating.exact:
        raise AnchorError(
            "The anchor frame was clipped: black or blown it tells no number. Take the next frame as advised."
        )
    return anchor.settings.brightness_stops - anchor.rating.low


def equivalents(
    anchor: RatedFrame, now: Settings, powers: Iterable[Mark], speeds: Iterable[Mark], apertures: tuple[Mark, ...]
) -> list[Combination]:
    """Return every combination of power and ISO that some aperture makes right, sharpest power first.

    The power is the key unit's; all others go along by as many stops.

    now : distance, zoom, clouding and magnification as they are; anchor : the rated frame. Raises AnchorError.
    """
    wanted, now = right_brightness(anchor), now.like(anchor.settings)
    found = []
    for power in powers:
        for iso in speeds:
            # Too much light by so many stops at f/1: half of it each doubling of the f-number takes two.
            at_one = replace(now, power=power.value, iso=iso.value, f_number=1.0)
            f_number = 2 ** ((at_one.brightness_stops - wanted) / 2)
            mark = nearest(apertures, f_number)
            off = 2 * math.log2(f_number / mark.value)
            if abs(off) <= RIGHT_STOPS / 2 + 1e-9:
                found.append(Combination(power, iso, mark, off))
    return found
