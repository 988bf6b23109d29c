"""What a player is working on, by when it is due."""
