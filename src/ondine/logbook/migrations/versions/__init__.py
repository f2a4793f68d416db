"""One file per revision, in order."""
