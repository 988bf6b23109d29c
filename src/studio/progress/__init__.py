"""Progress: how long silences are held, how time got better over weeks and by how much, a month on one page."""
