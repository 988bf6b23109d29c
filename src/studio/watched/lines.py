"""A line of the log as JSON, with the number of its request and nothing that a player wrote."""

from __future__ import annotations

import json
import logging
from contextvars import ContextVar
from datetime import UTC, datetime

REQUEST: ContextVar[str] = ContextVar("request", default="")
LONGEST = 2000


class JsonLines(logging.Formatter):
    """Formats a record as one line of JSON."""

    def format(self, record: logging.LogRecord) -> str:
        """Return the line: when, how grave, by whom, what, of which request; a traceback where there is one."""
        said = {
            "at": datetime.fromtimestamp(record.created, UTC).isoformat(timespec="milliseconds"),
            "level": record.levelname,
            "by": record.name,
            "what": record.getMessage()[:LONGEST],
        }
        if request := REQUEST.get():
            said["request"] = request
        if record.exc_info:
            said["trace"] = self.formatException(record.exc_info)
        return json.dumps(said, ensure_ascii=False)
