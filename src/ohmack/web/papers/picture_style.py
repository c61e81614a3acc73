"""Drawings on paper: the rules of the drawings' style sheet that a drawing needs, written into it with plain values."""

from __future__ import annotations

import re
from functools import cache
from importlib.resources import files
from typing import NamedTuple

from markupsafe import Markup

STATIC = files("ohmack.web") / "static"
PAPER = {
    "--paper": "#ffffff", "--sheet": "#ffffff", "--ink": "#000000", "--ink-2": "#333333", "--rule": "#999999",
    "--rule-2": "#cccccc", "--car": "#f2f2f2", "--glass": "#e4e4e4", "--car-line": "#888888",
}  # fmt: skip
NEVER = re.compile(r":hover|:focus|\[data-|\.chosen|\.dragging|:has\(|html")
MIX = re.compile(r"color-mix\(in srgb,\s*(#[0-9a-f]{6}|transparent) (\d+)%,\s*(#[0-9a-f]{6}|transparent)\)")
HALO = re.compile(r"paint-order:stroke;stroke:[^;}]+;stroke-width:[^;}]+;?")  # what sets papers paints it over the text
HELD_OFF = re.compile(r'<text\b([^>]*\bclass="[^"]*?\b(paper-)?halo\b[^"]*"[^>]*)>(.*?)</text>', re.DOTALL)
FONT = re.compile(r"font:(\d+) ([\d.]+)px(?:/[\d.]+)? ([^;}]+)")
SVG = re.compile(r"<svg\b.*?</svg>", re.DOTALL)


class Rule(NamedTuple):
    """A rule: its selector, the classes it asks for, its plain declarations."""

    selector: str
    classes: frozenset[str]
    declarations: str


def on_paper(html: str) -> Markup:
    """A page whose drawings carry their own style."""
    return Markup(SVG.sub(lambda found: _styled(found[0]), html))


def picture_alone(html: str) -> str:
    """The first drawing of a page as a file of its own; empty where there is none."""
    found = SVG.search(html)
    if found is None:
        return ""
    return _styled(found[0]).replace("<svg ", '<svg xmlns="http://www.w3.org/2000/svg" ', 1)


def _styled(svg: str) -> str:
    svg = HELD_OFF.sub(_with_its_halo, svg)
    classes = {name for names in re.findall(r'class="([^"]*)"', svg) for name in names.split()}
    style = "".join(f"{r.selector}{{{r.declarations}}}" for r in _rules() if r.classes <= classes)
    return re.sub(r"(<svg\b[^>]*>)", lambda m: f"{m[1]}<style>{style}</style>", svg, count=1)


def _with_its_halo(text: re.Match[str]) -> str:
    """A text with what holds lines off it: the same text drawn broad under it, in the colour it lies on."""
    tone, broad_px = (PAPER["--paper"], 4) if text[2] else (PAPER["--car"], 5)
    style = f"fill:{tone};stroke:{tone};stroke-width:{broad_px}px;stroke-linejoin:round"
    return f'<text{text[1]} style="{style}" aria-hidden="true">{text[3]}</text>{text[0]}'


@cache
def _rules() -> tuple[Rule, ...]:
    """Every rule of the drawings, values of the light theme put in, one selector each."""
    text = "".join((STATIC / name).read_text("utf-8") for name in ("drawing.css", "ohmack.css"))
    text = re.sub(r"/\*.*?\*/", "", text, flags=re.DOTALL)
    text = re.sub(r"@media[^{]*\{(?:[^{}]*\{[^{}]*\})*[^{}]*\}", "", text)
    found = []
    for selectors, declarations in re.findall(r"([^{}]+)\{([^{}]*)\}", text):
        plain = _plain(declarations)
        for selector in re.split(r",(?![^(]*\))", selectors):
            classes = frozenset(re.findall(r"\.([\w-]+)", selector))
            if classes and not NEVER.search(selector):
                found.append(Rule(selector.strip(), classes, plain))
    return tuple(found)


@cache
def tokens() -> dict[str, str]:
    """The colours and fonts of the light theme, as they print."""
    text = (STATIC / "ohmack.css").read_text("utf-8")
    root = text[text.index(":root{") : text.index("}", text.index(":root{"))]
    return dict(re.findall(r"(--[\w-]+):([^;}]+)", root)) | PAPER


def _plain(declarations: str) -> str:
    known = tokens()
    plain = re.sub(r"var\((--[\w-]+)(?:,([^()]*))?\)", lambda m: known.get(m[1], m[2] or "#000000"), declarations)
    plain = HALO.sub("", plain)
    plain = MIX.sub(lambda m: _mixed(m[1], int(m[2]) / 100, m[3]), plain)
    return FONT.sub(r"font-weight:\1;font-size:\2px;font-family:\3", plain)


def _mixed(first: str, share: float, second: str) -> str:
    """Two colours mixed; a transparent one lets the paper through."""

    def parts(colour: str) -> tuple[int, ...]:
        shown = "#ffffff" if colour == "transparent" else colour
        return tuple(int(shown[n : n + 2], 16) for n in (1, 3, 5))

    mixed = (round(a * share + b * (1 - share)) for a, b in zip(parts(first), parts(second), strict=True))
    return "#" + "".join(f"{value:02x}" for value in mixed)
