"""Keys and touch: stamps of the page's clock, brought over by pairs of page and audio time."""

from studio.takes.sources.source import NoteSource, stamped

SOURCE = NoteSource(stamped)
