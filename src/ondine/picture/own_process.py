"""What the processes that trace pictures share: the code is compiled once on a computer, and no parent is outlived."""

from __future__ import annotations

import os
import threading


def end_with_parent() -> None:
    """End this process when the window's does, however that ends: a log-out, a crash, a kill."""
    from multiprocessing import parent_process

    parent = parent_process()
    assert parent is not None

    def watch() -> None:
        parent.join()
        os._exit(1)

    threading.Thread(target=watch, name="parent-watch", daemon=True).start()
