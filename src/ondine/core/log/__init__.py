"""What the log makes of its shots: figures to find and compare them by, and which picture belongs to which shot."""
