"""How the tracer is compiled, and kept for the next start."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numba as nb

HERE = Path(__file__).parent


def drop_stale(sources: Path, kept: Path) -> None:
    """Throw away compiled code that is older than any of the sources beside it.

    Numba asks only whether the file of a function has changed, not the files of those that it calls or of the constants
    that it was compiled with: after an update the old code would read a scene that is laid out anew.
    """
    try:
        changed_s = max(path.stat().st_mtime for path in sources.glob("*.py"))
        for path in kept.glob("*.nb[ic]"):
            if path.stat().st_mtime < changed_s:
                path.unlink(missing_ok=True)
    except OSError:
        # Where nothing can be removed nothing was kept.
        return


drop_stale(HERE, HERE / "__pycache__")
_HOW: dict[str, Any] = {"fastmath": True, "error_model": "numpy", "nogil": True, "cache": True}
jit: Any = nb.njit(**_HOW)
inlined: Any = nb.njit(**_HOW, forceinline=True)
"""For what is asked at every step of every ray: a third of such a step is the way there and back, if it is called."""
