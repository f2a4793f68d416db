"""`./dev bench`: each figure is a ratio to a reference, or a distribution, taken in one run."""
