"""Small scores as MusicXML, written bar by bar: an invented player's invented pieces."""

from __future__ import annotations

import io
import zipfile

DIVISIONS = 12  # of a quarter
LENGTHS = {"w": 48, "h": 24, "q": 12, "e": 6, "s": 3, "t": 4, "q.": 18, "h.": 36, "e.": 9}
PITCH = "<pitch><step>C</step><octave>5</octave></pitch>"
THIRD = "<time-modification><actual-notes>3</actual-notes><normal-notes>2</normal-notes></time-modification>"
MARKS = "~_r+"


def note(word: str, staff: int = 1) -> str:
    """Return a note: ``q`` a quarter, ``t`` of a triplet, ``~`` tied on, ``_`` tied to, ``r`` rest, ``+`` chord."""
    place = f"<voice>{staff}</voice>"
    if word == "grace":
        return f"<note><grace/>{PITCH}{place}<staff>{staff}</staff></note>"
    length = word.strip(MARKS)
    what = "<rest/>" if "r" in word else PITCH
    ties = ("<tie type='stop'/>" if "_" in word else "") + ("<tie type='start'/>" if "~" in word else "")
    chord, third = "<chord/>" if "+" in word else "", THIRD if length == "t" else ""
    lasts = f"<duration>{LENGTHS[length]}</duration>"
    return f"<note>{chord}{what}{lasts}{ties}{place}{third}<staff>{staff}</staff></note>"


def bar(
    words: str, *, number: int, metre: str = "", repeat: str = "", ending: int = 0, lower: str = "", tempo: int = 0
) -> str:
    """Return a bar; ``repeat`` holds ``<`` where one begins and ``>`` where one ends."""
    beats, _, kind = metre.partition("/")
    time = f"<time><beats>{beats}</beats><beat-type>{kind}</beat-type></time>" if metre else ""
    staves = "<staves>2</staves>" if lower else ""
    head = f"<attributes><divisions>{DIVISIONS}</divisions>{time}{staves}</attributes>" if metre else ""
    sound = f"<direction><sound tempo='{tempo}'/></direction>" if tempo else ""
    begin = "<repeat direction='forward'/>" if "<" in repeat else ""
    volta = f"<ending number='{ending}' type='start'/>" if ending else ""
    left = f"<barline location='left'>{volta}{begin}</barline>" if begin or volta else ""
    end = f"<ending number='{ending}' type='stop'/>" if ending else ""
    back = "<repeat direction='backward'/>" if ">" in repeat else ""
    right = f"<barline location='right'>{end}{back}</barline>" if end or back else ""
    upper = "".join(note(word) for word in words.split())
    timed = [word.strip(MARKS) for word in words.split() if word != "grace" and "+" not in word]
    under = f"<backup><duration>{sum(LENGTHS[word] for word in timed)}</duration></backup>" if lower else ""
    under += "".join(note(word, 2) for word in lower.split())
    return f"<measure number='{number}'>{head}{left}{sound}{upper}{under}{right}</measure>"


def musicxml(*bars: str, title: str = "Lanterns for Odo", parts: tuple[str, ...] = ("Marimba",)) -> bytes:
    """Return a score of one part, or the same bars in several."""
    named = (f"<score-part id='P{n}'><part-name>{name}</part-name></score-part>" for n, name in enumerate(parts))
    listed = f"<part-list>{''.join(named)}</part-list>"
    played = "".join(f"<part id='P{n}'>{''.join(bars)}</part>" for n, _ in enumerate(parts))
    work = f"<work><work-title>{title}</work-title></work>"
    head = "<?xml version='1.0' encoding='UTF-8'?><score-partwise version='3.1'>"
    return f"{head}{work}{listed}{played}</score-partwise>".encode()


def kit(**parts: tuple[str, ...]) -> bytes:
    """Return a score of several parts, each with bars of its own, such as hat and kick."""
    whole = musicxml("", parts=tuple(name.capitalize() for name in parts)).decode()
    for number, bars in enumerate(parts.values()):
        whole = whole.replace(f"<part id='P{number}'></part>", f"<part id='P{number}'>{''.join(bars)}</part>")
    return whole.encode()


def compressed(score: bytes, *, path: str = "score.xml") -> bytes:
    """Return a score as ``.mxl``."""
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as bundle:
        container = f"<container><rootfiles><rootfile full-path='{path}'/></rootfiles></container>"
        bundle.writestr("META-INF/container.xml", container)
        bundle.writestr("score.xml", score)
    return buffer.getvalue()
