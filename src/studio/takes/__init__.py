"""Takes: playing one, keeping it, reading it."""
