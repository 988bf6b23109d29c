"""A piece from its score, to be looked at before it is kept."""

from __future__ import annotations

from giusto.drill.passage import Score, ScorePart, read_score_apart
from giusto.errors import GiustoError
from giusto.plan.piece import MOST_BARS, even_begins
from studio.accounts.models import Player
from studio.pieces import actions
from studio.pieces.forms import USUAL_GOAL_BPM, USUAL_SIZE
from studio.pieces.music import kept_music

MAKER = "studio.pieces.scores.make"


def make(player: Player, content: bytes, name: str, words: dict[str, str]) -> tuple[str, str]:
    """Make a draft of a piece; return its address, and nothing to tell.

    Raises
    ------
    GiustoError
        Where the score can't be read, or its part makes no piece.
    PieceError
        Where the player has too many.
    """
    score = read_score_apart(content)
    part = score.part(words["part"].strip() or None)
    numbers = _numbers(part)
    first, last = min(numbers), max(numbers)
    music = kept_music(part)
    piece = actions.keep_piece(
        player=player,
        is_draft=True,
        name=words["name"] or (score.title or part.name)[:100] or "A piece",
        goal_bpm=_tempo(score, part) or USUAL_GOAL_BPM,
        first_bar=first,
        last_bar=last,
        begins=even_begins(first, last, USUAL_SIZE),
        music=music,
        by_hands=len(music["hands"]) > 1,
        score=content,
        score_name=name,
    )
    return piece.get_absolute_url(), ""


def _numbers(part: ScorePart) -> list[int]:
    """Return the printed numbers of a part's bars.

    Raises
    ------
    GiustoError
        Where none has one, or they are too many.
    """
    numbers = [int(bar.number) for bar in part.hands[""] if bar.number.isdecimal()]
    if not numbers:
        raise GiustoError("no bar of the score has a number", code="bars")
    if max(numbers) > MOST_BARS:
        raise GiustoError(f"the score has a bar {max(numbers)}, allowed are {MOST_BARS}", code="bars")
    return numbers


def _tempo(score: Score, part: ScorePart) -> float | None:
    """Return the score's tempo in beats of its first bar."""
    if score.quarters_a_minute is None:
        return None
    return round(score.quarters_a_minute / float(4 * part.hands[""][0].beat), 2)
