"""``./giusto test``: style, types, imports, templates, style sheet, scripts, then every test.

``./giusto test LABEL ...`` runs only the tests named, without the other checks.
"""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from subprocess import PIPE, STDOUT

from launch import packages
from launch.cluster import Cluster, server_user
from launch.place import LOG, ROOT, fail, say

# What the tests need of Debian: a package, and a file that shows that it is there.
NEEDED = {
    "caddy": "bin/caddy",
    "chromium-headless-shell": "bin/chromium-headless-shell",
    "haproxy": "sbin/haproxy",  # before the hosts of a drill
    "libatomic1": "lib/*/libatomic.so.1",  # for the Node inside Playwright
    "libnss3-tools": "bin/certutil",  # for a browser to trust a studio's authority
    "midicsv": "bin/midicsv",  # another reader and writer of MIDI files
    "pgbouncer": "sbin/pgbouncer",
}
SERVICES = {"caddy", "haproxy", "pgbouncer"}  # Debian starts them with their package; the tests start their own
CHECKS = {
    "types": [["-m", "mypy"]],
    "style": [["-m", "ruff", "check", "."], ["-m", "ruff", "format", "--check", "."]],
    "imports": [["-c", "from importlinter.cli import lint_imports_command as run; run()"]],
    "templates": [["-m", "djlint", "src/studio", mode, "--quiet"] for mode in ("--lint", "--check")],
}
MANY = "tests.many"
ONE = [f"tests.{path.parent.name}" for path in sorted((ROOT / "tests").glob("*/__init__.py"))]


@dataclass(frozen=True, slots=True)
class Run:
    """Tests that run in one process, or several that it starts, on a database of their own."""

    name: str
    labels: list[str]
    settings: str = "test"
    way: tuple[str, ...] = ()
    is_told_at_once: bool = False


# Many tests wait, for a browser or for music: all go on at once.
RUNS = [
    # Sound falls behind on a busy machine: it goes first where that is allowed, and as the others where it is not.
    Run("sound", ["--tag", "sound", "tests.browser"], way=("nice", "-n", "-10")),
    Run("studio", [MANY], settings="test_studio"),  # players with accounts
    Run(
        "one",
        ["--parallel", "3", "--exclude-tag", "sound", *(label for label in ONE if label != MANY)],
        is_told_at_once=True,
    ),
]
QUICK = ["fsync=off", "synchronous_commit=off", "full_page_writes=off"]


def main() -> None:
    """Run all checks, or the tests named."""
    labels = sys.argv[1:]
    LOG.mkdir(parents=True, exist_ok=True)
    if missing := [package for package, file in NEEDED.items() if not any(Path("/usr").glob(file))]:
        packages.install(*missing)
        for service in SERVICES & set(missing):
            packages.stop_service(service)
    if labels:
        many = [label for label in labels if label.startswith(MANY)]
        one = [label for label in labels if label not in many]
        failed = ["tests"] if _tests(*_chosen(one, "test"), *_chosen(many, "test_studio")) else []
    else:
        with ThreadPoolExecutor(1) as beside:
            checked = beside.submit(_checks)
            failed = ["tests"] if _tests(*RUNS) else []
            failed += checked.result()
    if failed:
        fail(f"failed: {', '.join(failed)}")
    say("all passed")


def _chosen(labels: list[str], settings: str) -> list[Run]:
    """Return how the tests named are run, if any are."""
    return [Run(settings, ["--parallel", "2", *labels], settings, is_told_at_once=True)] if labels else []


def _checks() -> list[str]:
    """Return the checks that failed."""
    failed = [name for name in CHECKS if not _check(name)]
    return failed + [name for name, passes in WITH_NODE.items() if not _with_node(name, passes)]


