"""Renders the demo's season anew: `python -m ondine.demo.make`. Takes a few minutes; the result is shipped."""

from __future__ import annotations

import json
from dataclasses import asdict
from datetime import datetime
from multiprocessing import Pool
from pathlib import Path

from ondine.bench.simulated.frame import Frame, photograph, rigs_of
from ondine.bench.simulated.hidden import HiddenRig, Luck
from ondine.bench.simulated.jpeg import write_jpeg
from ondine.bench.simulated.lights import as_planned
from ondine.bench.simulated.witness import seen
from ondine.bench.simulated.world import happen
from ondine.demo.scenario import CADENCE, NAMED, REFILL_EVERY, SEED, season

FOLDER = Path(__file__).parent / "season"
QUALITY = 74

# How a demanding photographer rates what this season showed; the rest stays unrated.
RATINGS = {"full-umbrella": 4, "double-umbrella": 5, "opening-umbrella": 3, "crown": 3, "jet-top": 3, "beaded-jet": 3}


def _render(job: tuple[Frame, Path]) -> None:
    frame, path = job
    write_jpeg(path, photograph(frame), frame.setup.camera, frame.taken_at, QUALITY)


def main() -> None:
    """Simulate, photograph and tag all sittings."""
    FOLDER.mkdir(exist_ok=True)
    for old in FOLDER.glob("*.jpg"):
        old.unlink()
    rig, shots, jobs = HiddenRig.from_seed(SEED), [], []
    number, head = 0, rig.head_m
    for sitting in season():
        for index, shot in enumerate(sitting.shots):
            number += 1
            head = rig.head_m if index % REFILL_EVERY == 0 else head
            at: datetime = sitting.starts + CADENCE * index
            setup = NAMED[shot.table]
            heads = (head,) * len(setup.valves)
            luck = Luck.of_shot(rig, SEED, number, len(shot.sequence.drops))
            what = happen(rigs_of(rig, SEED, setup), luck, setup, shot.sequence, heads)
            shape = seen(what, shot.sequence.first_flash_us / 1e6, setup.camera.frame_top_m)
            name = f"{number:03d}.jpg"
            lights = as_planned(setup, shot.sequence)
            jobs.append(
                (Frame(rig, SEED, sitting.look, shot.sequence, setup, number, heads, lights, at), FOLDER / name)
            )
            # The last shot of each sitting is left as it came: fired, and nobody has said what it shows.
            tagged = index < len(sitting.shots) - 1
            shots.append(
                {
                    "sitting": sitting.name,
                    "at": at.isoformat(),
                    "table": shot.table,
                    "sequence": asdict(shot.sequence),
                    "shapes": [shape] if tagged else [],
                    "rating": RATINGS.get(shape, 0) if tagged and number % 3 else 0,
                    "note": shot.note,
                    "picture": name,
                }
            )
            drawn = sum(p.open_us for p in shot.sequence.drops) / 1e6
            head -= rig.discharge_m3_s_sqrt_m * head**0.5 * drawn / rig.reservoir_area_m2
    with Pool() as pool:
        for done, _ in enumerate(pool.imap_unordered(_render, jobs), start=1):
            print(f"\r{done} of {len(jobs)}", end="", flush=True)
    (FOLDER / "season.json").write_text(json.dumps(shots, indent=1) + "\n", encoding="utf-8")
    print()


if __name__ == "__main__":
    main()
