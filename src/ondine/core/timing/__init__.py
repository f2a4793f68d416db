"""When things are told to happen: the sequence, a box's dials, the lags of the trigger path."""
