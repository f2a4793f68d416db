"""Practising: searches on hidden rigs, and pictures to name against the clock."""
