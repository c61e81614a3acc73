"""A small element builder: escaping, number format, text sizes shared by all drawings."""

from __future__ import annotations

import json
import re
from collections.abc import Iterable
from functools import cache
from importlib.resources import files

from markupsafe import Markup, escape

BODY_PX = 12.5
SMALL_PX = 12.0
LABEL_PX = 13.0
BIG_PX = 17.0
SPECIAL = re.compile("[&<>'\"]")
TEXT_STYLES = {"dim": ("body", SMALL_PX), "lab": ("condensed", LABEL_PX), "big": ("condensed", BIG_PX)}


def number(value: float) -> str:
    """A coordinate with at most one decimal.

    >>> number(3.0), number(2.345)
    ('3', '2.3')
    """
    return f"{value:.1f}".removesuffix(".0")


def el(tag: str, *children: object, **attributes: object) -> Markup:
    """One element; text is escaped, `class_` is class, underscores become hyphens, None leaves an attribute out."""
    parts = [f"<{tag}"]
    for name, value in attributes.items():
        if value is None or value is False:
            continue
        shown = number(value) if isinstance(value, float) else _escaped(value)
        parts.append(f' {_attribute(name)}="{shown}"')
    parts.append(f">{''.join(map(_escaped, children))}</{tag}>" if children else "/>")
    return Markup("".join(parts))


@cache
def _attribute(name: str) -> str:
    """The attribute a keyword stands for."""
    return name.rstrip("_").replace("_", "-")


def _escaped(value: object) -> str:
    """A text as it stands in markup; most have nothing to escape, and a page has thousands of them."""
    if isinstance(value, Markup):
        return value
    text = str(value)
    return str(escape(text)) if SPECIAL.search(text) else text


def group(children: Iterable[object], **attributes: object) -> Markup:
    """A <g> around children."""
    return el("g", *children, **attributes)


def path(points: Iterable[tuple[float, float]], close: bool = False) -> str:
    """Path data through points."""
    text = "L".join(f"{number(x)} {number(y)}" for x, y in points)
    return f"M{text}{'Z' if close else ''}"


@cache
def _widths() -> dict[str, dict[str, int]]:
    found: dict[str, dict[str, int]] = json.loads((files("ohmack.drawing") / "font_widths.json").read_text("utf-8"))
    return found


def text_width(text: str, style: str = "dim") -> float:
    """Width of a text in px, from the fonts that ship."""
    family, size = TEXT_STYLES[style]
    widths = _widths()[family]
    return sum(widths.get(character, 560) for character in text) * size / 1000


def cut_to(room_px: float, text: str, style: str = "dim") -> str:
    """A text cut to its room, with a sign that it was."""
    shown = text
    while len(shown) > 1 and text_width(shown, style) > room_px:
        text = text[:-1].rstrip(" ,")
        shown = f"{text}…"
    return shown


def label(x: float, y: float, text: str, style: str = "dim", anchor: str = "start", extra: str = "") -> Markup:
    """A text of one of the shared styles."""
    return el(
        "text", text, x=x, y=y, class_=f"{style} {extra}".strip(), text_anchor=None if anchor == "start" else anchor
    )
