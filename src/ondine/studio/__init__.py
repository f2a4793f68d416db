"""The use-cases, without a window: composing, firing, taking pictures in, tagging. They emit plain events."""
