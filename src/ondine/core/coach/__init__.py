"""Learning a rig from its shots, and proposing the next one."""
