"""What the shell can ask of a logbook: find shots, match a card, keep copies, bring two together."""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ondine.cli.visible import VisibleStream
from ondine.core.numbers import counted

if TYPE_CHECKING:
    from ondine.logbook.query import Query
    from ondine.logbook.records import ShotRecord
    from ondine.logbook.store import Logbook
    from ondine.studio.card_import import MatchedCard

OK, FAILED = 0, 2


def add_parsers(commands: Any) -> None:
    """Add the commands of this module."""
    find = commands.add_parser("find", help="find shots by a line of words")
    find.add_argument("logbook", type=Path)
    find.add_argument("query", nargs="?", default="", help="for example: full umbrella gap 60-80 rating>=4 glycerine")
    how = find.add_mutually_exclusive_group()
    how.add_argument("--json", action="store_true", help="as JSON, one shot a line")
    how.add_argument("--csv", action="store_true", help="as a table, as export writes it")
    match = commands.add_parser("match", help="match a card's pictures to the shots by their times")
    match.add_argument("logbook", type=Path)
    match.add_argument("folder", type=Path)
    match.add_argument("--json", action="store_true")
    match.add_argument("--apply", action="store_true", help="take the pictures in, doubtful ones as questions")
    copy = commands.add_parser("backup", help="keep a verified copy of a logbook, or put one back")
    copy.add_argument("logbook", type=Path)
    copy.add_argument("--to", type=Path, metavar="FOLDER", help="where copies are kept; usually beside the logbook")
    copy.add_argument("--restore", type=Path, metavar="COPY", help="put this copy in the logbook's place")
    merge = commands.add_parser("merge", help="bring another logbook's shots into one, none twice")
    merge.add_argument("logbook", type=Path)
    merge.add_argument("other", type=Path)


def complain(message: object) -> int:
    """Say what went wrong; return the exit code for it."""
    print(message, file=sys.stderr)
    return FAILED


@contextmanager
def counting(what: str) -> Iterator[Callable[[int, int], None]]:
    """Count on the terminal, if somebody is there to see it."""
    stream = sys.stderr
    shown = stream.isatty() and isinstance(stream, VisibleStream)

    def count(done: int, of: int) -> None:
        if isinstance(stream, VisibleStream) and shown:
            # Over the line that tells how far it was before.
            stream.write_as_it_is(f"\r{what}: {done} of {of}")

    yield count
    if shown:
        print(file=sys.stderr)


# Finding


def find(parsed: argparse.Namespace) -> int:
    """Print the shots that fit."""
    from ondine.logbook.errors import LogbookError
    from ondine.logbook.export import csv_table
    from ondine.logbook.export_json import shot_as_json
    from ondine.logbook.query import Order
    from ondine.logbook.query_line import QueryError

    try:
        with asked(parsed.logbook, parsed.query) as (logbook, query):
            if parsed.csv:
                sys.stdout.buffer.write(
                    csv_table(logbook, shot_ids=logbook.search.ids(query, Order.OLDEST).tolist()).text.encode("utf-8")
                )
                sys.stdout.buffer.flush()
                return OK
            for shot in logbook.shots.each(logbook.search.ids(query, Order.NEWEST).tolist()):
                if parsed.json:
                    print(json.dumps(shot_as_json(shot, logbook.search.figures_of([shot.id])[0])))
                else:
                    print(shot_as_line(shot))
            sys.stdout.flush()
    except BrokenPipeError:
        return had_enough()
    except (LogbookError, QueryError) as error:
        return complain(error)
    return OK


@contextmanager
def asked(path: Path, line: str) -> Iterator[tuple[Logbook, Query]]:
    """Give a logbook to read, and what a line of words asks of it. Raises LogbookError, QueryError.

    An older logbook's figures are reckoned first: the line, or what is written out, may want them.
    """
    from ondine.logbook.query_line import Vocabulary, read_query
    from ondine.logbook.reading import reading
    from ondine.studio.studio import now

    with reading(path) as logbook:
        query = read_query(line, Vocabulary(now(), logbook.shapes.all()))
        while logbook.facts.tell(500):
            pass
        yield logbook, query


def had_enough() -> int:
    """Who reads it has had enough, as `head` has: what is still to be flushed goes nowhere."""
    import os

    os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
    return OK


def shot_as_line(shot: ShotRecord) -> str:
    """Return a shot as a line for people."""
    drops = " + ".join(f"{us / 1000:g}" for us in shot.sequence.intervals_us) or "one drop"
    flashes = ", ".join(f"{flash.at_us / 1000:g}" for flash in shot.sequence.flashes)
    shapes = ", ".join(shot.shapes) or "untagged"
    kept = "  keeper" if shot.keeper else ""
    note = f"  {' / '.join(shot.note.splitlines())}" if shot.note else ""
    fired = shot.at.astimezone().strftime("%Y-%m-%d %H:%M:%S")
    return f"{shot.id:>6}  {fired}  {drops}, flash {flashes} ms  {shapes}  {'*' * shot.rating}{kept}{note}".rstrip()


