"""A ladder in words: its rungs, its rule, what is asked now and why."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date

from django.utils import formats

from giusto.plan.day import RECENT
from giusto.practice.ladder import Ladder as CoreLadder
from giusto.practice.ladder import Step, Why
from giusto.practice.ladder.rungs import VaryNotes, VarySilence, VaryTempo
from studio.drills.sentence.note_words import note_word
from studio.ladders.schools import SCHOOLS
from studio.ladders.standing import Done, LadderStanding
from studio.words import minutes, number

NEAR_DAYS = 7  # ours: a day this near goes by its name


def value_word(ladder: CoreLadder, rung: int) -> str:
    """Return what stands beside a rung: ``84``, ``3 silent``, ``eighths``, a drill's name."""
    value, drill = ladder.values[rung - 1], ladder.drills[rung - 1]
    if isinstance(ladder.vary, VaryTempo):
        return f"{value:g}"
    if isinstance(ladder.vary, VarySilence):
        return f"{value:g} alone"
    if isinstance(ladder.vary, VaryNotes):
        return note_word(drill.tempo.beat, drill.part.grid)
    return drill.name or f"Step {rung}"


def rung_word(ladder: CoreLadder, rung: int) -> str:
    """Return a step as it stands in a sentence: ``84``, ``3 bars alone``, ``eighths``, ``“One note”``."""
    word = value_word(ladder, rung)
    if isinstance(ladder.vary, VarySilence):
        value = ladder.values[rung - 1]
        return f"{value:g} bar{'' if value == 1 else 's'} alone"
    return word if isinstance(ladder.vary, VaryTempo | VaryNotes) else f"“{word}”"


def day_word(day: date, today: date) -> str:
    """Return a day as one speaks of it."""
    away = (today - day).days
    if away in (0, 1, -1):
        return {0: "today", 1: "yesterday", -1: "tomorrow"}[away]
    return formats.date_format(day, "l" if 0 < away < NEAR_DAYS else "j F")


def asked(ladder: CoreLadder, step: Step) -> str:
    """Return what a rung asks for, such as ``Two more clean at 84``."""
    here = rung_word(ladder, step.rung)
    if step.done:
        return "Climbed to the top"
    if step.needs is None:
        return f"{_first_up(here)}, as often as you like"
    if "minutes" in step.needs:
        return f"{minutes(60 * (step.needs['minutes'] - step.needs['so_far']))} more, clean, at {here}"
    left = int(step.needs["clean"] - step.needs["so_far"])
    return f"{number(left).capitalize()}{' more' if step.needs['so_far'] else ''} clean at {here}"


@dataclass(frozen=True, slots=True)
class _Told:
    """What a reason is made of: where one stands, and the words for it."""

    ladder: CoreLadder
    step: Step
    today: date
    last: date

    @property
    def here(self) -> str:
        return rung_word(self.ladder, self.step.rung)

    @property
    def above(self) -> str:
        return rung_word(self.ladder, min(self.step.rung + 1, len(self.ladder.values)))

    @property
    def ended(self) -> str:
        return rung_word(self.ladder, min(self.step.ended, len(self.ladder.values)))

    @property
    def after(self) -> str:
        return f"Then {self.above}." if self.step.rung < len(self.ladder.values) else "It is the last step."

    @property
    def returning(self) -> str:
        return f"One clean take a step leads back to {self.ended}."

    @property
    def below(self) -> str:
        down = self.step.ended - self.step.rung
        if down <= 0:
            return f"as {day_word(self.last, self.today)}"
        return f"{number(down)} step{'' if down == 1 else 's'} below {day_word(self.last, self.today)}"

    @property
    def edge(self) -> str:
        edge = self.step.edge
        return f"{rung_word(self.ladder, edge.rung)} was the edge {_on(edge.day, self.today)}" if edge else ""

    @property
    def chance(self) -> str:
        return f"{100 * self.step.chance.estimate:.0f} of 100 takes should be clean" if self.step.chance else ""


def _edge_sentence(told: _Told) -> str:
    edge = told.step.edge
    if not edge:
        return ""
    return f"{_first_up(told.edge)}. No higher until {day_word(edge.until, told.today)}: sleep on it."


def _band_sentence(told: _Told) -> str:
    if told.step.chance is None:
        return ""
    low, high = (100 * end for end in told.step.chance.ci95)
    return f"Here {told.chance} ({low:.0f} to {high:.0f})."


def _off_day(told: _Told) -> str:
    return f"An off day: one clean take more a step, and nothing above {told.ended}."


