"""What the test frames of an evening have told: of the subject, of the background, of the room."""

from __future__ import annotations

import json
import math
from dataclasses import asdict, dataclass, replace
from typing import Any

from ondine.core import plain
from ondine.core.light.ambient import ambient_stops
from ondine.core.light.anchor import RatedFrame, Rating, Settings, right_brightness, settings_of
from ondine.core.light.exposure import Times, light_on_subject, over_stops
from ondine.core.light.tones import SUBJECT_LINEAR
from ondine.core.setup import Setup
from ondine.core.setup.fields import needed, number, within_limits

MOST_FRAMES = 8


@dataclass(frozen=True)
class DarkFrame:
    """A frame without flash: its linear median [1], its exposure [s], and aperture and ISO."""

    linear: float = needed(0.0, 1.0, "Median")
    exposure_s: float = needed(1e-6, 1e5, "Exposure")
    f_number: float = needed(0.5, 256.0, "Aperture")
    iso: float = needed(1.0, 1e7, "ISO")


@dataclass(frozen=True)
class LightSession:
    """Rated frames of subject and background, the newest last; the dark frame; what milk or dye gains [stops]."""

    subject: tuple[RatedFrame, ...] = ()
    background: tuple[RatedFrame, ...] = ()
    dark: DarkFrame | None = None
    clouding_stops: float = number(0.0, -20.0, 20.0, "Gained by milk or dye")

    @property
    def anchor(self) -> RatedFrame | None:
        """The newest frame that tells a number."""
        return next((f for f in reversed(self.subject) if f.rating.exact), None)

    def with_frame(self, what: str, frame: RatedFrame) -> LightSession:
        """Return a session with one more frame of "subject" or "background"."""
        if what == "background":
            return replace(self, background=(*self.background, frame)[-MOST_FRAMES:])
        return replace(self, subject=(*self.subject, frame)[-MOST_FRAMES:])

    def right_iso(self, setup: Setup, times: Times = None) -> float:
        """ISO that is right for a set-up as it stands: by the anchor, or by the guide numbers while there is none.

        times : how often each unit lights in the picture; None: once.
        """
        now = settings_of(setup, self.clouding_stops, times)
        if self.anchor is not None:
            now = now.like(self.anchor.settings)
            return float(now.iso * 2 ** (right_brightness(self.anchor) - now.brightness_stops))
        light = max(light_on_subject(setup.light, times), 1e-12)
        over = over_stops(light, setup.camera) + self.clouding_stops
        return float(now.iso * 2**-over)

    def gain_stops(self, setup: Setup, times: Times = None) -> float:
        """How much brighter test frames have shown a table to be than its guide numbers say [stops]; 0 without any."""
        return math.log2(LightSession().right_iso(setup, times) / self.right_iso(setup, times))

    def room_stops(self, setup: Setup, exposure_s: float | None = None) -> float | None:
        """How many stops the room lies under a right exposure at a shutter [s]; None before a dark frame was read."""
        if self.dark is None:
            return None
        camera = setup.camera
        gathers = math.log2(camera.iso / self.dark.iso) + 2 * math.log2(self.dark.f_number / camera.f_number)
        shutter = camera.exposure_s if exposure_s is None else exposure_s
        return ambient_stops(self.dark.linear, self.dark.exposure_s, SUBJECT_LINEAR, shutter, gathers)

    def to_json(self) -> str:
        """Return it as JSON; bounds of a rating that are infinite as null."""
        return json.dumps(_finite(asdict(self)))

    @staticmethod
    def from_json(text: str) -> LightSession:
        """Read what `to_json` wrote. Raises ValueError for what it cannot have been."""
        kept = plain.parse(_Kept, text)
        made = LightSession(
            tuple(_frame(f) for f in kept.subject),
            tuple(_frame(f) for f in kept.background),
            kept.dark,
            kept.clouding_stops,
        )
        return within_limits(made)


@dataclass(frozen=True)
class _KeptRating:
    """JSON knows no infinity: a bound that is none is null."""

    low: float | None
    high: float | None


@dataclass(frozen=True)
class _KeptFrame:
    settings: Settings
    rating: _KeptRating


@dataclass(frozen=True)
class _Kept:
    subject: tuple[_KeptFrame, ...]
    background: tuple[_KeptFrame, ...]
    dark: DarkFrame | None
    clouding_stops: float


def _finite(value: Any) -> Any:
    if isinstance(value, dict):
        return {key: _finite(part) for key, part in value.items()}
    if isinstance(value, list | tuple):
        return [_finite(part) for part in value]
    return None if isinstance(value, float) and math.isinf(value) else value


def _frame(kept: _KeptFrame) -> RatedFrame:
    low, high = kept.rating.low, kept.rating.high
    return RatedFrame(kept.settings, Rating(-math.inf if low is None else low, math.inf if high is None else high))
