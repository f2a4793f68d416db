"""The log at length: `./dev bench log`."""
