"""From command to light: what each link of the trigger path takes, and what its jitter allows."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from ondine.core.constants import US_PER_S
from ondine.core.setup import FlashFiredBy, Release, Setup, Triggers
from ondine.core.timing.commands import Commands
from ondine.core.timing.sequence import Sequence

CERTAIN_SIGMAS = 3.0
"""A shutter that is this many spreads clear of the light is surely open for it."""


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
    """When the commands go out, when the light comes, when the shutter is open. Times from the trigger [s].

    `light_sd_s` counts the trigger path alone; `open_from_s`, `open_until_s` are mean times; `problem` says why the
    light would be lost, or nothing.
    """

    shutter: TriggerPath
    light: TriggerPath
    flash_command_s: float
    shutter_command_s: float
    light_s: float
    light_sd_s: float
    slave_s: float | None
    open_from_s: float
    open_until_s: float
    problem: str = ""


def shutter_path(t: Triggers) -> TriggerPath:
    """Return what lies between the command and an open shutter."""
    links = []
    if t.release is not Release.HAND:
        lag, jitter = (
            (t.wire_lag_s, t.wire_jitter_s) if t.release is Release.WIRE else (t.infrared_lag_s, t.infrared_jitter_s)
        )
        links.append(Link(str(t.release), "camera", lag, jitter, "wire" if t.release is Release.WIRE else "infrared"))
    if not t.mirror_up:
        links.append(Link("mirror", "shutter", t.mirror_lag_s, t.mirror_jitter_s, "mirror"))
    links.append(Link("shutter", "open", t.shutter_lag_s, t.shutter_jitter_s, "shutter"))
    return TriggerPath(tuple(links))


def light_path(t: Triggers) -> TriggerPath:
    """Return what lies between the command that fires the flash and its light."""
    before = shutter_path(t).links if t.flash_fired_by is FlashFiredBy.CAMERA else ()
    radio = (Link("radio", "flash", t.radio_lag_s, t.radio_jitter_s, "radio"),) if t.radio else ()
    return TriggerPath((*before, *radio))


def latency(setup: Setup, sequence: Sequence) -> Latency:
    """Tell when light and shutter come if the sequence's flash time is when the light is wanted.

    Known lags are taken off the commands; what cannot be taken off, because it would be before the trigger, is late.
    """
    t = setup.triggers
    shutter, light = shutter_path(t), light_path(t)
    wanted = sequence.flash_us / US_PER_S
    command = max(wanted - light.lag_s, 0.0)
    lit = command + light.lag_s
    if t.flash_fired_by is FlashFiredBy.CAMERA:
        shutter_command, opens = command, command + shutter.lag_s
    else:
        opens_at = 0.0 if t.release is Release.HAND else max(wanted - t.shutter_lead_s - shutter.lag_s, 0.0)
        shutter_command = opens_at
        opens = 0.0 if t.release is Release.HAND else opens_at + shutter.lag_s
    found = Latency(
        shutter=shutter,
        light=light,
        flash_command_s=command,
        shutter_command_s=shutter_command,
        light_s=lit,
        light_sd_s=light.jitter_s,
        slave_s=lit + t.slave_lag_s if t.slave else None,
        open_from_s=opens,
        open_until_s=opens + setup.camera.exposure_s,
    )
    return replace(found, problem=_problem(setup, sequence, found))


def commands_for(setup: Setup, sequence: Sequence) -> Commands:
    """Take the known lags of the set-up's trigger path off, so that the light comes when the sequence wants it."""
    found = latency(setup, sequence)
    by_hand = setup.triggers.release is Release.HAND
    shutter = None if by_hand else round(found.shutter_command_s * US_PER_S)
    if setup.triggers.flash_fired_by is FlashFiredBy.CAMERA:
        return Commands(sequence, None, shutter)
    return Commands(sequence, round(found.flash_command_s * US_PER_S), shutter)


def _problem(setup: Setup, sequence: Sequence, found: Latency) -> str:
    t, exposure = setup.triggers, setup.camera.exposure_s
    late = found.light_s - sequence.flash_us / US_PER_S
    if late > 1e-6:
        return (
            f"The light comes {late * 1e3:.1f} ms late: the path takes {found.light.lag_s * 1e3:.0f} ms, longer than "
            f"the flash delay. Let the first drop start {late * 1e3:.0f} ms later."
        )
    if t.flash_fired_by is FlashFiredBy.CAMERA:
        if t.release is Release.HAND:
            return "A hand cannot fire a camera to the millisecond: tell it by wire or infrared."
        if exposure < t.sync_speed_s * (1 - 1e-9):
            return (
                f"1/{1 / exposure:.0f} s is shorter than the sync speed of 1/{1 / t.sync_speed_s:.0f} s: part of the "
                f"frame stays black. Take 1/{1 / t.sync_speed_s:.0f} s or longer."
            )
        return ""
    if t.release is Release.HAND:
        if exposure < sequence.flash_us / US_PER_S:
            return "The exposure ends before the flash if it begins with the trigger. Take a longer one, or bulb."
        return ""
    spread = CERTAIN_SIGMAS * math.hypot(found.shutter.jitter_s, found.light_sd_s)
    if found.open_from_s + spread > found.light_s:
        return (
            f"The shutter may still be shut: it opens {(found.light_s - found.open_from_s) * 1e3:.0f} ms before the "
            "light. Open it earlier, or start the drops later."
        )
    if found.open_until_s - spread < found.light_s:
        return (
            f"The shutter may be shut again {(found.light_s - found.open_until_s) * 1e3:.0f} ms before the light. "
            "Take a longer exposure, or open it later."
        )
    return ""


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
