"""What must be of this version before the first page: keys by the rule of now, the files that ship."""

from __future__ import annotations

import sys


def settle() -> None:
    """Bring both to it; Django is set up."""
    from django.core.management import call_command

    call_command("rekey", "--if-stale", stdout=sys.stderr)
    call_command("collectstatic", verbosity=0, interactive=False, ignore_patterns=["ext", "htmax*"])
