"""The judge: what a reading shows, what to play next; ladders, reach, ceiling, habits and changes over takes."""
