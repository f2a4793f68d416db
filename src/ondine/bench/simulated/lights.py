"""Which flashes of a firing reach the sensor of the simulated camera, when, and from which units."""

from __future__ import annotations

from dataclasses import dataclass, replace

from ondine.bench.simulated.hidden import HiddenRig, Luck
from ondine.core.setup import FlashFiredBy, Release, Setup
from ondine.core.timing.commands import Commands
from ondine.core.timing.sequence import FlashPulse, Sequence


@dataclass(frozen=True)
class Light:
    """Light that fell: when, from the trigger, and the numbers of the units that gave it."""

    at_us: int
    units: tuple[int, ...]


@dataclass(frozen=True)
class Lights:
    """What the flashes of one firing came to: those that the sensor `saw`, and what went wrong, in words."""

    saw: tuple[Light, ...]
    last_us: int
    failed: str = ""


def as_planned(setup: Setup, sequence: Sequence) -> tuple[Light, ...]:
    """Return the light of a firing in which everything is ready and the shutter open."""
    return tuple(Light(flash.at_us, tuple(_told(setup, flash))) for flash in sequence.flashes)


def fire_lights(
    rig: HiddenRig, flashed_s: dict[int, float], now_s: float, luck: Luck, commands: Commands, setup: Setup
) -> Lights:
    """Fire the flashes of a sequence; `flashed_s` is when each unit fired last, and remembers it now."""
    saw, tired, shut = [], False, False
    pulses = sorted(_fallen(rig, luck, commands, setup), key=lambda pulse: pulse.at_us)
    for pulse in pulses:
        at_s = now_s + pulse.at_us / 1e6
        told = _told(setup, pulse)
        ready = [n for n in told if at_s - flashed_s.get(n, -1e9) >= recycle_s(setup.light.units[n].power)]
        # A slave that has not recycled just stays dark: nobody told it.
        tired |= any(not setup.light.units[n].slave for n in set(told) - set(ready))
        if commands.dark:
            continue
        flashed_s.update(dict.fromkeys(ready, at_s))
        is_open = _shutter_is_open(rig, luck, commands, setup, pulse.at_us)
        shut |= not is_open
        if ready and is_open:
            saw.append(Light(pulse.at_us, tuple(ready)))
    failed = "flash not ready" if tired else "the shutter was shut when the flash fired" if shut else ""
    return Lights(tuple(saw), max((p.at_us for p in pulses), default=0), "flash off" if commands.dark else failed)


def recycle_s(power: float) -> float:
    """Time the simulated flash needs before it can fire again."""
    return 0.15 + 12.0 * power


def _told(setup: Setup, flash: FlashPulse) -> list[int]:
    """Units that hang on an output, and the slaves that see one of them."""
    by_camera = setup.triggers.flash_fired_by is FlashFiredBy.CAMERA
    units = list(enumerate(setup.light.units))
    told = [n for n, unit in units if not unit.slave and (by_camera or unit.output == flash.output)]
    return told + [n for n, unit in units if unit.slave] if told else []


def _fallen(rig: HiddenRig, luck: Luck, commands: Commands, setup: Setup) -> list[FlashPulse]:
    """When each flash really lights, from the trigger."""
    late_us = ((rig.radio_lag_s if setup.triggers.radio else 0.0) + rig.flash_lag_s) * 1e6
    flashes = commands.sequence.flashes
    if commands.flashes_us is not None:
        told = zip(flashes, commands.flashes_us, strict=True)
        return [replace(flash, at_us=round(at_us + late_us)) for flash, at_us in told]
    assert commands.shutter_us is not None, "something has to fire the flash"
    at_us = round(commands.shutter_us + _camera_lag_s(rig, luck, commands, setup) * 1e6 + late_us)
    return [replace(flashes[0], at_us=max(0, at_us))]


def _shutter_is_open(rig: HiddenRig, luck: Luck, commands: Commands, setup: Setup, light_us: int) -> bool:
    if commands.flashes_us is None or commands.shutter_us is None:
        # The camera lights the flash when it is open; a hand holds it open from before the trigger.
        return True
    opens_us = commands.shutter_us + _camera_lag_s(rig, luck, commands, setup) * 1e6
    return opens_us <= light_us <= opens_us + setup.camera.exposure_s * 1e6


def _camera_lag_s(rig: HiddenRig, luck: Luck, commands: Commands, setup: Setup) -> float:
    mirror = 0.0 if setup.triggers.mirror_up or commands.mirror_us is not None else 0.048
    infrared = 0.038 if setup.triggers.release is Release.INFRARED else 0.0
    return rig.camera_lag_s + luck.shutter_s + mirror + infrared
