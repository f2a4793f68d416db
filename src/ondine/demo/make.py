"""Plays the demo's season and renders it anew: `python -m ondine.demo.make`. The result is shipped."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import asdict, dataclass, field
from datetime import datetime
from multiprocessing import Pool
from pathlib import Path
from typing import Any

from ondine.bench.simulated.frame import Frame, firing_of, photograph, rigs_of
from ondine.bench.simulated.hidden import HiddenRig
from ondine.bench.simulated.jpeg import write_jpeg
from ondine.bench.simulated.lights import as_planned
from ondine.bench.simulated.witness import seen
from ondine.core.belief.priors import Belief
from ondine.core.coach.evidence import Seen
from ondine.core.coach.goal import Goal
from ondine.core.coach.learning import Evidence, Knowledge, learn
from ondine.core.coach.proposal import propose
from ondine.demo import card_evening
from ondine.demo.scenario import (
    BELIEFS,
    CADENCE,
    LAKE,
    NAMED,
    NOW,
    REFILL_EVERY,
    SEASON,
    SEED,
    START,
    Shot,
    SittingPlan,
    season,
)

QUALITY = 74
FIRST_COACHED, FIRST_OF_CARD = 201, 301
"""The coach's shots have luck of their own: those of the planned ones stay as they are."""

RATINGS = {"full-umbrella": 4, "double-umbrella": 5, "opening-umbrella": 3, "crown": 3, "jet-top": 3, "beaded-jet": 3}
"""How a demanding photographer rates what this season showed; the rest stays unrated."""

RIGS = 256
NEW = "a new table"

PRINTS = 12


def kept_as(number: int, shape: str, note: str) -> dict[str, Any]:
    """Return whether a shot was kept, and under which labels: one of each shape's best for a print, and what a note
    says.
    """
    keeper = (number % 7 == 3 and RATINGS.get(shape, 0) >= 3) or "print" in note or "foyer" in note
    labels = [f"print {1 + number % PRINTS}"] if keeper else []
    return {"keeper": keeper, "labels": labels}


