"""Run all benchmarks of speed, or those named: bands, forecast, drag, start, render, preview; faults; log; coach.

`--small` first runs each as shortly as it can, to see that it runs: its figures mean nothing. What follows `coach` are
its options.
"""

import os
import sys

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from benchmarks import bands, coach, drag, faults, forecast, log, preview, render, start

ALL = {
    "bands": bands.run,
    "forecast": forecast.run,
    "drag": drag.run,
    "start": start.run,
    "render": render.run,
    "preview": preview.run,
}
ASKED = {"faults": faults.run, "log": log.run}
"""An hour of faults made on purpose, and a logbook of 100 000 shots: only where they are asked for."""


def main() -> int:
    """Run what is asked for; return the exit code."""
    small = sys.argv[1:2] == ["--small"]
    wanted = sys.argv[2 if small else 1 :] or list(ALL)
    if wanted[0] == "coach":
        for line in coach.run([*(["--count", "1", "--season", "12"] if small else []), *wanted[1:]]):
            print(line, flush=True)
        return 0
    known = ALL | ASKED
    unknown = [name for name in wanted if name not in known]
    if unknown:
        print(f"There is no benchmark {unknown[0]!r}. There are: {', '.join([*known, 'coach'])}.", file=sys.stderr)
        return 2
    for name in wanted:
        print(f"\n{name}")
        for line in known[name](small):
            print(f"  {line}", flush=True)
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
