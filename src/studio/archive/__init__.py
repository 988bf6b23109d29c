"""All that a player has in one archive of open files, and back."""
