"""A whole copy as one tar file: the database, the sounds, the key, and what each of them must be.

``database.dump`` comes first, ``recordings/...`` and ``secret-key`` after it, then ``authority/...``, by which a studio
vouches for itself, where there is one; ``manifest.json`` last. Sounds are held
by links of the file system from before the dump until they are written, so that each row of the dump finds its file
while people go on playing.
"""

from __future__ import annotations

import hashlib
import io
import json
import os
import shutil
import tarfile
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import IO, Any

import giusto
from launch import copies
from launch.cluster import Cluster
from launch.place import OWN, fail, say
from launch.tables import make_tables, secret_key
from launch.users import RECORDINGS, give, make_room, site_user

FORMAT = "backup/1"
DUMP, KEY, SOUNDS, MANIFEST = "database.dump", "secret-key", "recordings", "manifest.json"
AUTHORITY = "authority"  # of a studio: phones that trust it go on doing so
BLOCK = 1 << 20
MOST_MANIFEST = 100_000_000  # bytes; a million sounds


def write(cluster: Cluster, path: Path) -> int:
    """Write a copy of all that is kept, whole or not at all; return how many sounds it has.

    Raises
    ------
    OSError
        Where it can't be written: then nothing is left of it.
    """
    make_room()
    part = path.with_name(f".{path.name}.part")
    with tempfile.TemporaryDirectory(prefix="backup-", dir=OWN) as folder:
        held = Path(folder) / SOUNDS
        _hold(held)
        rows = copies.dump(cluster, Path(folder) / DUMP)
        _hold(held)
        key = Path(folder) / KEY
        key.write_text(secret_key(), encoding="ascii")
        try:
            part.unlink(missing_ok=True)
            part.touch(mode=0o600)
            with part.open("wb") as file, tarfile.open(fileobj=file, mode="w") as packed:
                sounds = sorted(one for one in held.rglob("*") if one.is_file())
                names = {DUMP: Path(folder) / DUMP, KEY: key}
                names |= {f"{SOUNDS}/{one.relative_to(held)}": one for one in sounds}
                names |= {f"{AUTHORITY}/{one.name}": one for one in sorted(_authority().glob("*.*"))}
                found = {name: _add(packed, name, one) for name, one in names.items()}
                plain = {"giusto": FORMAT, "version": giusto.__version__, "made_at": datetime.now(UTC).isoformat()}
                _add_bytes(packed, MANIFEST, json.dumps({**plain, "rows": rows, "files": found}, indent=1).encode())
            part.replace(path)
        finally:
            part.unlink(missing_ok=True)
    return len(sounds)


def put_back(cluster: Cluster, path: Path) -> None:
    """Make all as it was in a copy, checked whole before anything changes; what the copy lacks is said.

    The sounds come first, beside those that are there, then the database in one step: who is killed in between has
    sounds too many, which a sweep finds.
    """
    files = _checked(path)
    make_room()
    with tempfile.TemporaryDirectory(prefix="restore-", dir=OWN) as folder, tarfile.open(path) as packed:
        for name in files:
            _extract(packed, name, Path(folder) / name)
        with copies.restored(cluster, Path(folder) / DUMP) as connection:
            missing = [name for name in _named(connection) if f"{SOUNDS}/{name}" not in files]
            if missing:
                say(f"{len(missing)} sounds are missing in {path}, {missing[0]} for one: their takes come without them")
            _put(Path(folder) / SOUNDS, RECORDINGS)
            _put(Path(folder) / AUTHORITY, _authority())
            (Path(folder) / KEY).replace(OWN / KEY)
    _bring_over(cluster)


def rows_of(cluster: Cluster, path: Path, folder: Path) -> tuple[dict[str, int], dict[str, int]]:
    """Bring the database of a copy, checked whole, into a cluster that is thrown away; return its rows by table.

    Returns
    -------
    rows, told : dict
        As they came back, and as they were when it was copied.
    """
    files = _checked(path)
    with _opened(path) as packed:
        told = json.loads(_file(packed, MANIFEST).read()).get("rows", {})
        _extract(packed, DUMP, folder / DUMP)
    with copies.restored(cluster, folder / DUMP) as connection:
        if missing := [name for name in _named(connection) if f"{SOUNDS}/{name}" not in files]:
            say(f"{len(missing)} sounds are missing in {path}")
        return copies.counts(connection), told


def put_back_database(cluster: Cluster, path: Path) -> None:
    """Put back a copy of the database alone, as earlier versions made it."""
    with copies.restored(cluster, path):
        pass
    _bring_over(cluster)


def _bring_over(cluster: Cluster) -> None:
    """Bring tables that came back to this version; they are no half-made ones."""
    cluster.unfinished.unlink(missing_ok=True)
    make_tables(cluster)


@contextmanager
def _opened(path: Path) -> Iterator[tarfile.TarFile]:
    try:
        with tarfile.open(path) as packed:
            yield packed
    except (tarfile.TarError, EOFError) as error:
        fail(f"{path} is no whole backup: {error}")


