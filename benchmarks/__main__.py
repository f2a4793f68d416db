"""Run all benchmarks, or those named: bands, forecast, drag, start, render."""

import os
import sys

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from benchmarks import bands, drag, forecast, render, start

ALL = {"bands": bands.run, "forecast": forecast.run, "drag": drag.run, "start": start.run, "render": render.run}


def main() -> int:
    """Run what is asked for; return the exit code."""
    wanted = sys.argv[1:] or list(ALL)
    unknown = [name for name in wanted if name not in ALL]
    if unknown:
        print(f"There is no benchmark {unknown[0]!r}. There are: {', '.join(ALL)}.", file=sys.stderr)
        return 2
    for name in wanted:
        print(f"\n{name}")
        for line in ALL[name]():
            print(f"  {line}", flush=True)
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
