"""The coach."""
