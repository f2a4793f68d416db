"""The demo: *Tidal Mill*, twelve prints for the foyer of a restored tide mill. Invented from end to end."""
