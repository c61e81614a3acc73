"""Wire colours: base and tracer in that order, read from the ways pin maps write them, and pairs that mirror each
other.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from functools import cache
from itertools import combinations
from unicodedata import normalize

from ohmack.core.document.harness import Cavity, Colour, Connector
from ohmack.core.errors import UnknownName
from ohmack.core.reference import table

FILLERS = re.compile(
    r"\b(with|stripe[ds]?|tracer|wire|mit|streifen|avec|rayure|filet|con|raya|franja)\b", flags=re.IGNORECASE
)


def _plain(word: str) -> str:
    """A word in small letters without accents or spaces, so that each is found however it is typed."""
    return re.sub(r"[^a-z]", "", normalize("NFKD", word.lower().replace("ß", "ss")))


@cache
def _codes() -> dict[str, Colour]:
    words = {colour.value.replace(" ", ""): colour for colour in Colour}
    rows = table("harness", "colour_codes")
    for colour in Colour:
        words |= {_plain(code): colour for code in rows.get(colour.value, ())}
    return words | {"gray": Colour.GREY, "violet": Colour.PURPLE, "tan": Colour.BEIGE, "lightgreen": Colour.LIGHT_GREEN}


def _one(word: str) -> Colour:
    found = _codes().get(_plain(word))
    if found is None:
        raise UnknownName("wire colour", word.strip()[:40], ", ".join(c.value for c in Colour))
    return found


def read_colour(text: str) -> tuple[Colour | None, Colour | None]:
    """Base and tracer of a wire as it is written; the order is kept, because white/red is not red/white.

    Parameters:
        text: `white/red`, `WH-RD`, `white with red stripe`, `red`, or nothing.

    Returns:
        (base, tracer), None where there is none.

    Raises:
        UnknownName: a colour nobody knows, or more than two.

    Source: codes of IEC 60757 (from memory) and common short forms.

    >>> read_colour("WH/RD")
    (<Colour.WHITE: 'white'>, <Colour.RED: 'red'>)
    """
    cleaned = FILLERS.sub(" ", text.strip()).strip()
    if not cleaned:
        return None, None
    parts = [p for p in re.split(r"[/\-–+,;]", cleaned) if p.strip()]
    if len(parts) == 1:
        parts = _split_words(cleaned)
    if len(parts) > 2:
        raise UnknownName("wire colour", text.strip()[:40], "a base and at most one tracer")
    colours = [_one(part) for part in parts]
    return colours[0], colours[1] if len(colours) > 1 else None


def _split_words(text: str) -> list[str]:
    """`white red` is two colours, `light green` and `azul claro` are one, `light green red` is two."""
    words, parts = text.split(), []
    while words:
        word = words.pop(0)
        before = word.lower() in ("light", "lt")
        after = bool(words) and words[0].lower() in ("clair", "claire", "claro", "clara")
        parts.append(f"{word} {words.pop(0)}" if words and (before or after) else word)
    return parts


def colour_words(base: Colour | None, tracer: Colour | None) -> str:
    """A wire's colour in words, base first.

    >>> colour_words(Colour.WHITE, Colour.RED)
    'white/red'
    """
    if base is None:
        return ""
    return f"{base.value}/{tracer.value}" if tracer is not None and tracer is not base else base.value


def mirror_pairs(cavities: Iterable[Cavity]) -> tuple[tuple[Cavity, Cavity], ...]:
    """Wires on one connector whose base and tracer are each other's: the trap of the trade.

    Parameters:
        cavities: the cavities of one connector.

    Returns:
        the pairs, in the order of the cavities. Source: common practice.
    """
    striped = [c for c in cavities if c.base is not None and c.tracer is not None and c.base is not c.tracer]
    return tuple((a, b) for a, b in combinations(striped, 2) if (a.base, a.tracer) == (b.tracer, b.base))


def same_colour(connector: Connector) -> tuple[tuple[Cavity, ...], ...]:
    """Groups of cavities of one connector whose wires look alike, by base and tracer."""
    groups: dict[tuple[Colour, Colour | None], list[Cavity]] = {}
    for cavity in connector.cavities:
        if cavity.base is not None:
            groups.setdefault((cavity.base, cavity.tracer), []).append(cavity)
    return tuple(tuple(group) for group in groups.values() if len(group) > 1)
