"""Compiles the tracer once, so that the first picture does not wait for it: `python -m ondine.bench.simulated.warm`."""

from datetime import UTC, datetime

from ondine.bench.simulated.frame import Frame, photograph
from ondine.bench.simulated.look import Look
from ondine.core.sequence import Pulse, Sequence
from ondine.core.setup import Setup

if __name__ == "__main__":
    sequence = Sequence((Pulse(0, 20_000),), 400_000)
    photograph(Frame(1, Look(), sequence, Setup(), 1, 0.12, True, datetime.now(UTC)))
