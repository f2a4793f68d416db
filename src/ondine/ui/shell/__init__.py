"""The window itself: its frame, navigation, keys, messages."""
