"""The table, stage by stage: a figure on the left that hands can move, and its fields on the right."""
