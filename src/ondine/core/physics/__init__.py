"""What liquid does: drops, their fall, the splash, the sheet. Closed forms over arrays."""