def _checked(path: Path) -> dict[str, Any]:
    """Return the files of a copy by its manifest, or stop with what is wrong in it."""
    with _opened(path) as packed:
        members = packed.getmembers()
        names = [member.name for member in members]
        if MANIFEST not in names:
            fail(f"{path} is no whole backup: it has no {MANIFEST}, which is written last")
        files = _manifest(path, packed)
        odd = [one.name for one in members if not one.isfile() or not _is_ours(one.name)]
        odd += sorted({name for name in names if names.count(name) > 1}) if len(set(names)) < len(names) else []
        odd += sorted({*names} ^ {*files, MANIFEST})
        if odd:
            fail(f"{path} is not as it was written: {odd[0]} is missing, or does not belong there")
        for name, told in files.items():
            if _sum(packed, name) != told:
                fail(f"{path} is not as it was written: {name} was changed, or was cut short")
    return files


def _manifest(path: Path, packed: tarfile.TarFile) -> dict[str, Any]:
    try:
        if packed.getmember(MANIFEST).size > MOST_MANIFEST:
            raise ValueError
        plain = json.loads(_file(packed, MANIFEST).read())
        files, version = plain["files"], plain["version"]
        if plain["giusto"] != FORMAT or not isinstance(files, dict) or not {DUMP, KEY} <= files.keys():
            raise ValueError
        made_by = tuple(int(part) for part in version.split("."))
    except (ValueError, KeyError, TypeError, AttributeError, RecursionError):
        fail(f"{path} is no backup that this version can read: its {MANIFEST} is another")
    if made_by > tuple(int(part) for part in giusto.__version__.split(".")):
        fail(f"{path} was made by Giusto {version}, and this is {giusto.__version__}: restore it with the newer one")
    return files


def _is_ours(name: str) -> bool:
    """Whether a name may be in a copy: nothing leads out of it."""
    parts = Path(name).parts
    inside = bool(parts) and parts[0] in (SOUNDS, AUTHORITY) and len(parts) > 1 and ".." not in parts
    return name in (DUMP, KEY, MANIFEST) or inside


def _file(packed: tarfile.TarFile, name: str) -> IO[bytes]:
    if (file := packed.extractfile(name)) is None:
        raise tarfile.TarError(f"{name} is no file")
    return file


def _sum(packed: tarfile.TarFile, name: str) -> dict[str, Any]:
    """Return size and SHA-256 of a file of a copy."""
    with _file(packed, name) as file:
        digest = hashlib.file_digest(file, "sha256").hexdigest()  # type: ignore[arg-type]
    return {"bytes": packed.getmember(name).size, "sha256": digest}


def _extract(packed: tarfile.TarFile, name: str, at: Path) -> None:
    """Write a file of a copy; its name was looked at, and nothing else of its header counts."""
    at.parent.mkdir(parents=True, exist_ok=True)
    at.touch(mode=0o600)  # a key is among them
    with _file(packed, name) as file, at.open("wb") as written:
        shutil.copyfileobj(file, written, BLOCK)


def _add(packed: tarfile.TarFile, name: str, path: Path) -> dict[str, Any]:
    """Add a file; return its size and SHA-256."""
    with path.open("rb") as file:
        digest = hashlib.file_digest(file, "sha256").hexdigest()
        member = _header(name, os.fstat(file.fileno()).st_size)
        file.seek(0)
        packed.addfile(member, file)
    return {"bytes": member.size, "sha256": digest}


def _add_bytes(packed: tarfile.TarFile, name: str, content: bytes) -> None:
    packed.addfile(_header(name, len(content)), io.BytesIO(content))


def _header(name: str, size: int) -> tarfile.TarInfo:
    """Return the header of a file that tells nothing of this machine's users."""
    member = tarfile.TarInfo(name)
    member.size, member.mode = size, 0o600
    return member


def _hold(folder: Path) -> None:
    """Link every sound that is there into a folder: deleted meanwhile, it stays until it is written."""
    for path in RECORDINGS.rglob("*"):
        at = folder / path.relative_to(RECORDINGS)
        if path.is_file() and not path.is_symlink() and not at.exists():
            at.parent.mkdir(parents=True, exist_ok=True)
            try:
                os.link(path, at)
            except FileNotFoundError:  # deleted between the two lines
                continue
            except OSError:  # the recordings lie on another disk
                shutil.copyfile(path, at)


def _authority() -> Path:
    """Return where a studio's own authority lies (``launch/proxy.py``)."""
    return OWN / "caddy/pki/authorities/local"


def _put(folder: Path, where: Path) -> None:
    """Put the files of a copy where the site finds them, each in one step."""
    if not folder.exists():
        return
    where.mkdir(mode=0o700, parents=True, exist_ok=True)
    for path in folder.rglob("*"):
        at = where / path.relative_to(folder)
        if path.is_dir():
            at.mkdir(mode=0o700, parents=True, exist_ok=True)
        else:
            at.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
            path.chmod(0o600)
            path.replace(at)
    if user := site_user():
        give(where, user)


def _named(connection: Any) -> list[str]:
    """Return the files that the rows of a restored database name."""
    found: list[str] = []
    for table in ("takes_keptsound", "recordings_upload"):
        if connection.execute("select to_regclass(%s)", [table]).fetchone()[0]:
            rows = connection.execute(f"select file from {table} where file <> ''")  # noqa: S608 - names of ours
            found += [name for (name,) in rows.fetchall()]
    return found
