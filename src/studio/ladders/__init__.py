"""Ladders: an exercise and the rungs it is climbed by, where its takes stand on them, and what is next."""
