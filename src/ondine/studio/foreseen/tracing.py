"""The tracer's side of the picture before the shot: takes orders, sends looks, gives up what is no longer wanted.

It runs in a process of its own: the compiler behind it is large and loads slowly, and a window must do neither.
"""

from __future__ import annotations

import os
from typing import TYPE_CHECKING

from ondine.core.physics.liquid import LiquidError
from ondine.studio.events import ForeseenLost, ForeseenSeen
from ondine.studio.foreseen.orders import Order
from ondine.studio.foreseen.photograph import Look8, foresee
from ondine.studio.worker import details_of

if TYPE_CHECKING:
    from multiprocessing.connection import Connection

NICENESS = 5
"""The window goes first where there is but one core."""


def serve(line: Connection) -> None:
    """Take orders until the other end closes the line."""
    try:
        order = line.recv()
        while True:
            order = _trace(line, order) or line.recv()
    except (EOFError, BrokenPipeError, ConnectionResetError):
        return


def _trace(line: Connection, order: Order) -> Order | None:
    """Trace an order to its end, or until a newer one has come: return that."""
    try:
        has_shown = False
        for look in foresee(order.wanted):
            if look is not None:
                line.send(_seen(order.number, look))
                has_shown = True
            # The first look is never given up: a hand that does not rest would see none.
            newer = _newest(line) if has_shown else None
            if newer is not None:
                return newer
    except LiquidError:
        # The window says why: it cannot foresee it either.
        line.send(ForeseenLost(order.number))
    except (OSError, EOFError):
        raise
    except Exception as error:  # noqa: BLE001 - the other end tells it, and the next order is another one
        line.send(ForeseenLost(order.number, details_of("the picture of the splash", error)))
    return None


def _newest(line: Connection) -> Order | None:
    found = None
    while line.poll():
        found = line.recv()
    return found


def _seen(number: int, look: Look8) -> ForeseenSeen:
    height, width, _ = look.pixels.shape
    return ForeseenSeen(number, look.level, look.finished, width, height, look.pixels.tobytes())


def run(line: Connection) -> None:
    """Be the tracer of a window, in a process of its own."""
    from ondine.picture.own_process import end_with_parent
    from ondine.picture.warm import warm

    end_with_parent()
    os.nice(NICENESS)
    warm()
    serve(line)
