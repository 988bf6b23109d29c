"""A function called in a process of its own, with an end to its time and memory: for what strangers' files may do.

Run as ``python -m giusto.limited``: pickled arguments come in, a pickled answer goes out.
"""

from __future__ import annotations

import os
import pickle
import resource
import subprocess
import sys
from collections.abc import Callable
from importlib import import_module
from typing import TypeVar

from giusto.errors import GiustoError

T = TypeVar("T")
STARTING_S = 30  # ours: a busy machine takes so long to import what is called
MEGABYTE = 1_000_000


def limited(function: Callable[..., T], *args: object, seconds: float, megabytes: int) -> T:
    """Return what a function returns, or raise what it raises of our own; end it where it takes too much.

    Parameters
    ----------
    function : callable
        Of a module's top level. Arguments and answer are pickled.
    seconds : float
        Of processor time, and of the clock a while more.
    megabytes : int
        Of memory.

    Raises
    ------
    GiustoError
        ``limit`` where it took longer, needed more memory, or ended without an answer.
    """
    name = f"{function.__module__}:{function.__qualname__}"
    command = [sys.executable, "-m", "giusto.limited", name, str(seconds), str(megabytes)]
    environment = {**os.environ, "PYTHONPATH": os.pathsep.join(filter(None, sys.path)), "OPENBLAS_NUM_THREADS": "1"}
    try:
        done = subprocess.run(
            command,
            input=pickle.dumps(args),
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            env=environment,
            timeout=2 * seconds + STARTING_S,
            check=False,
        )
    except subprocess.TimeoutExpired:
        raise GiustoError(f"it takes longer than {seconds:.0f} s to work with", code="limit") from None
    if done.returncode != 0 or not done.stdout:
        what = f"longer than {seconds:.0f} s or more than {megabytes:,} MB of memory"
        raise GiustoError(f"it takes {what} to work with", code="limit")
    fault, found = pickle.loads(done.stdout)  # noqa: S301 - from a process of our own
    if fault:
        raise GiustoError(found[0], code=found[1])
    answer: T = found
    return answer


def main(name: str, seconds: str, megabytes: str) -> None:
    """Call what is named with what comes in, under the limits, and write what comes out."""
    room = int(megabytes) * MEGABYTE
    resource.setrlimit(resource.RLIMIT_AS, (room, room))
    spare = int(float(seconds)) + 1
    resource.setrlimit(resource.RLIMIT_CPU, (spare, spare + 1))
    answers = os.dup(sys.stdout.fileno())
    os.dup2(sys.stderr.fileno(), sys.stdout.fileno())  # whatever else is printed is no answer
    args = pickle.load(sys.stdin.buffer)  # noqa: S301 - from a process of our own
    module, _, function = name.partition(":")
    try:
        found: tuple[bool, object] = (False, getattr(import_module(module), function)(*args))
    except GiustoError as error:
        found = (True, (str(error), error.code))
    with open(answers, "wb") as stream:
        pickle.dump(found, stream)


if __name__ == "__main__":
    main(*sys.argv[1:])
