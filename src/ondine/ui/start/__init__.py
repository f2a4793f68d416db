"""Where one begins: what opens the valve, and which logbook is open."""
