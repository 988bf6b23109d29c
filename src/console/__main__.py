"""The commands on files: ``./giusto schedule``, ``analyse``, ``advise`` and the others of ``COMMANDS``.

Results go to standard output and messages to standard error. Exit 0 on success, 2 on bad input with
one clear line. No command here needs a database.
"""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence
from importlib import import_module
from types import ModuleType
from typing import NoReturn

from giusto.errors import GiustoError

# Each with its module in this package, loaded only where it is asked for: a command answers within a second.
COMMANDS = {
    "schedule": "schedule",
    "analyse": "analyse",
    "onsets": "onsets",
    "advise": "advise",
    "simulate": "simulate",
    "render": "render",
    "next": "next_step",
    "buildup": "buildup",
    "reach": "reach",
    "change": "change",
    "rush": "rush",
    "passage": "passage",
    "plan": "plan",
    "bench": "bench",
}


class Parser(argparse.ArgumentParser):
    """A parser that says what is wrong in one line."""

    def error(self, message: str) -> NoReturn:
        """Print the line and exit with 2."""
        self.exit(2, f"{self.prog.removeprefix('./')}: {one_line(message)} (--help shows the arguments)\n")


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command and return its exit status."""
    parser = Parser(prog="./giusto", description="Measure what your time did.")
    commands = parser.add_subparsers(dest="command", required=True, metavar="COMMAND")
    modules = _modules(sys.argv[1:] if arguments is None else arguments)
    for name, module in modules.items():
        summary = (module.__doc__ or "").splitlines()[0]
        module.add_arguments(commands.add_parser(name, help=summary, description=summary))
    chosen = parser.parse_args(arguments)
    try:
        modules[chosen.command].run(chosen)
        sys.stdout.flush()
    except GiustoError as error:
        print(f"giusto {chosen.command}: {one_line(str(error))}", file=sys.stderr)
        return 2
    except OSError as error:
        if isinstance(error, BrokenPipeError):
            sys.stderr.close()
            return 0
        where = one_line(str(error.filename or getattr(chosen, "out", None) or "standard output"))
        print(f"giusto {chosen.command}: {where}: {error.strerror}", file=sys.stderr)
        return 2
    except KeyboardInterrupt:
        return 130
    return 0


def _modules(arguments: Sequence[str]) -> dict[str, ModuleType]:
    """Return the module of the command that comes first; of all commands, where none does."""
    asked = next(iter(arguments), "")
    names = {asked: COMMANDS[asked]} if asked in COMMANDS else COMMANDS
    return {name: import_module(f"console.{module}") for name, module in names.items()}


def one_line(text: str) -> str:
    """Return a message without line breaks or control characters."""
    return "".join(c if c.isprintable() else " " for c in text)


if __name__ == "__main__":
    sys.exit(main())
