"""All that is measured of one take, as ``reading/1``."""

from giusto.hearing.source import Source
from giusto.reading.analyse import Analysis, analyse
from giusto.reading.format import Reading, Thread, parse

__all__ = ["Analysis", "Reading", "Source", "Thread", "analyse", "parse"]
