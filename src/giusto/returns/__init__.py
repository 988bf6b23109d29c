"""Returns of silences: how a player drifts in them over takes, and the chance that each was held."""
