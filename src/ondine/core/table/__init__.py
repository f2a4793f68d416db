"""Judgement of the work at the table: edits, weighing, mixing, focus, results, cautions."""
