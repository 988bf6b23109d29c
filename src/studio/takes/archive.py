"""A take as files: the drill, the onsets, the reading, in one zip."""

from __future__ import annotations

import io
import json
import zipfile

import numpy as np

from giusto.onset_csv import write_onsets
from studio.takes.models import Take


def archive(take: Take) -> bytes:
    """Return the zip of a take that has been read."""
    files = {
        "drill.json": json.dumps(take.drill, indent=1, ensure_ascii=False) + "\n",
        "take.csv": write_onsets(np.array(take.onsets_s or [])),
        "reading.json": json.dumps(take.reading.spec, indent=1, ensure_ascii=False) + "\n",
    }
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as packed:
        for name, text in files.items():
            packed.writestr(name, text)
    return buffer.getvalue()
