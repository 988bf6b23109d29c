"""What a player is working on."""
