"""Reach: the longest silence that a player bridges at a tempo, and the length to try next."""
