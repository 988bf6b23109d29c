"""Players whose truth is known, and how true their readings are."""
