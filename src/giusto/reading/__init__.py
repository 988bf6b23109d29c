"""All that is measured of one take, as ``reading/1``."""

from giusto.reading.analyse import Analysis, analyse
from giusto.reading.format import Reading, Thread, parse

__all__ = ["Analysis", "Reading", "Thread", "analyse", "parse"]
