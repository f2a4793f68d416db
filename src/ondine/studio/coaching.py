"""The coach at work: learns from tagged shots in a thread of its own, and tells what to fire next."""

from __future__ import annotations

import json
import threading
from collections.abc import Callable
from dataclasses import replace
from functools import partial

import numpy as np

from ondine.core.coach.chances import courses
from ondine.core.coach.changes import Correction
from ondine.core.coach.diagnosis import Diagnosis, diagnose, verdict
from ondine.core.coach.evidence import Seen
from ondine.core.coach.facts import facts, taught_most
from ondine.core.coach.goal import Goal
from ondine.core.coach.learning import Evidence, Knowledge, doubt_words, learn
from ondine.core.coach.mapping import Axis, ChanceMap, axes, chance_map
from ondine.core.coach.measured import height_in, width_in
from ondine.core.coach.progress import progress
from ondine.core.coach.proposal import propose
from ondine.core.coach.reach import CoachError
from ondine.core.coach.repeating import steadiness, steady_words
from ondine.core.coach.words import reason
from ondine.core.forecast.phases import INDEX
from ondine.core.forecast.plan import Plan
from ondine.core.forecast.shapes import BY_KEY
from ondine.core.physics.liquid import LiquidError
from ondine.core.setup import BenchKind
from ondine.core.table.firing import as_fired
from ondine.core.timing.latency import latency
from ondine.core.timing.limits import Outputs
from ondine.core.timing.sequence import Sequence
from ondine.logbook.errors import LogbookError
from ondine.logbook.records import ShotRecord
from ondine.studio.composer import Composer
from ondine.studio.debounce import Debounce
from ondine.studio.events import CoachSays, CoachSilent, CoachThinks, Event, Trouble
from ondine.studio.logbook_writer import LogbookWriter
from ondine.studio.worker import Guard

MOST_SHOTS = 500
"""So many of the newest tagged shots teach; older ones are of another table, or were learned long ago."""

FEWEST_EQUAL, SAME_US, KEEPERS = 3, 1_000, 3
"""So many shots of one timing, within a millisecond, say how steady a rig is; one wants so many keepers of them."""

RESTS_S = 0.15
RIGS = 256


def seen_in(shot: ShotRecord) -> Seen | None:
    """Return what a tagged shot says, None if nothing. Of several tags the liveliest counts: a full umbrella that is
    blurred is a full umbrella. A height or a width in its note counts too.
    """
    known = [shape for shape in shot.shapes if shape in INDEX]
    if not known or not shot.sequence.drops or not shot.sequence.flashes:
        return None
    sequence = shot.sequence
    if shot.flash_reports_us and len(shot.flash_reports_us) == len(sequence.flashes):
        fired = zip(sequence.flashes, shot.flash_reports_us, strict=True)
        sequence = replace(sequence, flashes=tuple(replace(flash, at_us=at) for flash, at in fired))
    order = list(BY_KEY)
    telling = [shape for shape in known if Seen(sequence, shape).tells]
    shape, note = max(telling or known, key=order.index), shot.note
    return Seen(sequence, shape, height_in(note), shot.id, width_in(note))


