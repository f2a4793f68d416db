"""The window: draws, listens, and calls the studio."""
