"""What the searches say: distributions of shots, calibration of bands, reliability of stated chances."""

from collections.abc import Iterator
from itertools import pairwise
from typing import Any

import numpy as np

from benchmarks.coach.search import CHECKED_AFTER, MOST_BY_HAND, MOST_SHOTS, Found
from benchmarks.timing import verdict

MEDIAN, NINETIETH, MISSED, RATIO = 4, 8, 0.01, 4
INSIDE = (0.85, 0.95)
BINS = np.array([0, 0.05, 0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1.0000001])


def _shots(found: list[Found], of: str, most: int) -> dict[str, Any]:
    counts = [getattr(one, of) for one in found]
    numbers = np.array([most + 1 if count is None else count for count in counts])
    return {
        "median": float(np.median(numbers)),
        "p90": float(np.quantile(numbers, 0.9)),
        "not_found_within": most,
        "not_found_share": float(np.mean(numbers > most)),
        "shots": counts,
    }


def _bands(found: list[Found]) -> dict[str, Any]:
    made: dict[str, Any] = {}
    for shots in CHECKED_AFTER:
        known = [k for one in found for k in one.known if k.shots == shots]
        if not known:
            continue
        events = {
            event: {
                "inside": float(np.mean([k.inside for k in known if k.event == event])),
                "median_width_ms": float(np.median([k.width_s for k in known if k.event == event]) * 1e3),
                "cases": sum(k.event == event for k in known),
            }
            for event in dict.fromkeys(k.event for k in known)
        }
        made[str(shots)] = {"inside": float(np.mean([k.inside for k in known])), "events": events}
    return made


def _reliability(found: list[Found]) -> dict[str, Any]:
    said = [one for rig in found for one in rig.said]
    keys = sorted({key for shapes, shown in said for key in (*shapes, shown)})
    stated = np.array([[shapes.get(key, 0.0) for key in keys] for shapes, _ in said])
    shown = np.array([[key == seen for key in keys] for _, seen in said], dtype=float)
    usual = shown.mean(axis=0)
    rows = []
    for low, high in pairwise(BINS):
        here = (stated >= low) & (stated < high) & (stated > 0)
        if here.any():
            rows.append([float(stated[here].mean()), float(shown[here].mean()), int(here.sum())])
    return {
        "table": rows,
        "brier": float(((stated - shown) ** 2).sum(axis=1).mean()),
        "brier_climatology": float(((usual - shown) ** 2).sum(axis=1).mean()),
        "shots": len(said),
    }


def as_json(found: list[Found]) -> dict[str, Any]:
    """Everything, as plain values."""
    coach, manual = _shots(found, "coach", MOST_SHOTS), _shots(found, "manual", MOST_BY_HAND)
    told = _shots(found, "manual_told", MOST_BY_HAND)
    return {
        "rigs": len(found),
        "coach": coach,
        "manual": manual,
        "manual_told": told,
        "ratio_of_medians": manual["median"] / coach["median"],
        "ratio_of_medians_told": told["median"] / coach["median"],
        "calibration": _bands(found),
        "reliability": _reliability(found),
    }


def lines(found: list[Found]) -> Iterator[str]:
    """Everything, to read."""
    said = as_json(found)
    coach, manual = said["coach"], said["manual"]
    yield f"shots to the first full umbrella on {said['rigs']} hidden rigs"
    yield f"  coach:  {_histogram(coach)}"
    yield f"  median {coach['median']:g}, bound {MEDIAN}: {verdict(coach['median'], MEDIAN)}"
    yield f"  90th percentile {coach['p90']:g}, bound {NINETIETH}: {verdict(coach['p90'], NINETIETH)}"
    missed = coach["not_found_share"]
    yield f"  not within {MOST_SHOTS}: {missed:.1%}, bound under {MISSED:.0%}: {'met' if missed < MISSED else 'MISSED'}"
    yield f"  by hand: {_histogram(manual)}"
    yield f"  median {manual['median']:g}, 90th percentile {manual['p90']:g}"
    ratio = said["ratio_of_medians"]
    yield f"  by hand / coach {ratio:.1f}, bound {RATIO}: {verdict(-ratio, -RATIO)}"
    told, to_told = said["manual_told"], said["ratio_of_medians_told"]
    yield f"  by a hand that is told which jet is at its top: median {told['median']:g}, / coach {to_told:.1f}"
    for shots, known in said["calibration"].items():
        good = INSIDE[0] <= known["inside"] <= INSIDE[1]
        yield f"inside the 90 % band after {shots} shots: {known['inside']:.1%}: {'met' if good else 'MISSED'}"
        for event, one in known["events"].items():
            yield f"  {event}: {one['inside']:.1%} of {one['cases']}, band {one['median_width_ms']:.1f} ms wide"
    reliable = said["reliability"]
    yield f"stated chances of shapes over {reliable['shots']} shots: stated, seen, cases"
    for stated, seen, cases in reliable["table"]:
        yield f"  {stated:5.1%} {seen:5.1%} {cases:6d}"
    yield f"  Brier score {reliable['brier']:.3f}, climatology {reliable['brier_climatology']:.3f}"


def _histogram(shots: dict[str, Any]) -> str:
    numbers = [count for count in shots["shots"] if count is not None]
    steps = sorted(set(numbers))
    if len(steps) > 16:
        edges = range(0, max(steps) + 10, 10)
        counted = [(f"{low}-{low + 9}", sum(low <= n < low + 10 for n in numbers)) for low in edges]
    else:
        counted = [(str(step), numbers.count(step)) for step in steps]
    words = ", ".join(f"{name}: {count}" for name, count in counted if count)
    return words + f"; never: {len(shots['shots']) - len(numbers)}"