def _check(name: str) -> bool:
    say(f"checking {name}")
    # Types of models are asked of Django itself, by its settings; no database is needed for it.
    django = {"DJANGO_SETTINGS_MODULE": "studio.settings.test", "GIUSTO_SECRET_KEY": "for checks only"}
    environment = {**os.environ, **django, "PYTHONPATH": str(ROOT / "src")}
    return all(
        subprocess.run([sys.executable, *command], cwd=ROOT, env=environment, check=False).returncode == 0
        for command in CHECKS[name]
    )


def _with_node(name: str, passes: Callable[[Path], bool]) -> bool:
    """Run a check that needs Node's packages; skipped where they can't be had."""
    say(f"checking {name}")
    npm = shutil.which("npm")
    if not npm:
        say(f"skipped: {name} is checked by Node, and there is none here")
        return True
    programs = ROOT / "node_modules/.bin"
    if not all((programs / program).exists() for program in ("tailwindcss", "tsc")):
        with (LOG / "npm.log").open("wb") as log:
            if subprocess.run([npm, "ci"], cwd=ROOT, stdout=log, stderr=log, check=False).returncode:
                say("skipped: npm could not install what checks it (see .giusto/log/npm.log)")
                return True
    return passes(programs)


def style_sheet_is_current(programs: Path) -> bool:
    """Compile the style sheet and compare it with the one that ships."""
    shipped = ROOT / "src/studio/static/giusto.css"
    with tempfile.TemporaryDirectory() as folder:
        made = Path(folder) / "giusto.css"
        command = [str(programs / "tailwindcss"), "-i", "src/studio/assets/app.css", "-o", str(made), "--minify"]
        done = subprocess.run(command, cwd=ROOT, capture_output=True, check=False)
        if done.returncode or made.read_bytes() != shipped.read_bytes():
            say("src/studio/static/giusto.css is not what its source makes: run 'npm run css'")
            return False
    return True


def scripts_are_typed(programs: Path) -> bool:
    """Check the page's scripts by the types in their comments."""
    return subprocess.run([str(programs / "tsc"), "-p", "tsconfig.json"], cwd=ROOT, check=False).returncode == 0


WITH_NODE = {"style sheet": style_sheet_is_current, "scripts": scripts_are_typed}


def _tests(*runs: Run) -> int:
    """Make a database server, and run all at once on it; return how many runs failed."""
    with tempfile.TemporaryDirectory(prefix="giusto-test-") as folder:
        if user := server_user(None):
            os.chown(folder, user.pw_uid, user.pw_gid)
        cluster = Cluster(Path(folder) / "cluster", settings=QUICK, safe=False)
        cluster.start()
        try:
            environment = {
                **os.environ,
                **cluster.environment,
                "OPENBLAS_NUM_THREADS": "1",  # two tests at a time use two processors
                "GIUSTO_SECRET_KEY": "for tests only",
                "GIUSTO_MEDIA_ROOT": f"{folder}/media",
                "PYTHONPATH": f"{ROOT / 'src'}{os.pathsep}{ROOT}",
            }
            with ThreadPoolExecutor(len(runs)) as together:
                return sum(together.map(lambda run: _run(run, environment), runs))
        finally:
            cluster.stop()


def _run(run: Run, environment: dict[str, str]) -> bool:
    """Run tests on a database and in a folder of their own; return whether any failed."""
    environment = {
        **environment,
        "DJANGO_SETTINGS_MODULE": f"studio.settings.{run.settings}",
        "GIUSTO_DB_NAME": f"giusto_{run.name}",
        "GIUSTO_MEDIA_ROOT": f"{environment['GIUSTO_MEDIA_ROOT']}/{run.name}",
    }
    command = [*run.way, sys.executable, "-m", "django", "test", "--timing", *run.labels]
    if run.is_told_at_once:
        return subprocess.run(command, cwd=ROOT, env=environment, check=False).returncode != 0
    done = subprocess.run(
        command, cwd=ROOT, env=environment, check=False, stdout=PIPE, stderr=STDOUT, text=True, errors="replace"
    )
    say(f"tests of {run.name}:\n{done.stdout}")
    return done.returncode != 0


if __name__ == "__main__":
    main()
