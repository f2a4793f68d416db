"""Ondine plans, fires and remembers water-drop collisions."""

__version__ = "0.1.0"