class Coaching:
    """Holds what was learned and what is proposed. Everything is asked for in any thread and told as events; nothing
    is fired by it.
    """

    def __init__(
        self,
        writer: LogbookWriter,
        composer: Composer,
        bench: BenchKind,
        emit: Callable[[Event], None],
        guard: Guard,
        corrections: frozenset[Correction] = frozenset(),
        counts: Callable[[int], bool] = lambda shot: True,
        outputs: Outputs | None = None,
    ) -> None:
        """`counts` : whether a shot, by its number, was fired on the rig that stands on the bench; `outputs` : what its
        controller can drive, where one does.
        """
        self._counts, self._outputs = counts, outputs
        self._writer, self._composer, self._bench, self._emit = writer, composer, bench, emit
        self.goal = Goal()
        self.on = self.maps = False
        self._axes: tuple[Axis, Axis] | None = None
        self._known: Knowledge | None = None
        self._corrections = self._learned_with = corrections
        self._times_s: dict[int, float] = {}
        self._closing = threading.Event()
        self._asked = 0
        think = lambda: guard("the coach", self._think)  # noqa: E731
        self._thinking = Debounce(think, RESTS_S, "coach")

    def turn(self, on: bool) -> None:
        """Let the coach speak, or be silent."""
        self.on = on
        if on:
            self.ask()

    def open_map(self, opens: bool) -> None:
        """Draw a map with all that is said, or none."""
        self.maps = opens
        if opens:
            self.ask()

    def map_over(self, x: Axis, y: Axis) -> None:
        """Draw the map over two other timings."""
        self._axes = x, y
        self.ask()

    def aim_at(self, goal: Goal) -> None:
        """Search for something else."""
        self.goal = goal
        self.ask()

    def ask(self) -> None:
        """Think anew some moments later: shots, tags, table or sequence have changed."""
        if self.on and not self._closing.is_set():
            self._asked += 1
            self._thinking.ask()

    def put_right(self, correction: Correction) -> str:
        """Remember that a number of the set-up is put right, so that it counts as no change of the table; return all
        such corrections, to be kept.
        """
        self._corrections |= {correction}
        listed = sorted((one.path, one.before, one.after) for one in self._corrections)
        return json.dumps([{"path": path, "before": before, "after": after} for path, before, after in listed])

    def close(self) -> None:
        """Stop thinking at the next step, and end."""
        self.on = False
        self._closing.set()
        self._thinking.close()

    # In the coach's own thread

    def _goes_on(self) -> bool:
        return not self._closing.is_set()

    def _think(self) -> None:
        if not self.on:
            return
        asked, plan, goal = self._asked, self._composer.plan, self.goal
        self._emit(CoachThinks(True))
        try:
            said = self._answer(plan, goal)
        except LogbookError as error:
            self._emit(Trouble(str(error)))
            said = None
        except (CoachError, LiquidError) as error:
            said = None
            self._emit(CoachSilent(str(error)))
        finally:
            self._emit(CoachThinks(False))
        if said is not None and asked == self._asked and self._goes_on():
            self._emit(said)

    def _answer(self, plan: Plan, goal: Goal) -> CoachSays | None:
        evidence = self._evidence()
        priors = replace(plan.belief, learned=None)
        known = learn(
            evidence,
            plan.setup,
            priors,
            known=self._known if self._corrections == self._learned_with else None,
            corrections=self._corrections,
            goes_on=self._goes_on,
        )
        if not self._goes_on():
            return None
        self._known, self._learned_with = known, self._corrections
        if known.evidence:
            # What was learned before the table changed is of these sizes.
            goal = replace(goal, keeps_sizes=True)
        fired = partial(as_fired, setup=plan.setup, outputs=self._outputs)
        proposal = propose(known.belief, goal, plan.sequence, as_fired=fired)
        # Where the table cannot show what was asked for, all that is said is of the nearest that it can.
        goal = proposal.goal
        last, words = _last_words(known, goal)
        steps = progress(known.belief, goal, proposal.best.sequence)
        telling = sum(one.seen.tells for one in known.evidence)
        # Before the first shot too: what is drawn and what is advised must come of one belief.
        learned = known.believed(RIGS).learned
        steady = _steadiness(known, goal, self._times_s)
        return CoachSays(
            proposal,
            reason(proposal),
            steps,
            telling,
            last,
            words,
            doubt_words(known),
            steady,
            learned,
            facts(known, plan.sequence),
            taught_most(known),
            tuple(effect.says for _, effect in known.changes if effect.says),
            bool(known.evidence) and known.evidence[-1].seen.shape == goal.shape,
            known.evidence[-1].seen.shot if known.evidence else 0,
            *self._mapped(known, goal, plan.sequence),
        )

    def _mapped(self, known: Knowledge, goal: Goal, sequence: Sequence) -> tuple[ChanceMap | None, tuple[Axis, ...]]:
        """Draw the map, if one is open: over the timings that were chosen, or the usual two."""
        if not self.maps or not sequence.flashes or not sequence.drops:
            return None, ()
        possible = axes(sequence)
        x, y = self._axes if self._axes is not None and set(self._axes) <= set(possible) else possible[:2]
        seen = tuple(one.seen for one in known.evidence)
        return chance_map(known.belief, goal, sequence, x, y, seen), possible

    def _evidence(self) -> list[Evidence]:
        """Read the tagged shots that this kind of bench made, oldest first: what was simulated teaches nothing of a
        table, and the other way round.
        """
        logbook = self._writer.logbook
        shots = logbook.shots.tagged(self._bench, MOST_SHOTS)
        tables = logbook.setups.by_revision({shot.setup_id for shot in shots})
        found = []
        self._times_s = {shot.id: shot.at.timestamp() for shot in shots}
        for shot in shots:
            seen, table = seen_in(shot), tables.get(shot.setup_id)
            if seen is not None and table is not None and self._counts(shot.id):
                found.append(Evidence(table, seen))
        return found


def _last_words(known: Knowledge, goal: Goal) -> tuple[Diagnosis | None, str]:
    """Judge the newest picture, and by it the advice that the one before it gave."""
    seen = [one.seen for one in known.evidence if one.seen.tells]
    if not seen:
        return None, ""
    now = diagnose(known.taught, seen[-1], goal)
    if len(seen) < 2 or len(seen[-1].sequence.drops) != len(seen[-2].sequence.drops):
        return now, ""
    before = diagnose(known.taught, seen[-2], goal)
    moved = seen[-1].sequence.first_flash_us - seen[-2].sequence.first_flash_us
    return now, verdict(before, now, moved)


def _steadiness(known: Knowledge, goal: Goal, times_s: dict[int, float]) -> str:
    """Judge the newest shots where they repeat one timing; nothing where there are fewer than three."""
    if goal.shape is None:
        return ""
    run: list[Seen] = []
    for one in reversed([one.seen for one in known.evidence]):
        if run and not _same_timing(one.sequence, run[0].sequence):
            break
        run.insert(0, one)
    if len(run) < FEWEST_EQUAL:
        return ""
    belief, wanted = known.taught, goal.shape
    rigs = belief.unknowns.rigs(belief.coordinates)
    first, last = courses([run[-1].sequence.drops], belief.unknowns, rigs).window_s(INDEX[wanted])
    stands = np.isfinite(first[0])
    if not stands.any():
        return ""
    window_s = float(np.median(last[0][stands] - first[0][stands]))
    setup = belief.unknowns.setup
    found = steadiness(
        [one.shape == wanted for one in run],
        [times_s.get(one.shot, 0.0) for one in run],
        [goal.lateness(one.shape) for one in run],
        window_s,
        latency(setup, run[-1].sequence).light_sd_s,
        KEEPERS,
    )
    return steady_words(found)


def _same_timing(one: Sequence, other: Sequence) -> bool:
    apart = abs(one.first_flash_us - other.first_flash_us)
    return one.drops == other.drops and apart <= SAME_US
