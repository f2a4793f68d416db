"""Light and lens: how long the flash shines, what blurs, what is in focus, what the frame holds."""
