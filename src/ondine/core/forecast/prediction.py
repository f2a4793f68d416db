"""All that the two instruments draw for one sequence, computed once and shared."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

from ondine.core.belief.priors import Belief
from ondine.core.constants import US_PER_S
from ondine.core.forecast.course import Course
from ondine.core.forecast.events import AFTER_MEETING, Event, EventKind
from ondine.core.forecast.framing import framing_note
from ondine.core.forecast.instant import Instant, at_instant
from ondine.core.forecast.lit import Lit, lit
from ondine.core.forecast.outline import Ghosts, Outline, ghosts, outline
from ondine.core.forecast.shapes import BY_KEY, Eye, shape_probabilities
from ondine.core.forecast.whole import DRAWN_RIGS, Forecast, forecast, same_drops
from ondine.core.light.blur import blur_px
from ondine.core.numbers import plus_minus_ms
from ondine.core.setup import Setup
from ondine.core.timing.latency import Latency, latency
from ondine.core.timing.limits import flash_label
from ondine.core.timing.sequence import FlashPulse, Sequence

GHOSTS = slice(1, DRAWN_RIGS)
"""Sampled rigs whose outlines are drawn faintly behind the mean one."""

AFTER_S = 0.03


@dataclass
class AtFlash:
    """What one flash of a sequence shows: the water at its instant, and how sharp it will be."""

    forecast: Forecast
    flash: FlashPulse
    lit: Lit
    room_stops: float | None = None

    @cached_property
    def now(self) -> Instant:
        """The water at the flash, on all rigs."""
        return at_instant(self.forecast, self.flash.at_us)

    @cached_property
    def drawn(self) -> Instant:
        """The water at the flash, on the rigs that are drawn."""
        return at_instant(self.forecast.drawn, self.flash.at_us)

    @cached_property
    def shapes(self) -> dict[str, float]:
        """Probabilities of the shapes at the flash, by key, most likely first."""
        return shape_probabilities(self.forecast, self.flash.at_us, self.now, Eye(self.lit.duration_s, self.room_stops))

    def shapes_by_steps(self) -> Iterator[None]:
        """Compute `shapes` in two steps of like length, for those who have little time at once."""
        _ = self.now
        yield
        _ = self.shapes
        yield

    @cached_property
    def outline(self) -> Outline:
        """The splash of the mean rig at the flash."""
        return outline(self.forecast.drawn, self.drawn)

    @cached_property
    def ghosts(self) -> Ghosts:
        """The same splash on some other rigs that could be this one."""
        return ghosts(self.forecast.drawn, self.drawn, GHOSTS)

    @cached_property
    def framing(self) -> str:
        """What leaves the frame, in a sentence, or nothing."""
        return framing_note(self.forecast, self.outline)

    @cached_property
    def blurs(self) -> list[tuple[str, float]]:
        """(edge, blur in pixels) of all edges that move at the flash, the worst first."""
        setup = self.forecast.setup
        pitch = setup.camera.pixel_on_subject_m
        found = [(e.name, float(blur_px(e.speed_m_s, self.lit.duration_s, pitch))) for e in self.outline.edges]
        return sorted(found, key=lambda item: -item[1])


@dataclass
class Prediction:
    """A sequence, the course of its drops, and what each flash shows. Moving a flash keeps the course."""

    sequence: Sequence
    course: Course
    flashes: tuple[AtFlash, ...] = ()

    @classmethod
    def of(
        cls,
        setup: Setup,
        belief: Belief,
        sequence: Sequence,
        last: Prediction | None = None,
        room_stops: float | None = None,
    ) -> Prediction:
        """Predict; if only flashes, camera or light moved since `last`, keep the course of its drops.

        room_stops : how far the room's light lies under the flash, as measured [stops]; None if nobody has.
        """
        kept = None if last is None else last._course_for(setup, belief, sequence)
        course = kept or _course(setup, belief, sequence, last)
        same = () if last is None or kept is not last.course else last.flashes
        known = {(at.flash, at.lit, at.room_stops): at for at in same}
        both = zip(sequence.flashes, lit(setup, sequence), strict=True)
        seen = [(flash, light, room_stops) for flash, light in both]
        flashes = tuple(known.get(one) or AtFlash(course.forecast, *one) for one in seen)
        made = cls(sequence, course, flashes)
        if last is not None and last.forecast.setup is setup and _same_electronics(last.sequence, sequence):
            # Only the table and the times of flashes and camera decide it.
            made.latency = last.latency
        return made

    def _course_for(self, setup: Setup, belief: Belief, sequence: Sequence) -> Course | None:
        """Return this course if the drops do the same there."""
        if self.sequence.drops != sequence.drops or self.forecast.belief != belief:
            return None
        if self.forecast.setup is setup:
            return self.course
        return self.course.on(setup) if same_drops(self.forecast.setup, setup) else None

    @property
    def forecast(self) -> Forecast:
        """The forecast of the drops."""
        return self.course.forecast

    @property
    def nozzle_height_m(self) -> float:
        """Height of the highest nozzle over the water."""
        return self.forecast.setup.nozzle_height_m

    @property
    def first(self) -> AtFlash:
        """What the first flash shows; the water at the trigger if there is none."""
        return self.flashes[0] if self.flashes else AtFlash(self.forecast, FlashPulse(0), Lit((), (), (), 0.0, 0.0))

    def at(self, index: int) -> AtFlash:
        """Return what one flash shows; that of the first if there is no such flash."""
        return self.flashes[index] if 0 <= index < len(self.flashes) else self.first

    @property
    def framing(self) -> str:
        """What leaves the frame at any flash, in a sentence, or nothing."""
        return next((at.framing for at in self.flashes if at.framing), "")

    @cached_property
    def latency(self) -> Latency:
        """When the commands go out, the shutter opens and the light comes."""
        return latency(self.forecast.setup, self.sequence)

    def in_words(self, index: int = 0) -> str:
        """Tell what one flash shows to those who hear the window rather than see it."""
        seen = self.at(index)
        key, share = next(iter(seen.shapes.items()))
        name = flash_label(self.sequence, index).capitalize()
        words = f"{name} at {seen.flash.at_us / 1000:.1f} ms: {BY_KEY[key].name}, {share:.0%} likely."
        meeting = self.event(EventKind.MEETING)
        if meeting is not None and meeting.height_m is not None:
            words += (
                f" Drop {meeting.drop} meets the jet at "
                f"{plus_minus_ms(meeting.time_s.mean, meeting.time_s.sd)}, {meeting.height_m.mean * 1e3:.0f} mm up."
            )
        return words

    def event(self, kind: EventKind) -> Event | None:
        """Return the first event of a kind."""
        found = next((e for e in self.course.meetings if e.kind == kind), None)
        if found is not None or kind in AFTER_MEETING:
            return found
        return next((e for e in self.course.events if e.kind == kind), None)

    def span_s(self, close_up: bool) -> tuple[float, float]:
        """Return the times that the chart should show, in round tens of milliseconds."""
        flashes = [flash.at_us / US_PER_S for flash in self.sequence.flashes]
        times = [e.time_s.mean for e in self.course.events if e.kind not in (EventKind.JET_GONE,)]
        touchdowns = [e.time_s.mean for e in self.course.events if e.kind == EventKind.TOUCHDOWN]
        last_pulse = self.sequence.last_closing_us / US_PER_S
        start = min([*touchdowns, *flashes]) - 0.02 if close_up and touchdowns else 0.0
        end = max([*times, *flashes, last_pulse]) + AFTER_S
        return (start // 0.01) * 0.01, (end // 0.02 + 1) * 0.02


def _course(setup: Setup, belief: Belief, sequence: Sequence, last: Prediction | None) -> Course:
    if last is None:
        return Course(forecast(setup, belief, sequence))
    return last.course.going_on(forecast(setup, belief, sequence, last=last.forecast))


def _same_electronics(one: Sequence, other: Sequence) -> bool:
    return one.flashes == other.flashes and one.camera == other.camera