# Why a rung is asked for: in a sentence or two, and as the one measured reason behind the rung's word.
REASONS: dict[Why, tuple[Callable[[_Told], str], Callable[[_Told], str]]] = {
    Why.FIRST: (lambda t: f"The first step. {t.after}", lambda t: "the first step"),
    Why.STREAK: (lambda t: t.after, lambda t: counted(t.step)),
    Why.TOTAL: (lambda t: f"In a row or not, over days too. {t.after}", lambda t: counted(t.step)),
    Why.STAY: (lambda t: f"Clean minutes add up, over days too. {t.after}", lambda t: counted(t.step)),
    Why.FELL: (
        lambda t: f"What was not clean leads back here, before a mistake is learned. {t.after}",
        lambda t: "what was not clean leads back here",
    ),
    Why.MOVED: (lambda t: f"You chose {t.here}: counting starts here. {t.after}", lambda t: "you chose it"),
    Why.NEXT_DAY: (
        lambda t: f"A new day begins a little below where the last one ended. {t.returning}",
        lambda t: t.below,
    ),
    Why.BREAK: (
        lambda t: f"{_days(t.step.away)} away: it begins further back. {t.returning}",
        lambda t: f"{_days(t.step.away).lower()} away, so {t.below}",
    ),
    Why.RETURNING: (lambda t: t.returning, lambda t: f"on the way back to {t.ended}"),
    Why.STAYED: (
        lambda t: f"Passed. It stays here for the rest of today; next time {t.above}.",
        lambda t: "passed, and kept for today",
    ),
    Why.EDGE: (_edge_sentence, lambda t: t.edge or counted(t.step)),
    Why.OVERNIGHT: (
        lambda t: f"Slept on: it begins at what was held. {t.after}",
        lambda t: "slept on, the check is due",
    ),
    Why.WEEK_REACHED: (
        lambda t: "This week’s goal is reached. It goes on next week.",
        lambda t: "this week’s goal is reached",
    ),
    Why.BAND: (_band_sentence, lambda t: f"{t.chance} here"),
    Why.OFF_DAY: (_off_day, lambda t: "an off day"),
    Why.DONE: (
        lambda t: "Nothing more is asked. Set another goal, or climb something else.",
        lambda t: "the top, kept fresh",
    ),
}


def why(ladder: CoreLadder, step: Step, today: date, *, is_off: bool = False) -> str:
    """Return why a rung is asked for, in a sentence or two."""
    told = _Told(ladder, step, today, today)
    said = REASONS[step.why][0](told)
    return said if step.why == Why.OFF_DAY or not is_off or step.done else f"{_off_day(told)} {said}"


def reason(standing: LadderStanding, today: date) -> str:
    """Return the one measured reason for what is asked, such as ``84, one rung below Tuesday``."""
    core, step = standing.ladder.core, standing.step
    last = standing.attempts[-1].at.date() if standing.attempts else today
    told = _Told(core, step, today, last)
    sign = "," if step.why in (Why.NEXT_DAY, Why.BREAK) else ":"
    return f"{told.here}{sign} {REASONS[step.why][1](told)}{_tally(standing) if step.why == Why.BAND else ''}"


def _tally(standing: LadderStanding) -> str:
    """Return how many of the last attempts were clean: what a ladder of *mostly right* goes by."""
    lately = [attempt.cleanness for attempt in standing.attempts[-RECENT:]]
    return f"; {round(sum(lately))} of the last {len(lately)} were" if lately else ""


def counted(step: Step) -> str:
    """Return how much of what passes a rung is there: ``2 of 3 clean``."""
    if step.needs is None:
        return "nothing more is asked"
    if "minutes" in step.needs:
        return f"{step.needs['so_far']:.0f} of {step.needs['minutes']:g} minutes"
    return f"{step.needs['so_far']:.0f} of {step.needs['clean']:.0f} clean"


def effect(done: Done, ladder: CoreLadder, today: date) -> str:
    """Return what a take did to its ladder."""
    one, before, after = done.tried, done.before, done.after
    here = rung_word(ladder, one.rung)
    if one.is_asked:
        return f"Nobody can say yet whether this one at {here} was clean."
    if one.chance is not None and one.clean is None:
        found = f"Open at {here}: one take tells too little, clean by {10 * one.chance:.0f} chances in ten"
    else:
        found = f"{'Clean' if one.clean else 'Not clean'} at {here}{' by your word' if one.said is not None else ''}"
    if after.done and not before.done:
        return f"{found}: the top is reached."
    if after.secure > before.secure:
        return f"{found}: {rung_word(ladder, after.secure)} is held."
    if after.edge and not before.edge:
        return f"{found}: that is the edge. No higher until {day_word(after.edge.until, today)}."
    if after.rung < one.rung and one.clean is False:
        return f"{found}: back to {rung_word(ladder, after.rung)}."
    if after.rung > one.rung:
        return f"{found}: on to {rung_word(ladder, after.rung)}."
    return f"{found}."


def goal(standing: LadderStanding) -> str:
    """Return where a ladder stands, for a list of them."""
    core, step = standing.ladder.core, standing.step
    last = rung_word(core, len(core.values))
    if not standing.tried:
        return f"Not begun. From {rung_word(core, 1)} to {last}."
    secure = f"{rung_word(core, step.secure)} is held" if step.secure else "Nothing held yet"
    return f"{_first_up(secure)}; the goal is {last}."


def school(ladder: CoreLadder) -> str:
    """Return a ladder's rule in a few words."""
    return SCHOOLS[ladder.rule.kind].short(ladder.rule)


def _on(day: date, today: date) -> str:
    word = day_word(day, today)
    return word if word in ("today", "yesterday") else f"on {word}"


def _days(away: int) -> str:
    return f"{number(away).capitalize()} day{'' if away == 1 else 's'}"


def _first_up(text: str) -> str:
    return text[0].upper() + text[1:]
