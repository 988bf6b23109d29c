"""The columns and rows that sheet and plumb line share, in px.

Time runs down the page: a row is a cycle, and a moment's height is its place in drill time. The
same picture is laid out for three widths of page; each keeps its text at 13 px or more.
"""

from __future__ import annotations

from dataclasses import dataclass

from giusto.schedule import Schedule

SHEET_HEIGHT = 560  # of a whole sheet; rows share it
FULL_ROW, LEAST_ROW = 35.0, 2.0
LINE_AT = 0.52  # of a row, where its line lies


@dataclass(frozen=True, slots=True)
class Columns:
    """Where the columns of a picture stand.

    Attributes
    ----------
    width : float
        Of the whole picture.
    word_x : float
        Left edge of the stretch words, below 0 where there is no room for them.
    number_x : float
        Right edge of the cycle numbers.
    sheet_x, sheet_w : float
        Left edge and width of the cycle.
    zero_x, half_w : float
        The true vertical, and how far the plumb line reaches to either side.
    margin_x : float
        Left edge of the numbers beside the bobs, below 0 where they go inside.
    name : str
        The style class that shows this picture at its width of page.
    """

    name: str
    width: float
    word_x: float
    number_x: float
    sheet_x: float
    sheet_w: float
    zero_x: float
    half_w: float
    margin_x: float

    @property
    def has_sheet(self) -> bool:
        """Whether the sheet is drawn beside the plumb line."""
        return self.sheet_w > 0

    @property
    def band_right(self) -> float:
        """Right edge of the bands: that of the plumb line."""
        return self.zero_x + self.half_w


WIDE = Columns("wide", 868, 4, 74, 84, 308, 574, 146, 740)
TABLET = Columns("tablet", 724, 2, 66, 76, 270, 470, 108, 594)
STANDING = Columns("standing-wide", 690, -1, 0, 0, 430, 215, 215, 456)
STANDING_PHONE = Columns("standing-narrow", 350, -1, 0, 0, 220, 110, 110, 232)
PHONE = Columns("phone", 350, -1, 18, 29, 120, 256, 92, -1)
PHONE_LINE = Columns("phone", 350, 4, 74, 56, 0, 214, 136, -1)  # the plumb line by itself: a phone has no room for both
LINE_HEIGHT = 310.0  # of that, so that it stands in the first view with what is said of it


@dataclass(frozen=True, slots=True)
class Rows:
    """The rows of one drill: body and closing cycles, from ``top`` down."""

    plan: Schedule
    height: float
    top: float

    @classmethod
    def of(cls, plan: Schedule, *, top: float = 44.0, room: float = SHEET_HEIGHT, full: float = FULL_ROW) -> Rows:
        """Return rows that share the room, never higher than a full row."""
        rows = plan.drill.cycles + plan.drill.close
        return cls(plan, max(min(full, room / rows), LEAST_ROW), top)

    @property
    def count(self) -> int:
        """Body and closing cycles."""
        return self.plan.drill.cycles + self.plan.drill.close

    @property
    def bottom(self) -> float:
        """The lower edge of the last row."""
        return self.top + self.count * self.height

    @property
    def is_hairs(self) -> bool:
        """Rows so low that only notes are left."""
        return self.height < 5

    @property
    def shows_hollow(self) -> bool:
        """Whether withheld clicks are drawn."""
        return self.height >= 14

    @property
    def post_scale(self) -> float:
        """Size of a post against that of a full row."""
        return min(1.0, self.height / FULL_ROW * 1.15)

    @property
    def number_step(self) -> int:
        """Every how many cycles one is numbered."""
        return 1 if self.height >= 14 else 5 if self.height >= 5 else 20

    def y(self, tick: float) -> float:
        """Return the height of a moment on the page."""
        return self.top + (tick - self.plan.body_tick) / self.plan.cycle_ticks * self.height

    def y_of(self, cycle: int) -> float:
        """Return the upper edge of a cycle's row; the body's first cycle is 1."""
        return self.top + (cycle - 1) * self.height

    def line_y(self, cycle: int) -> float:
        """Return the height of a cycle's line; the body's first cycle is 1."""
        return self.top + (cycle - 1 + LINE_AT) * self.height
