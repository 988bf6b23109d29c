"""A code to photograph, for the page and for the terminal."""

from __future__ import annotations

import io

import qrcode
from django.utils.safestring import SafeString, mark_safe
from qrcode.image.svg import SvgPathImage


def code_picture(text: str) -> SafeString:
    """Return an address as a code to photograph: SVG without style, to stand in a page."""
    made = qrcode.make(text, image_factory=SvgPathImage, box_size=12, border=2)
    svg: str = made.to_string(encoding="unicode")
    return mark_safe(svg[svg.index("<svg") :])  # noqa: S308 - drawn here, from modules alone


def code_lines(text: str) -> str:
    """Return an address as a code to photograph, in letters of a terminal."""
    code, out = qrcode.QRCode(border=1), io.StringIO()
    code.add_data(text)
    code.print_ascii(out=out, invert=True)
    return out.getvalue()
