"""What whoever watches over hosts is told: whether one is ready, figures, and lines of the log. No words of players."""
