"""From command to light: what each link of the trigger path takes, and what its jitter allows."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace

from ondine.core.constants import US_PER_S
from ondine.core.setup import FlashFiredBy, Release, Setup, Triggers
from ondine.core.timing.commands import Commands
from ondine.core.timing.limits import Problem
from ondine.core.timing.sequence import Sequence

CERTAIN_SIGMAS = 3.0
"""A shutter that is this many spreads clear of the light is surely open for it."""


HAND_FIRES = "A hand cannot fire a camera to the millisecond: tell it by wire or infrared."


@dataclass(frozen=True)
class Link:
    """One link of a path: who passes the signal on, to whom, its lag and its jitter [s]."""

    says: str
    to: str
    lag_s: float
    jitter_s: float
    field: str
    """Stem of the fields in `Triggers`, or nothing."""


@dataclass(frozen=True)
class TriggerPath:
    """Links one behind the other; lags add, independent jitters add in squares."""

    links: tuple[Link, ...]

    @property
    def lag_s(self) -> float:
        """From the command to the end of the path."""
        return sum(link.lag_s for link in self.links)

    @property
    def jitter_s(self) -> float:
        """Standard deviation of that."""
        return math.hypot(*(link.jitter_s for link in self.links)) if self.links else 0.0


@dataclass(frozen=True)
class Latency:
    """When the commands go out, when the lights come, when the shutter is open. Times from the trigger [s].

    `lights_s`, `flash_commands_s` : in the order of the sequence's flashes; `light_sd_s` counts the trigger path alone;
    `open_from_s`, `open_until_s` are mean times; `problems` say why light would be lost.
    """

    shutter: TriggerPath
    light: TriggerPath
    flash_commands_s: tuple[float, ...]
    shutter_command_s: float
    lights_s: tuple[float, ...]
    light_sd_s: float
    open_from_s: float
    open_until_s: float
    problems: tuple[Problem, ...] = ()

    @property
    def light_s(self) -> float:
        """When the first light comes."""
        return min(self.lights_s, default=0.0)

    @property
    def flash_command_s(self) -> float:
        """When the command for the first light goes out."""
        return min(self.flash_commands_s, default=0.0)

    @property
    def shutter_spread_s(self) -> float:
        """How far from its mean the shutter may open against the light, for certain."""
        return CERTAIN_SIGMAS * math.hypot(self.shutter.jitter_s, self.light_sd_s)

    @property
    def problem(self) -> str:
        """The first of the problems, or nothing."""
        return self.problems[0].says if self.problems else ""


def shutter_path(t: Triggers, mirror_sent_up: bool = False) -> TriggerPath:
    """Return what lies between the command and an open shutter; the controller may have sent the mirror up before."""
    links = []
    if t.release is not Release.HAND:
        lag, jitter = (
            (t.wire_lag_s, t.wire_jitter_s) if t.release is Release.WIRE else (t.infrared_lag_s, t.infrared_jitter_s)
        )
        links.append(Link(str(t.release), "camera", lag, jitter, "wire" if t.release is Release.WIRE else "infrared"))
    if not (t.mirror_up or mirror_sent_up):
        links.append(Link("mirror", "shutter", t.mirror_lag_s, t.mirror_jitter_s, "mirror"))
    links.append(Link("shutter", "open", t.shutter_lag_s, t.shutter_jitter_s, "shutter"))
    return TriggerPath(tuple(links))


def light_path(t: Triggers, mirror_sent_up: bool = False) -> TriggerPath:
    """Return what lies between the command that fires the flash and its light."""
    before = shutter_path(t, mirror_sent_up).links if t.flash_fired_by is FlashFiredBy.CAMERA else ()
    radio = (Link("radio", "flash", t.radio_lag_s, t.radio_jitter_s, "radio"),) if t.radio else ()
    return TriggerPath((*before, *radio))


def latency(setup: Setup, sequence: Sequence) -> Latency:
    """Tell when light and shutter come if the sequence's times of flashes and shutter are when they are wanted.

    Known lags are taken off the commands; what cannot be taken off, because it would be before the trigger, is late.
    """
    t, asked = setup.triggers, sequence.camera
    sent_up = asked.mirror_us is not None
    shutter, light = shutter_path(t, sent_up), light_path(t, sent_up)
    wanted = [flash.at_us / US_PER_S for flash in sequence.flashes]
    commands = tuple(max(at - light.lag_s, 0.0) for at in wanted)
    lit = tuple(command + light.lag_s for command in commands)
    first = min(wanted, default=0.0)
    if t.flash_fired_by is FlashFiredBy.CAMERA:
        shutter_command = min(commands, default=0.0)
        opens = shutter_command + shutter.lag_s
    elif t.release is Release.HAND:
        shutter_command = opens = 0.0
    else:
        stands_open = first - t.shutter_lead_s if asked.opens_us is None else asked.opens_us / US_PER_S
        shutter_command = max(stands_open - shutter.lag_s, 0.0)
        opens = shutter_command + shutter.lag_s
    found = Latency(
        shutter=shutter,
        light=light,
        flash_commands_s=commands,
        shutter_command_s=shutter_command,
        lights_s=lit,
        light_sd_s=light.jitter_s,
        open_from_s=opens,
        open_until_s=opens + setup.camera.exposure_s,
    )
    return replace(found, problems=tuple(trigger_problems(setup, sequence, found)))


def commands_for(setup: Setup, sequence: Sequence) -> Commands:
    """Take the known lags of the set-up's trigger path off, so that the light comes when the sequence wants it."""
    found = latency(setup, sequence)
    by_hand = setup.triggers.release is Release.HAND
    shutter = None if by_hand else round(found.shutter_command_s * US_PER_S)
    flashes = tuple(round(command * US_PER_S) for command in found.flash_commands_s)
    camera_fires = setup.triggers.flash_fired_by is FlashFiredBy.CAMERA
    return Commands(
        sequence,
        None if camera_fires else flashes,
        shutter,
        None if by_hand else sequence.camera.mirror_us,
        None if by_hand else sequence.camera.half_press_us,
    )