@dataclass
class Season:
    """The season as it is played: its log so far, and what the tagged shots have taught."""

    rig: HiddenRig = field(default_factory=lambda: HiddenRig.from_seed(SEED))
    log: list[dict[str, Any]] = field(default_factory=list)
    frames: list[tuple[Frame, Path]] = field(default_factory=list)
    evidence: list[Evidence] = field(default_factory=list)
    beliefs: dict[str, Belief] = field(default_factory=lambda: {NEW: Belief()})
    planned: int = 0

    def play(self, sitting: SittingPlan) -> None:
        """Fire and tag the shots of a sitting. The last one is left as it came: nobody has said what it shows."""
        head_m = self.rig.head_m
        count = sitting.coached or len(sitting.shots)
        for index, (shot, luck, belief) in enumerate(self._shots(sitting)):
            head_m = self.rig.head_m if index % REFILL_EVERY == 0 else head_m
            self._fire(sitting, index, shot, luck, belief, head_m, tagged=index < count - 1)
            drawn_s = sum(pulse.open_us for pulse in shot.sequence.drops) / 1e6
            head_m -= self.rig.discharge_m3_s_sqrt_m * head_m**0.5 * drawn_s / self.rig.reservoir_area_m2

    def _shots(self, sitting: SittingPlan) -> Iterator[tuple[Shot, int, str]]:
        """Go through the shots with the number of their luck and the name of what was believed before each."""
        known_at: dict[str, str] = {}
        for shot in sitting.shots:
            self.planned += 1
            if shot.table not in known_at:
                known_at[shot.table] = self._learned(f"{sitting.name}, {shot.table}", shot.table)
            yield shot, self.planned, known_at[shot.table]
        sequence = START
        for number in range(sitting.coached):
            known = self._known(sitting.table)
            proposed = propose(known.belief, Goal(keeps_sizes=True), sequence).best
            sequence = proposed.sequence
            name = self._learned(f"{sitting.name}, {number + 1}", sitting.table)
            yield Shot(sequence, table=sitting.table), FIRST_COACHED + number, name

    def _known(self, table: str) -> Knowledge:
        return learn(self.evidence, NAMED[table], Belief())

    def _learned(self, name: str, table: str) -> str:
        """Keep what is believed now of a table under a name, and return that."""
        if not self.evidence:
            return NEW
        self.beliefs[name] = self._known(table).believed(RIGS)
        return name

    def _fire(
        self, sitting: SittingPlan, index: int, shot: Shot, luck: int, belief: str, head_m: float, tagged: bool
    ) -> None:
        at: datetime = sitting.starts + CADENCE * index
        setup, number = NAMED[shot.table], len(self.log) + 1
        heads_m = (head_m,) * len(setup.valves)
        what = firing_of(rigs_of(self.rig, SEED, setup), SEED, luck, setup, shot.sequence, heads_m)
        shape = seen(what, shot.sequence.first_flash_us / 1e6, setup.camera.frame_top_m)
        name, lights = f"{number:03d}.jpg", as_planned(setup, shot.sequence)
        frame = Frame(self.rig, SEED, sitting.look, shot.sequence, setup, luck, heads_m, lights, at)
        self.frames.append((frame, SEASON / name))
        is_found = bool(sitting.coached) and shape == Goal().shape and not self._was_shown(sitting, shape)
        if tagged:
            self.evidence.append(Evidence(setup, Seen(shot.sequence, shape, None, number)))
        self.log.append(
            {
                "sitting": sitting.name,
                "at": at.isoformat(),
                "table": shot.table,
                "belief": belief,
                "sequence": asdict(shot.sequence),
                "shapes": [shape] if tagged else [],
                "rating": RATINGS.get(shape, 0) if tagged and number % 3 else 0,
                **kept_as(number, shape if tagged else "", shot.note),
                "note": "the coach found it" if is_found else shot.note,
                "picture": name,
            }
        )

    def _was_shown(self, sitting: SittingPlan, shape: str) -> bool:
        return any(shape in shot["shapes"] for shot in self.log if shot["sitting"] == sitting.name)

    def end(self) -> None:
        """Keep what is believed of each table after the last shot."""
        for table in NAMED:
            self.beliefs[f"{NOW}{table}"] = self._known(table).believed(RIGS)


def card_frames(rig: HiddenRig) -> Iterator[tuple[Frame, Path]]:
    """Go through the frames of the evening with the card, each with its file."""
    setup, evening = NAMED[card_evening.TABLE], card_evening.shots()
    heads_m = (rig.head_m,) * len(setup.valves)
    for count, (name, shown, number) in enumerate(card_evening.frames()):
        sequence = evening[number].sequence
        lights = as_planned(setup, sequence)
        frame = Frame(rig, SEED, LAKE, sequence, setup, FIRST_OF_CARD + count, heads_m, lights, shown)
        yield frame, card_evening.FOLDER / name


def _render(job: tuple[Frame, Path]) -> None:
    frame, path = job
    write_jpeg(path, photograph(frame), frame.setup.camera, frame.taken_at, QUALITY)


def main() -> None:
    """Simulate, tag, learn and photograph all sittings."""
    SEASON.mkdir(exist_ok=True)
    for old in SEASON.glob("*.jpg"):
        old.unlink()
    played = Season()
    for sitting in season():
        played.play(sitting)
    played.end()
    card_evening.FOLDER.mkdir(exist_ok=True)
    played.frames += card_frames(played.rig)
    (SEASON / "season.json").write_text(json.dumps(played.log, indent=1) + "\n", encoding="utf-8")
    kept = {name: asdict(belief) for name, belief in played.beliefs.items()}
    BELIEFS.write_text(json.dumps(kept) + "\n", encoding="utf-8")
    with Pool() as pool:
        for done, _ in enumerate(pool.imap_unordered(_render, played.frames), start=1):
            print(f"\r{done} of {len(played.frames)}", end="", flush=True)
    print()


if __name__ == "__main__":
    main()
