"""The plan: routine, day and weeks, rotation of keys, seasons, calendar file."""
