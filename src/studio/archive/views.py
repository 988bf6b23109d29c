"""All that a player has, sent as one file."""

from __future__ import annotations

import tempfile

from django.http import FileResponse
from django.utils import timezone
from django.views.decorators.http import require_safe

from studio.accounts.requests import PlayerRequest
from studio.archive.writing import write_archive
from studio.limits import takes_its_time


@takes_its_time
@require_safe
def take_out(request: PlayerRequest) -> FileResponse:
    """Send the archive; it is written to a file first, which goes when it is sent."""
    file = tempfile.TemporaryFile()  # noqa: SIM115 - the response closes it
    write_archive(request.user, file)
    file.seek(0)
    name = f"giusto-{timezone.localdate():%Y-%m-%d}.zip"
    return FileResponse(file, as_attachment=True, filename=name, content_type="application/zip")
