"""The one family of errors that bad input raises."""

from __future__ import annotations

from dataclasses import dataclass

MOST_TOLD = 20  # ours: faults of one file that its message names


class GiustoError(ValueError):
    """Input that breaks a rule; its text says what, the rule, what came and where.

    Parameters
    ----------
    message : str
        One line for a person.
    code : str
        One stable word for a program, such as ``"not_ascending"``.
    """

    def __init__(self, message: str, *, code: str) -> None:
        super().__init__(message)
        self.code = code


@dataclass(frozen=True, slots=True)
class Fault:
    """One thing wrong in a drill file."""

    path: str
    problem: str
    code: str

    def __str__(self) -> str:
        return f"{self.path}: {self.problem}" if self.path else self.problem


class DrillError(GiustoError):
    """A drill that breaks ``drill/1``, with every fault found.

    Parameters
    ----------
    faults : sequence of Fault
        At least one, in the order of the file.
    """

    def __init__(self, faults: list[Fault]) -> None:
        told = [str(fault) for fault in faults[:MOST_TOLD]]
        if len(faults) > MOST_TOLD:
            told.append(f"and {len(faults) - MOST_TOLD} more")
        super().__init__("; ".join(told), code=faults[0].code)
        self.faults = tuple(faults)