def trigger_problems(setup: Setup, sequence: Sequence, found: Latency) -> Iterator[Problem]:
    """Yield why light would be lost between trigger and sensor."""
    for index, (lit, flash) in enumerate(zip(found.lights_s, sequence.flashes, strict=True)):
        late = lit - flash.at_us / US_PER_S
        if late > 1e-6:
            yield Problem(
                f"{_light_of(sequence, index)} comes {late * 1e3:.1f} ms late: the path takes "
                f"{found.light.lag_s * 1e3:.0f} ms, longer than the flash delay. Let the first drop start "
                f"{late * 1e3:.0f} ms later.",
                flashes=(index,),
            )
            return
    if setup.triggers.flash_fired_by is FlashFiredBy.CAMERA:
        yield from _camera_fires_problems(setup, sequence)
    elif setup.triggers.release is Release.HAND:
        if setup.camera.exposure_s < sequence.last_flash_us / US_PER_S:
            says = "The exposure ends before the flash if it begins with the trigger. Take a longer one, or bulb."
            yield Problem(says, camera=True)
    else:
        yield from _shutter_problems(sequence, found)
    yield from _camera_command_problems(setup, sequence, found)


def _camera_fires_problems(setup: Setup, sequence: Sequence) -> Iterator[Problem]:
    t, exposure = setup.triggers, setup.camera.exposure_s
    if len(sequence.flashes) > 1:
        others = tuple(range(1, len(sequence.flashes)))
        yield Problem(
            "The camera fires the flash once a picture: take one flash, or let the controller fire them.",
            flashes=others,
        )
    if t.release is Release.HAND:
        yield Problem(HAND_FIRES, camera=True)
    elif exposure < t.sync_speed_s * (1 - 1e-9):
        yield Problem(
            f"1/{1 / exposure:.0f} s is shorter than the sync speed of 1/{1 / t.sync_speed_s:.0f} s: part of the "
            f"frame stays black. Take 1/{1 / t.sync_speed_s:.0f} s or longer.",
            camera=True,
        )


def _shutter_problems(sequence: Sequence, found: Latency) -> Iterator[Problem]:
    spread = found.shutter_spread_s
    for index, lit in enumerate(found.lights_s):
        light = _light_of(sequence, index).lower()
        if found.open_from_s + spread > lit:
            before = lit - found.open_from_s
            opens = (
                f"it opens {before * 1e3:.0f} ms before {light}" if before >= 0 else
                f"it opens {-before * 1e3:.0f} ms after {light}"
            )  # fmt: skip
            says = f"The shutter may still be shut: {opens}. Open it earlier, or start the drops later."
            yield Problem(says, flashes=(index,), camera=True)
        elif found.open_until_s - spread < lit:
            after = found.open_until_s - lit
            shuts = f"{after * 1e3:.0f} ms after" if after >= 0 else f"{-after * 1e3:.0f} ms before"
            says = f"The shutter may be shut again: it shuts {shuts} {light}. Take a longer exposure, or open it later."
            yield Problem(says, flashes=(index,), camera=True)


def _camera_command_problems(setup: Setup, sequence: Sequence, found: Latency) -> Iterator[Problem]:
    t, asked = setup.triggers, sequence.camera
    if asked.mirror_us is not None:
        settled = asked.mirror_us / US_PER_S + t.mirror_lag_s + CERTAIN_SIGMAS * t.mirror_jitter_s
        if t.mirror_up:
            says = (
                "The mirror is sent up, but the table says that it is locked up by hand: the command would open the "
                "shutter. Leave one of the two out."
            )
            yield Problem(says, camera=True)
        elif found.shutter_command_s < settled:
            short = math.ceil((settled - found.shutter_command_s) * 1e3)
            says = f"The mirror still moves when the shutter is told to open: send it up {short} ms earlier."
            yield Problem(says, camera=True)
    if asked.half_press_us is not None and asked.half_press_us / US_PER_S > found.shutter_command_s:
        says = "The release is half pressed after the shutter is told to open: half press it earlier."
        yield Problem(says, camera=True)


def _light_of(sequence: Sequence, index: int) -> str:
    return "The light" if len(sequence.flashes) == 1 else f"The light of flash {index + 1}"


def hit_share(window_s: float, jitter_s: float) -> float:
    """Share of shots that fall into a window when aimed at its middle, erf(w/(2·√2·σ)).

    window_s : its length [s]; jitter_s : standard deviation of the instant, normal [s]. Returns [1].
    """
    if window_s <= 0:
        return 0.0
    if jitter_s <= 0:
        return 1.0
    return math.erf(window_s / (2 * math.sqrt(2) * jitter_s))


def sheet_jitter_s(setup: Setup, light_sd_s: float) -> float:
    """Jitter of the light against the sheet: the path's, and the valve's for the two drops that make it. [s]."""
    return math.hypot(light_sd_s, setup.triggers.valve_jitter_s * math.sqrt(2))
