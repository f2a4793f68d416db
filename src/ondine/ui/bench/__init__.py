"""The bench: flight chart, splash, picture, tags."""
