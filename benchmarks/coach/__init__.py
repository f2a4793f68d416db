"""How many shots the coach takes to the first full umbrella on hidden rigs, and how well it knows what it says.

`./dev bench coach [--rigs MODULE] [--count N] [--wrong-tags SHARE] [--first SEED] [--keep-sizes]
[--season SHOTS] [--json]`;
docs/coach.md says what a module of rigs offers.
"""

import argparse
import json
import os
from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor

BUILT_IN = "ondine.bench.simulated.population"


def run(arguments: Sequence[str] = ()) -> Iterator[str]:
    """Search on every rig, print or dump what came of it."""
    parser = _parser()
    asked = parser.parse_args(arguments)
    if asked.count < 1:
        parser.error("--count: search on one rig or more")
    if asked.season < 1:
        parser.error("--season: at least one shot has taught")
    # One thread each: two processes that share two cores would only wait for each other.
    os.environ.update(dict.fromkeys(("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "MKL_NUM_THREADS"), "1"))
    from multiprocessing import get_context

    from benchmarks.coach import report, speed
    from benchmarks.coach.search import Task, load, search_on

    try:
        load(asked.rigs)
    except (ImportError, OSError, SyntaxError) as error:
        parser.error(f"--rigs: {error}. Give a module that offers make_rig(seed), see docs/coach.md")
    seeds = range(asked.first, asked.first + asked.count)
    tasks = [Task(asked.rigs, seed, asked.wrong_tags, asked.keep_sizes) for seed in seeds]
    with ProcessPoolExecutor(max_workers=os.cpu_count(), mp_context=get_context("spawn")) as pool:
        found = list(pool.map(search_on, tasks, chunksize=1))
    if asked.json:
        yield json.dumps(report.as_json(found) | speed.as_json(asked.season))
        return
    yield from report.lines(found)
    yield from speed.lines(asked.season)


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="./dev bench coach", description="Search on hidden rigs with the coach.")
    parser.add_argument("--rigs", default=BUILT_IN, help="module, or path of one, that offers make_rig(seed)")
    parser.add_argument("--count", type=int, default=200, help="how many rigs")
    parser.add_argument("--first", type=int, default=0, help="seed of the first rig")
    parser.add_argument("--wrong-tags", type=float, default=0.05, help="share of tags that are wrong")
    parser.add_argument("--keep-sizes", action="store_true", help="let the coach propose no larger drops")
    parser.add_argument("--season", type=int, default=500, help="how many shots have taught where speed is measured")
    parser.add_argument("--json", action="store_true", help="write everything as JSON")
    return parser
