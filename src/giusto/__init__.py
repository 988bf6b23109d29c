"""The core of Giusto: what a drill asks, what a player did, and how sure that is.

No Django, no HTML, no clock and no global random numbers live here. Seconds inside, milliseconds
and beats per minute at the edges; positive is late (see ``docs/glossary.md``).
"""

__version__ = "0.8.0"
