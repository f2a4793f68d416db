"""What lies under the cursor, or in hand, in a few sentences: what it is, and what a hand can do with it."""

from __future__ import annotations

from ondine.core.forecast.counting import Counting
from ondine.core.forecast.events import EventKind
from ondine.core.forecast.prediction import Prediction
from ondine.core.forecast.shapes import BY_KEY
from ondine.core.timing.items import Item, Kind, name_of, time_us
from ondine.core.timing.locks import Locks, lock_of
from ondine.core.timing.sequence import ms
from ondine.ui.bench.grips import Grip

AIR = "Press: the flash comes here. Drag with Ctrl: select several. Wheel: look closer."
LANES = "Drag: select several. Wheel: look closer. Middle button: move the view."


def hint(grip: Grip, prediction: Prediction, counting: Counting, locks: Locks) -> list[str]:
    """Return sentences on what can be taken hold of, the most needed first."""
    item = grip.item
    if item.kind is Kind.DROP:
        said = [_drop_words(item, prediction), _lock_words(item, locks)]
        hand = "Drag: longer or shorter." if grip.end else "Drag, ← →: move. ↑ ↓: open time."
        return _told([*said, counting.says, f"{hand} Ctrl ← →: to an event."])
    at_us = time_us(prediction.sequence, item, prediction.forecast.setup)
    if item.kind is Kind.FLASH:
        said = [_flash_words(item, prediction, counting), _lock_words(item, locks), counting.says]
        return _told([*said, "Drag, ← →: move. Ctrl ← →: to an event."])
    name = name_of(prediction.sequence, item).capitalize()
    verb = {Kind.SHUTTER: "opens", Kind.MIRROR: "goes up", Kind.HALF_PRESS: "is"}[item.kind]
    said = [f"{name} {verb} at {ms(at_us)}.", _lock_words(item, locks)]
    return _told([*said, "Drag, ← →: move. Del: as the table says."])


def _told(sentences: list[str]) -> list[str]:
    return [sentence for sentence in sentences if sentence]


def _drop_words(item: Item, prediction: Prediction) -> str:
    pulse = prediction.sequence.drops[item.index]
    from_valve = f", valve {pulse.valve + 1}" if len(prediction.forecast.setup.valves) > 1 else ""
    words = f"Drop {item.index + 1}{from_valve}: opens at {ms(pulse.start_us)} for {ms(pulse.open_us)}"
    for event in prediction.course.events:
        if event.drop == item.index + 1 and event.kind is EventKind.TOUCHDOWN:
            lands = f", lands at {event.time_s.mean * 1e3:.0f} ± {event.time_s.sd * 1e3:.0f} ms"
            return f"{words}{lands if event.probability > 0.5 else ''}."
    return f"{words}."


def _flash_words(item: Item, prediction: Prediction, counting: Counting) -> str:
    flash, seen = prediction.sequence.flashes[item.index], prediction.at(item.index)
    key, share = next(iter(seen.shapes.items()))
    name = name_of(prediction.sequence, item).capitalize()
    return f"{name}, output {flash.output + 1}: {counting.tells(flash.at_us)}, {BY_KEY[key].name} {share:.0%}."


def _lock_words(item: Item, locks: Locks) -> str:
    lock = lock_of(locks, item)
    if lock is None:
        return ""
    side = "after" if lock.offset_us >= 0 else "before"
    return f"Stays {abs(lock.offset_us) / 1000:.1f} ms {side} {lock.follows}."
