"""The plan: a player's routine, what today holds, the weeks ahead, the calendar."""
