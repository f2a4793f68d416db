"""What can hurt, where on the table, and what to look after before the first shot. It never replaces local rules."""

from __future__ import annotations

from dataclasses import dataclass

from ondine.core.setup import BenchKind, Method, Setup

LOCAL_RULES = (
    "Local rules come first. Fixed wiring, and repairs inside a flash, are a matter for people licensed to do them."
)


@dataclass(frozen=True)
class Caution:
    """A danger at a place of the drawing: what, and what to do."""

    place: str
    title: str
    does: str


def cautions(setup: Setup) -> tuple[Caution, ...]:
    """Return the cautions that matter for this table, in the order of the drawing from the left."""
    found = [
        Caution("flash 0", "Mains and water", "Residual-current device, drip loops, power supplies low and dry."),
        Caution("flash 0", "Charged capacitor", "Keep housings closed, even of a dead flash."),
        Caution("flash 0", "Repeated flashes", "Can harm photosensitive people: tell everyone in the room."),
    ]
    if setup.method is Method.VALVE:
        found.append(
            Caution("nozzle", "Valve left open", "It overheats and floods: open time and duty are limited here.")
        )
    if setup.method is Method.OBJECT:
        found.append(Caution("nozzle", "Glass and thrown things", "Eye protection, a backstop, nobody in line."))
    if setup.method is Method.SOUND:
        found.append(
            Caution("nozzle", "Projectiles and shards", "Local law first. Eye protection, backstop, nobody in line.")
        )
    found.append(Caution("bowl", "Wet floor", "Tray, towels, no cables to step over."))
    mix = setup.mix
    if mix.milk_mass_fraction or mix.cream_mass_fraction:
        found.append(Caution("bowl", "Milk spoils", "Empty and clean valve and bowl the same day."))
    if mix.glycerine_mass_fraction or mix.gum_mass_fraction:
        found.append(Caution("bowl", "Slippery and sticky", "Rinse valve and floor with warm water the same day."))
    if mix.dye_mass_fraction:
        found.append(Caution("bowl", "Dye stains", "Gloves, an apron, and nothing you love within a metre."))
    return tuple(found)


_WET_WORK = (
    "Tray under everything, towels at hand",
    "Table level, bowl level",
    "Power supplies off the floor, with drip loops",
    "Residual-current device tested",
    "Dry hands, or a dry cloth, for camera and flash",
)

_BY_METHOD = {
    Method.VALVE: ("Valve dry inside and out, low-voltage supply only", "Jug to catch the stream while priming"),
    Method.DRIP: ("Bag or syringe hung so that it cannot fall", "Clamp closed between runs"),
    Method.OBJECT: ("Eye protection on", "Soft floor in the bowl, no glass that can break"),
    Method.SOUND: ("Eye protection on", "Backstop stands, nobody in line", "Local law allows it here"),
}


def wet_work(method: Method) -> tuple[str, ...]:
    """Return the checklist of a method."""
    return (*_WET_WORK, *_BY_METHOD[method])


def preflight(setup: Setup, kind: BenchKind) -> tuple[str, ...]:
    """Return what to look after before the first shot of a sitting, at a kind of bench."""
    if setup.box.in_use:
        opens = "Box at hand, its dials read"
    elif kind is BenchKind.BY_HAND:
        opens = "Bag, syringe or tap at hand, camera switched on"
    else:
        opens = "Controller and camera connected"
    return (
        "Focus locked and set to manual",
        "Camera's power save off",
        "Flash awake, at the power shown",
        opens,
        "Towel within reach",
        "Water at the brim",
    )
