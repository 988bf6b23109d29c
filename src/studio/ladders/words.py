"""A ladder in words: its rungs, its rule, what is asked now and why."""

from __future__ import annotations

from datetime import date

from django.utils import formats

from giusto.practice.ladder import Ladder as CoreLadder
from giusto.practice.ladder import Step
from giusto.practice.ladder.file import Edge, Stay, Streak, VaryNotes, VarySilence, VaryTempo, Week
from studio.drills.sentence.note_words import note_word
from studio.ladders.standing import Done, Standing
from studio.words import minutes, number

NEAR_DAYS = 7  # ours: a day this near goes by its name


def value_word(ladder: CoreLadder, rung: int) -> str:
    """Return what stands beside a rung: ``84``, ``3 silent``, ``eighths``, a drill's name."""
    value, drill = ladder.values[rung - 1], ladder.drills[rung - 1]
    if isinstance(ladder.vary, VaryTempo):
        return f"{value:g}"
    if isinstance(ladder.vary, VarySilence):
        return f"{value:g} silent"
    if isinstance(ladder.vary, VaryNotes):
        return note_word(drill.tempo.beat, drill.part.grid)
    return drill.name or f"Step {rung}"


def rung_word(ladder: CoreLadder, rung: int) -> str:
    """Return a rung as it stands in a sentence: ``84``, ``3 silent cycles``, ``eighths``, ``“One note”``."""
    word = value_word(ladder, rung)
    if isinstance(ladder.vary, VarySilence):
        return f"{word} cycle{'' if ladder.values[rung - 1] == 1 else 's'}"
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


def why(ladder: CoreLadder, step: Step, today: date, *, is_off: bool = False) -> str:
    """Return why a rung is asked for, in a sentence or two."""
    here, ended = rung_word(ladder, step.rung), rung_word(ladder, min(step.ended, len(ladder.values)))
    after = f"Then {rung_word(ladder, step.rung + 1)}." if step.rung < len(ladder.values) else "It is the last rung."
    returning = f"One clean take a rung leads back to {ended}."
    off_day = f"An off day: one clean take more a rung, and nothing above {ended}."
    told = {
        "first": f"The first rung. {after}",
        "streak": after,
        "stay": f"Clean minutes add up, over days too. {after}",
        "fell": f"What was not clean leads back here, before a mistake is learned. {after}",
        "moved": f"You chose {here}: counting starts here. {after}",
        "next day": f"A new day begins a little below where the last one ended. {returning}",
        "break": f"{_days(step.away)} away: it begins further back. {returning}",
        "returning": returning,
        "stayed": f"Passed. It stays here for the rest of today; next time {rung_word(ladder, _above(ladder, step))}.",
        "edge": _edge(ladder, step, today),
        "overnight": f"Slept on: it begins at what was secure. {after}",
        "week reached": "This week’s goal is reached. It goes on next week.",
        "band": _band(step),
        "off day": off_day,
        "done": "Nothing more is asked. Set another goal, or climb something else.",
    }
    is_said = step.why == "off day" or not is_off or step.done
    return told[step.why] if is_said else f"{off_day} {told[step.why]}"


def reason(standing: Standing, today: date) -> str:
    """Return the one measured reason for what is asked, such as ``84, one rung below Tuesday``."""
    core, step = standing.ladder.core, standing.step
    here, ended = rung_word(core, step.rung), rung_word(core, min(step.ended, len(core.values)))
    last = standing.attempts[-1].at.date() if standing.attempts else today
    down = step.ended - step.rung
    below = f"{number(down)} rung{'' if down == 1 else 's'} below {day_word(last, today)}" if down > 0 else ""
    if step.done:
        return f"{here}: the top, kept fresh"
    if step.why in ("next day", "break"):
        away = f"{_days(step.away).lower()} away, so " if step.why == "break" else ""
        return f"{here}, {away}{below}" if below else f"{here}, as {day_word(last, today)}"
    if step.why == "edge" and step.edge:
        return f"{here}: {rung_word(core, step.edge.rung)} was the edge {_on(step.edge.day, today)}"
    if step.why == "band" and step.chance:
        return f"{here}: {100 * step.chance.estimate:.0f} of 100 takes should be clean here"
    told = {
        "first": "the first rung",
        "returning": f"on the way back to {ended}",
        "fell": "what was not clean leads back here",
        "moved": "you chose it",
        "overnight": "slept on, the check is due",
        "stayed": "passed, and kept for today",
        "week reached": "this week’s goal is reached",
        "off day": "an off day",
    }
    return f"{here}: {told.get(step.why) or counted(step)}"


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
    if one.clean is None:
        return f"Nobody can say yet whether this one at {here} was clean."
    found = f"{'Clean' if one.clean else 'Not clean'} at {here}{' by your word' if one.said is not None else ''}"
    if after.done and not before.done:
        return f"{found}: the top is reached."
    if after.secure > before.secure:
        return f"{found}: {rung_word(ladder, after.secure)} is secure."
    if after.edge and not before.edge:
        return f"{found}: that is the edge. No higher until {day_word(after.edge.until, today)}."
    if after.rung < one.rung and not one.clean:
        return f"{found}: back to {rung_word(ladder, after.rung)}."
    if after.rung > one.rung:
        return f"{found}: on to {rung_word(ladder, after.rung)}."
    return f"{found}."


def goal(standing: Standing) -> str:
    """Return where a ladder stands, for a list of them."""
    core, step = standing.ladder.core, standing.step
    last = rung_word(core, len(core.values))
    if not standing.tried:
        return f"Not begun. From {rung_word(core, 1)} to {last}."
    secure = f"{rung_word(core, step.secure)} is secure" if step.secure else "Nothing secure yet"
    return f"{_first_up(secure)}; the goal is {last}."


def school(ladder: CoreLadder) -> str:
    """Return a ladder's rule in a few words."""
    rule = ladder.rule
    if isinstance(rule, Streak):
        return "up after each clean take" if rule.clean == 1 else f"up after {number(rule.clean)} clean in a row"
    if isinstance(rule, Stay):
        return f"up the next day, after {rule.minutes:g} clean minutes"
    if isinstance(rule, Edge):
        return f"to the edge by {number(rule.clean)} clean, then sleep on it"
    if isinstance(rule, Week):
        return f"up after {number(rule.clean)} clean, at most {rule.by:g} a week"
    return f"kept where {100 * rule.low:.0f} to {100 * rule.high:.0f} of 100 takes are clean"


def _edge(ladder: CoreLadder, step: Step, today: date) -> str:
    if not step.edge:
        return ""
    found = f"{_first_up(rung_word(ladder, step.edge.rung))} was the edge {_on(step.edge.day, today)}."
    waits = f"No higher until {day_word(step.edge.until, today)}: sleep on it."
    return f"{found} {waits}"


def _band(step: Step) -> str:
    if step.chance is None:
        return ""
    low, high = (100 * end for end in step.chance.ci95)
    return f"Here {100 * step.chance.estimate:.0f} of 100 takes should be clean ({low:.0f} to {high:.0f})."


def _above(ladder: CoreLadder, step: Step) -> int:
    return min(step.rung + 1, len(ladder.values))


def _on(day: date, today: date) -> str:
    word = day_word(day, today)
    return word if word in ("today", "yesterday") else f"on {word}"


def _days(away: int) -> str:
    return f"{number(away).capitalize()} day{'' if away == 1 else 's'}"


def _first_up(text: str) -> str:
    return text[0].upper() + text[1:]
