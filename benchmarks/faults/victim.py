"""What is killed: works without end, and says each thing once it is acknowledged to its user."""

from __future__ import annotations

import sys
from datetime import UTC, datetime, timedelta
from functools import partial
from pathlib import Path

import numpy as np

from ondine.bench.protocol import Bench, Dispensed, FiringReport
from ondine.bench.simulated.jpeg import write_jpeg
from ondine.core.forecast.plan import Plan
from ondine.core.setup import BenchKind
from ondine.demo.scenario import START, TIDAL_MILL
from ondine.logbook.backup import back_up_now, restore
from ondine.logbook.card import read_card
from ondine.logbook.export import export_csv
from ondine.logbook.file import claim
from ondine.logbook.merge import merge
from ondine.logbook.reading import reading
from ondine.logbook.records import PastShot
from ondine.logbook.snapshot import take_snapshot
from ondine.logbook.store import Logbook
from ondine.studio.card_import import matched, take_in
from ondine.studio.events import ShotChanged
from ondine.studio.intake import import_files
from ondine.studio.studio import Studio

real_jpeg = partial(write_jpeg, software="Camera firmware 1.0")
"""Write a JPEG as a real camera does."""

AT = datetime(2026, 5, 9, 12, 0, tzinfo=UTC)


def say(words: str) -> None:
    """Acknowledge."""
    print(words, flush=True)


class QuickBench:
    """Fires at once."""

    name = "Quick bench"
    outputs = None

    def fire(self, commands: object, setup: object) -> FiringReport:
        """See `Controller.fire`."""
        return FiringReport(datetime.now(UTC), (1,))

    def pour(self, *_: object) -> Dispensed:
        """See `Controller.pour`."""
        return Dispensed(0)

    def refilled(self) -> None:
        """See `Controller.refilled`."""

    def deliver_to(self, *_: object) -> None:
        """See `CameraDevice.deliver_to`."""

    def close(self) -> None:
        """See `CameraDevice.close`."""


def studio(path: Path, heard: object) -> Studio:
    """Return a studio on a quick bench."""
    bench = QuickBench()
    claimed = claim(path)
    snapshot = take_snapshot(claimed, 10)
    now = [0.0]

    def ticks() -> float:
        # A minute between two looks: nobody waits for a valve or a flash.
        now[0] += 60
        return now[0]

    return Studio(
        lambda: Logbook(claimed),
        snapshot,
        Bench(BenchKind.CABLE, bench, bench),  # type: ignore[arg-type]
        lambda: datetime.now(UTC),
        heard,  # type: ignore[arg-type]
        Plan(START, TIDAL_MILL),
        "Killed",
        lambda _: None,
        ticks,
    )


def firing(place: Path) -> None:
    """Fire without end."""

    def heard(event: object) -> None:
        if isinstance(event, ShotChanged) and event.shot.state.value == "fired":
            say(f"fired {event.shot.id}")

    made = studio(place / "log.ondine", heard)
    made.log.wait()
    say("begun")
    while True:
        made.bench.fire(made.composer.plan)
        made.bench.wait()


def tagging(place: Path) -> None:
    """Rate and annotate one shot without end; both are acknowledged together."""

    def heard(event: object) -> None:
        if isinstance(event, ShotChanged) and event.shot.note == f"note {event.shot.rating} of {latest[0]}":
            say(f"tagged {event.shot.id} {event.shot.rating} {event.shot.note}")

    latest = [0]
    made = studio(place / "log.ondine", heard)
    made.bench.fire(made.composer.plan)
    made.bench.wait()
    made.log.wait()
    say("begun")
    while True:
        latest[0] += 1
        number = latest[0] + 1
        made.log.rate(number - 1, number % 6)
        made.log.annotate(number - 1, f"note {number % 6} of {latest[0]}")
        made.log.wait()
        made.bench.fire(made.composer.plan)
        made.bench.wait()


def importing(place: Path) -> None:
    """Import pictures one by one."""
    book = Logbook.open(place / "log.ondine")
    count = 60
    book.shots.add_history([PastShot("s", AT + timedelta(minutes=n), Plan(START, TIDAL_MILL)) for n in range(count)])
    files = []
    for n in range(count):
        files.append(place / f"{n}.jpg")
        shade = np.full((40, 60, 3), n, np.uint8)
        real_jpeg(files[-1], shade, TIDAL_MILL.camera, AT + timedelta(minutes=n, seconds=1))
    say("begun")
    import_files(
        book, files, AT, lambda taken: say(f"imported {taken.shot_id} {taken.path.name}"), lambda error: say(str(error))
    )


def exporting(place: Path) -> None:
    """Export over the same table without end."""
    book = Logbook.open(place / "log.ondine")
    book.shots.add_history([PastShot("s", AT + timedelta(minutes=n), Plan(START, TIDAL_MILL)) for n in range(200)])
    export_csv(book, place / "log.csv")
    say("begun")
    while True:
        export_csv(book, place / "log.csv")
        say("exported")


def migrating(place: Path) -> None:
    """Open a logbook of an older format."""
    # Loaded before, so that the kill meets the migration and not the loading.
    import alembic.command  # noqa: F401

    say("begun")
    Logbook.open(place / "log.ondine").close()
    say("migrated")


def uneven(number: int) -> timedelta:
    """When a shot is fired after the first: a hand never takes the same time twice, by which a card finds its shots."""
    return timedelta(minutes=number, seconds=7 * number * number % 41)


def filled(path: Path, name: str, count: int, first: datetime = AT) -> None:
    """Make a logbook of a table with so many shots, a minute or so apart, or add them to it."""
    book = Logbook.open(path)
    plan = Plan(START, TIDAL_MILL)
    past = [PastShot(name, first + uneven(n), plan, bench=BenchKind.BY_HAND) for n in range(count)]
    book.shots.add_history(past)
    book.close()


def backing_up(place: Path) -> None:
    """Copy a logbook without end."""
    say("begun")
    while True:
        say(f"copied {back_up_now(place / 'log.ondine', datetime.now(UTC)).name}")


def merging(place: Path) -> None:
    """Bring one logbook after another into the same one."""
    say("begun")
    for other in sorted(place.glob("other-*.ondine")):
        with reading(other) as source:
            target = Logbook.open(place / "log.ondine")
            back_up_now(target.path, datetime.now(UTC))
            merge(target.path, source.path)
            target.close()
        say(f"merged {other.stem}")


def taking_in(place: Path) -> None:
    """Match a card and take it in."""
    with reading(place / "log.ondine") as logbook:
        found = matched(logbook, read_card(place / "card"))
    book = Logbook.open(place / "log.ondine")
    say("begun")
    take_in(
        BenchKind.BY_HAND,
        found,
        lambda facts, shot, sure: book.pictures.give(facts, shot, sure, AT),
        lambda so_far: say(f"taken {so_far.taken[-1]}"),
    )
    book.close()


def restoring(place: Path) -> None:
    """Put an older copy in a logbook's place, and the newer one back, without end."""
    say("begun")
    while True:
        for copy in ("older.ondine", "newer.ondine"):
            restore(place / copy, place / "log.ondine", datetime.now(UTC))
            say(f"restored {copy}")


if __name__ == "__main__":
    works = {
        f.__name__: f
        for f in (
            firing, tagging, importing, exporting, migrating, backing_up, merging, taking_in, restoring
        )
    }  # fmt: skip
    works[sys.argv[1]](Path(sys.argv[2]))
