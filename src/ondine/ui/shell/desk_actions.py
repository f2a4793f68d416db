"""What hands do with several parts of the sequence at once: select, lock, count, copy, take out."""

from __future__ import annotations

import json
from dataclasses import asdict

from ondine.core import plain
from ondine.core.setup import Counts, Setup
from ondine.core.timing.arrange import ArrangeError, added, part_of, removed
from ondine.core.timing.conventions import Convention, LightFrom
from ondine.core.timing.items import Item, Kind, drop, flash, has, items_of, name_of, names_of
from ondine.core.timing.locks import LOCKS_OF, lock_of
from ondine.core.timing.sequence import Sequence
from ondine.studio.studio import Studio
from ondine.ui.bench.page import BenchPage
from ondine.ui.bench.selection import Selection
from ondine.ui.kit.actions import Actions
from ondine.ui.kit.announce import announce
from ondine.ui.shell.messages import Messages
from ondine.ui.shell.navigation import Navigation

KEY = "convention"
APART_US = 10_000
"""So long after what is selected a copy of it is put."""


class DeskActions:
    """Joins the sequence desk with the composer."""

    def __init__(self, studio: Studio, bench: BenchPage, navigation: Navigation, messages: Messages) -> None:
        self._studio, self._bench, self._desk = studio, bench, bench.desk
        self._navigation, self._messages = navigation, messages
        bench.removed.connect(self.remove)
        self._desk.locking.connect(self.lock)
        self._desk.counted.connect(self._count)
        usual = usual_convention(studio.composer.setup)
        self._desk.show_convention(studio.kept.read(KEY, lambda text: plain.parse(Convention, text), usual))

    def key_actions(self) -> Actions:
        """What keys can ask for."""
        return {
            "remove": self.remove,
            "select_too": self.select_too,
            "select_flash_too": self.select_flash_too,
            "select_all": self.select_all,
            "select_camera": self.select_camera,
            "duplicate": self.duplicate,
            "lock": self.lock,
            "change_snap": self._desk.change_snap,
            "toggle_times": self._desk.toggle_times,
            "count_drops": lambda: self._desk.count_otherwise(light=False),
            "count_light": lambda: self._desk.count_otherwise(light=True),
        }

    @property
    def _selection(self) -> Selection:
        return self._bench.chart.selection

    @property
    def _sequence(self) -> Sequence:
        return self._studio.composer.sequence

    # Selecting

    def _show(self, selection: Selection) -> None:
        if self._navigation.on_bench:
            self._bench.chart.show_selection(selection)
            announce(self._bench.chart, f"Took hold of {names_of(self._sequence, selection.items)}")
            self._bench.chart.setFocus()

    def _toggle(self, item: Item) -> None:
        if has(self._sequence, item, self._studio.composer.setup):
            self._show(self._selection.with_toggled(item))

    def select_too(self, index: int) -> None:
        """Select a drop together with the others, or no longer."""
        self._toggle(drop(index))

    def select_flash_too(self) -> None:
        """Select the next flash together with the others; once all are, none of them."""
        flashes = [flash(index) for index in range(len(self._sequence.flashes))]
        missing = [item for item in flashes if item not in self._selection.items]
        if missing:
            self._show(self._selection.with_toggled(missing[0]))
        elif self._selection.items - set(flashes):
            self._show(Selection.of(self._selection.items - set(flashes)))

    def select_all(self) -> None:
        """Select all drops and flashes."""
        items = items_of(self._sequence, self._studio.composer.setup)
        chosen = frozenset(item for item in items if item.kind in (Kind.DROP, Kind.FLASH))
        self._show(Selection.of(chosen, self._selection.held))

    def select_camera(self) -> None:
        """Take hold of the shutter, or of the next command to the camera."""
        items = items_of(self._sequence, self._studio.composer.setup)
        camera = [item for item in items if item.kind not in (Kind.DROP, Kind.FLASH)]
        if camera:
            held = self._selection.held
            self._show(Selection(camera[(camera.index(held) + 1) % len(camera)] if held in camera else camera[0]))
        else:
            self._messages.notice("The camera has no times of its own here: a hand, or its own shutter, decides.")

    # Changing

    def remove(self) -> None:
        """Take out what is selected; the last drop and the last flash stay, the camera goes by the table again."""
        items, sequence = self._selection.items, self._sequence
        made, gone = removed(sequence, items)
        if made != sequence:
            self._studio.composer.compose(made, gone=gone)

    def duplicate(self) -> None:
        """Put a copy of what is selected after it."""
        self.put_in(part_of(self._sequence, self._selection.items), None)

    def paste(self, part: Sequence) -> None:
        """Put drops and flashes in where the cursor is on the chart, else after what is selected."""
        self.put_in(part, self._bench.chart.pointed_us())

    def put_in(self, part: Sequence, at_us: int | None) -> None:
        """Put drops and flashes in at a time, None for after what is selected; and select them."""
        sequence, items = self._sequence, self._selection.items
        if not (part.drops or part.flashes):
            self._messages.notice("Only drops and flashes can be copied: select one.")
            return
        ends = [sequence.drops[item.index].end_us for item in items if item.kind is Kind.DROP]
        ends += [sequence.flashes[item.index].at_us for item in items if item.kind is Kind.FLASH]
        try:
            made, new = added(sequence, part, max(ends, default=0) + APART_US if at_us is None else at_us)
        except ArrangeError as error:
            self._messages.trouble(str(error))
            return
        self._studio.composer.compose(made)
        self._show(Selection.of(new))

    def lock(self) -> None:
        """Let what is in hand keep its distance to an event; pressed again, to the next one, then to none."""
        composer, item = self._studio.composer, self._selection.held
        choices = LOCKS_OF[item.kind]
        now = lock_of(composer.plan.locks, item)
        name = name_of(self._sequence, item)
        start = 0 if now is None else choices.index(now.follows) + 1
        for follows in choices[start:]:
            if composer.lock(item, follows):
                self._desk.say(f"{name.capitalize()} keeps its distance to {follows}.")
                return
        if now is not None:
            composer.unlock(item)
            self._desk.say(f"{name.capitalize()} is locked to nothing.")
        else:
            self._desk.show_hint()
            self._messages.notice(f"Nothing that {name} could be locked to is foreseen: {' or '.join(choices)}.")

    def _count(self, convention: Convention) -> None:
        self._desk.show_convention(convention)
        self._desk.say(f"Drops count {convention.counts}, flashes from {convention.light_from}.")
        self._studio.log.keep(KEY, json.dumps(asdict(convention)))


def usual_convention(setup: Setup) -> Convention:
    """Return how times are counted until somebody chooses: as the dials of the box count, where one is in use."""
    if setup.box.in_use:
        return Convention(setup.box.counts, LightFrom(setup.box.flash_from.value))
    return Convention(Counts.START_TO_START)
