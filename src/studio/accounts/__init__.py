"""Players: whose takes they are."""
