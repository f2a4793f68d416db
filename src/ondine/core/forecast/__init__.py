"""Set-up, belief and sequence to everything that happens, with its spread."""
