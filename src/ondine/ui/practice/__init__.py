"""The practice place: hidden rigs to search on, and pictures to name."""
