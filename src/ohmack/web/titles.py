"""What a path or a thing is called before people: no path, field name or id ever shows."""

from __future__ import annotations

import re

from ohmack.core.document import Design
from ohmack.core.document.design import ends_of
from ohmack.core.document.functions import CarFunction
from ohmack.core.document.harness import Cavity
from ohmack.core.document.links import LinkBase
from ohmack.core.document.paths import get, parent_of
from ohmack.core.errors import UnknownName

WIRES = {
    "power": "Power wire",
    "ground": "Ground lead",
    "speaker": "Speaker cable",
    "tap": "Signal tap",
    "line": "Line-level cable",
    "remote": "Switch-on lead",
    "feed": "Feed",
    "charge": "Charge cable",
    "capacitor": "Leads of the capacitor",
}


def thing_title(design: Design, path: str) -> str:
    """What a thing is called before people; no path and no id ever is."""
    try:
        thing = get(design, path)
    except UnknownName:
        return "Something that is no longer here"
    if isinstance(thing, (CarFunction, Cavity)):
        return thing.title
    if isinstance(thing, LinkBase):
        start, end = ends_of(thing)  # type: ignore[arg-type]
        ends = [start] if thing.kind == "ground" else [end]  # type: ignore[attr-defined]
        names = {p.id: p.name for p in design.parts} | {s.id: s.name for s in design.vehicle.speakers}
        return ", ".join([WIRES[thing.kind], *[names[e] for e in ends if e in names][:1]])  # type: ignore[attr-defined]
    return str(getattr(thing, "name", "") or re.sub(r"(?<=[a-z])(?=[A-Z])", " ", type(thing).__name__).capitalize())


def title_of(design: Design, path: str) -> str:
    """What a path is called where its owner is known."""
    try:
        parent, last = parent_of(design, path.removesuffix("/value"))
    except UnknownName:
        return thing_title(design, path)
    return design.vehicle.as_said(type(parent).model_fields[last].title or last.replace("_", " ").capitalize())


def label_of(design: Design, path: str) -> str:
    """What a path is called: its owner and its title."""
    try:
        parent, _ = parent_of(design, path.removesuffix("/value"))
    except UnknownName:
        return thing_title(design, path)
    owner = getattr(parent, "name", "")
    return f"{owner}: {title_of(design, path)}" if owner else title_of(design, path)
