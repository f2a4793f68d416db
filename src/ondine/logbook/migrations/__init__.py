"""The logbook's history of shapes."""
