"""Gunicorn's parts that are ours: a worker that waits for nobody who stops in mid-request, and a log of JSON lines."""

from __future__ import annotations

import socket
import struct
from typing import Any

from gunicorn.glogging import Logger  # type: ignore[import-untyped]
from gunicorn.workers.gthread import ThreadWorker  # type: ignore[import-untyped]

from studio.spool import own_spool
from studio.watched.lines import JsonLines

SILENT_S = 10  # ours: a browser on this machine never pauses so long in what it sends


class ImpatientWorker(ThreadWorker):  # type: ignore[misc]  # gunicorn has no types
    """Ends a connection on which nothing comes for a while: eight with half a header held up all threads once."""

    def init_process(self) -> None:
        """Begin, with a folder for what is being sent."""
        own_spool()
        super().init_process()

    def handle(self, conn: Any) -> Any:
        """Handle a request on a connection."""
        conn.sock.setsockopt(socket.SOL_SOCKET, socket.SO_RCVTIMEO, struct.pack("ll", SILENT_S, 0))
        return super().handle(conn)


class LinesLog(Logger):  # type: ignore[misc]
    """What gunicorn says of itself, as the site's own log: a line of JSON each."""

    def setup(self, cfg: Any) -> None:
        """Begin as gunicorn does, and write as we do."""
        super().setup(cfg)
        for handler in self.error_log.handlers:
            handler.setFormatter(JsonLines())
