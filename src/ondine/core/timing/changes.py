"""What a change of a sequence is called when it is taken back or done again."""

from __future__ import annotations

from ondine.core.timing.items import CAMERA_FIELDS, Item, drop, flash, names_of
from ondine.core.timing.sequence import Pulse, Sequence


def change_words(before: Sequence, after: Sequence) -> str:
    """Name what a hand did between two sequences: "move drop 2", "add flash 2", or "other timings" for much at once."""
    for one, other, verb in ((before, after, "add"), (after, before, "remove")):
        more = _more(one, other)
        if more:
            return f"{verb} {names_of(other, more)}" if _holds(other, one) else "other timings"
    if len(before.drops) != len(after.drops) or len(before.flashes) != len(after.flashes):
        # One more, the same as one that is there.
        return "other timings"
    moved, opened = _moved(before, after), _opened(before, after)
    valves = [index for index, (b, a) in enumerate(zip(before.drops, after.drops, strict=True)) if b.valve != a.valve]
    if valves:
        return f"{names_of(after, frozenset(map(drop, valves)))} from another valve"
    if opened and not moved:
        longer = sum(after.drops[item.index].open_us - before.drops[item.index].open_us for item in opened) > 0
        return f"open {names_of(after, opened)} {'longer' if longer else 'shorter'}"
    if moved:
        return f"move {names_of(after, moved)}"
    return "put a flash on another output" if before != after else "change nothing"


def _more(one: Sequence, other: Sequence) -> frozenset[Item]:
    """Return the items that the other sequence has and this one has not, as many as it has more of them."""
    drops = [drop(n) for n, pulse in enumerate(other.drops) if pulse not in one.drops]
    flashes = [flash(n) for n, lit in enumerate(other.flashes) if lit not in one.flashes]
    return frozenset(
        (
            *drops[: max(len(other.drops) - len(one.drops), 0)],
            *flashes[: max(len(other.flashes) - len(one.flashes), 0)],
        )
    )


def _holds(larger: Sequence, smaller: Sequence) -> bool:
    """Whether a sequence has all drops and flashes of another one."""
    return set(smaller.drops) <= set(larger.drops) and set(smaller.flashes) <= set(larger.flashes)


def _moved(before: Sequence, after: Sequence) -> frozenset[Item]:
    drops = [drop(n) for n, (b, a) in enumerate(_both(before, after)) if b.start_us != a.start_us]
    flashes = [flash(n) for n, b in enumerate(before.flashes) if b.at_us != after.flashes[n].at_us]
    camera = [
        Item(kind)
        for kind, name in CAMERA_FIELDS.items()
        if getattr(before.camera, name) != getattr(after.camera, name)
    ]
    return frozenset((*drops, *flashes, *camera))


def _opened(before: Sequence, after: Sequence) -> frozenset[Item]:
    return frozenset(drop(n) for n, (b, a) in enumerate(_both(before, after)) if b.open_us != a.open_us)


def _both(before: Sequence, after: Sequence) -> list[tuple[Pulse, Pulse]]:
    return list(zip(before.drops, after.drops, strict=True))
