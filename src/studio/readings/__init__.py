"""Readings: what a take's time did, beside the player's habit, and what to play next."""
