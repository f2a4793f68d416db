"""What is remembered: the logbook file, the pictures it points to, and what travels in and out."""
