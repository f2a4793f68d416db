"""What a part of the window does when a key asks for it."""

from collections.abc import Callable
from typing import Any

Actions = dict[str, Callable[..., Any]]
"""By the name of the action, as the table of keys names it."""