# A card


def match(parsed: argparse.Namespace) -> int:
    """Match a card, print what was found, and take it in if that is asked for."""
    from ondine.logbook.card import CardGoneError, read_card
    from ondine.logbook.errors import LogbookError
    from ondine.logbook.reading import reading
    from ondine.studio.card_import import matched, told

    try:
        with counting("Reading") as count:
            card = read_card(parsed.folder, count)
        with reading(parsed.logbook) as logbook:
            found = matched(logbook, card)
        print(json.dumps(told(found), indent=2) if parsed.json else _match_in_words(found))
        return _take_in(parsed.logbook, found) if parsed.apply else OK
    except (CardGoneError, LogbookError) as error:
        return complain(error)


def _take_in(path: Path, found: MatchedCard) -> int:
    from ondine.core.setup import BenchKind
    from ondine.logbook.bench_kind import KEY, kept_bench
    from ondine.logbook.store import Logbook
    from ondine.studio.card_import import take_in
    from ondine.studio.studio import now

    logbook = Logbook.open(path)
    try:
        kind = kept_bench(logbook.state.get(KEY)) or BenchKind.BY_HAND
        with counting("Taking in") as count:
            done = take_in(
                kind,
                found,
                lambda facts, shot, sure: logbook.pictures.give(facts, shot, sure, now()),
                lambda so_far: count(so_far.done, so_far.of),
            )
    finally:
        logbook.close()
    for refused in done.refused:
        print(refused, file=sys.stderr)
    print(f"{counted(len(done.taken), 'picture')} taken in, {len(done.questions)} more as questions.", file=sys.stderr)
    return FAILED if done.refused else OK


def _match_in_words(found: MatchedCard) -> str:
    pairs = found.match.pairs
    lines = []
    for clock in found.match.clocks:
        way = "ahead of" if clock.offset_s >= 0 else "behind"
        drift = f" and drifts by {clock.drift_s_per_day:+.1f} s a day" if clock.drift_is_known else ""
        lines.append(
            f"The camera's clock is {abs(clock.offset_s):.1f} s {way} the log's in UTC{drift}; frames scatter by "
            f"{clock.sd_s:.2f} s about it ({clock.weight:.1%} likely)."
        )
    if not found.match.clocks:
        lines.append("No clock was found at which the pictures fit the shots.")
    lines += [
        f"{found.frames[p.frame].path}: shot {found.shots[p.shot].shot_id}"
        + ("" if p.sure else f"? {p.probability:.0%} likely, look at it")
        for p in pairs
    ]
    lines += [f"{found.frames[n].path}: no shot" for n in found.match.frames_left]
    lines += [f"{frame.path}: shot {shot}, in the log already" for frame, shot in found.known]
    lines += list(found.refused)
    lines.append(found.tally)
    return "\n".join(lines)


# Copies


def backup(parsed: argparse.Namespace) -> int:
    """Keep a copy of a logbook, or put one back."""
    from ondine.logbook.backup import back_up_now, restore
    from ondine.logbook.errors import LogbookError
    from ondine.logbook.file import check_header
    from ondine.studio.studio import now

    try:
        if parsed.restore is not None:
            kept = restore(parsed.restore, parsed.logbook, now())
            print(f"{parsed.logbook} is the backup {parsed.restore} now.")
            if kept is not None:
                print(f"What it was before is kept as {kept}.")
            return OK
        if not parsed.logbook.is_file():
            return complain(f"There is no logbook {parsed.logbook}. Check the name.")
        check_header(parsed.logbook)
        print(f"Copied and verified: {back_up_now(parsed.logbook, now(), parsed.to)}")
    except LogbookError as error:
        return complain(error)
    return OK


def merge(parsed: argparse.Namespace) -> int:
    """Bring the shots of another logbook into one."""
    from ondine.logbook.backup import back_up_now
    from ondine.logbook.bench_kind import check_may_merge
    from ondine.logbook.errors import LogbookError
    from ondine.logbook.merge import merge as bring
    from ondine.logbook.reading import reading
    from ondine.logbook.store import Logbook
    from ondine.studio.studio import now

    try:
        if not parsed.logbook.is_file():
            return complain(f"There is no logbook {parsed.logbook}. Check the name.")
        if parsed.other.is_file() and parsed.logbook.samefile(parsed.other):
            return complain("Both are the same logbook. Give the name of another one.")
        with reading(parsed.other) as other:
            target = Logbook.open(parsed.logbook)
            try:
                check_may_merge(target, other)
                kept = back_up_now(target.path, now())
                done = bring(target.path, other.path)
            finally:
                target.close()
        print(f"{done.words} What {parsed.logbook} was before is kept as {kept}.")
    except LogbookError as error:
        return complain(error)
    return OK


COMMANDS = {"find": find, "match": match, "backup": backup, "merge": merge}
