"""What lies under the cursor, or in hand, in a few sentences: what it is, and what a hand can do with it."""

from __future__ import annotations

from ondine.core.forecast.counting import Counting
from ondine.core.forecast.prediction import Prediction
from ondine.core.forecast.shapes import BY_KEY
from ondine.core.numbers import plus_minus_ms
from ondine.core.timing.items import Item, Kind, name_of, time_us
from ondine.core.timing.locks import Locks, lock_of
from ondine.core.timing.sequence import ms
from ondine.ui.bench.grips import Grip

AT_THE_WATER_M = 0.0005

TO_EVENT = "Ctrl ← →: to an event."

AIR = ["Press: the flash comes here.", "Ctrl and drag: select several.", "Wheel: look closer."]
LANES = ["Drag: select several.", "Wheel: look closer.", "Middle button: move the view."]
CAMERA_VERBS = {Kind.SHUTTER: "opens", Kind.MIRROR: "goes up", Kind.HALF_PRESS: "is"}


def what_it_is(item: Item, prediction: Prediction, counting: Counting, locks: Locks) -> list[str]:
    """Return sentences on an item, the most needed first."""
    if item.kind is Kind.DROP:
        said = [_drop_words(item, prediction), _lock_words(item, locks)]
    elif item.kind is Kind.FLASH:
        said = [_flash_words(item, prediction, counting), *_unit_words(item, prediction)]
        said += [_lock_words(item, locks), counting.says]
    else:
        name = name_of(prediction.sequence, item).capitalize()
        at_us = time_us(prediction.sequence, item, prediction.forecast.setup)
        said = [f"{name} {CAMERA_VERBS[item.kind]} at {ms(at_us)}.", _lock_words(item, locks)]
    return [sentence for sentence in said if sentence]


def what_hands_do(grip: Grip) -> list[str]:
    """Return sentences on what can be done with what is taken hold of."""
    if grip.end:
        return ["Drag: longer or shorter."]
    if grip.item.kind is Kind.DROP:
        return ["Drag, ← →: move.", "↑ ↓: open time.", TO_EVENT]
    if grip.item.kind is Kind.FLASH:
        return ["Drag, ← →: move.", TO_EVENT]
    return ["Drag, ← →: move.", "Del: as the table says."]


def _drop_words(item: Item, prediction: Prediction) -> str:
    pulse = prediction.sequence.drops[item.index]
    from_valve = f", valve {pulse.valve + 1}" if len(prediction.forecast.setup.valves) > 1 else ""
    words = f"Drop {item.index + 1}{from_valve}: opens at {ms(pulse.start_us)} for {ms(pulse.open_us)}"
    # The end of its curve: asking for all events would cost a hand that drags another millisecond or two.
    for fall in prediction.course.falls:
        if fall.drop == item.index:
            ends = "lands" if fall.height_m[-1] < AT_THE_WATER_M else "meets"
            words += f", {ends} at {plus_minus_ms(fall.time_s[-1], fall.sd_s[-1])}"
    return f"{words}."


def _flash_words(item: Item, prediction: Prediction, counting: Counting) -> str:
    flash, seen = prediction.sequence.flashes[item.index], prediction.at(item.index)
    key, share = next(iter(seen.shapes.items()))
    name = name_of(prediction.sequence, item).capitalize()
    return f"{name}, output {flash.output + 1}: {counting.tells(flash.at_us)}, {BY_KEY[key].name} {share:.0%}."


def _unit_words(item: Item, prediction: Prediction) -> list[str]:
    """Say which units light along with a flash, and which cannot yet."""
    seen, units = prediction.at(item.index).lit, prediction.forecast.setup.light.units
    along = [f"{units[n].name} fires along." for n in seen.slaves]
    return [*along, *(f"{units[n].name} has not recycled." for n in seen.not_ready)]


def _lock_words(item: Item, locks: Locks) -> str:
    lock = lock_of(locks, item)
    if lock is None:
        return ""
    side = "after" if lock.offset_us >= 0 else "before"
    return f"Stays {abs(lock.offset_us) / 1000:.1f} ms {side} {lock.follows}."
