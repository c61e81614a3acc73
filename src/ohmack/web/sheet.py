"""What a sheet is: everything about one is declared in its own folder under `sheets/`, and found there."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from importlib import import_module
from importlib.util import find_spec
from pkgutil import iter_modules
from typing import TYPE_CHECKING, Any

from fastapi import APIRouter
from markupsafe import Markup

if TYPE_CHECKING:
    from ohmack.store.design_rows import DesignRecord
    from ohmack.web.page import Page
    from ohmack.web.workshop import Workshop


@dataclass(frozen=True, slots=True)
class Asked:
    """What the address of a sheet asks for besides the sheet."""

    show: str = ""
    kind: str = ""
    words: str = ""
    instead: str = ""


@dataclass(frozen=True, slots=True)
class Sheet:
    """One sheet: its name, its place, its sentence, its picture, and what it shows besides the design."""

    key: str
    title: str
    order: int
    say: Callable[[Page], tuple[str, str]]
    draw: Callable[[Page], Markup]
    home: str = ""  # the stage it belongs to; "" for a stage of the track
    tab: str = ""  # what it is called among the sheets of its stage; "" where it is alone
    view: Callable[[Page], Any] | None = None
    extra: Callable[[Workshop, DesignRecord, Asked], dict[str, Any]] | None = None
    main_figure: str = ""  # the end of the id of the figure whose working stands open
    built: bool = True

    @property
    def template(self) -> str:
        """Its page."""
        return f"{self.key}/page.html"


def _found() -> dict[str, Sheet]:
    from ohmack.web import sheets

    modules = (import_module(f"{m.name}.sheet") for m in iter_modules(sheets.__path__, f"{sheets.__name__}."))
    return {s.key: s for s in sorted((m.SHEET for m in modules), key=lambda s: s.order)}


def sheet_routers() -> list[APIRouter]:
    """What the sheets' pages send their forms to, of every sheet that has routes of its own."""
    from ohmack.web import sheets

    folders = [m.name for m in iter_modules(sheets.__path__, f"{sheets.__name__}.")]
    return [import_module(f"{f}.routes").router for f in folders if find_spec(f"{f}.routes") is not None]


_sheets: dict[str, Sheet] = {}


def sheets() -> dict[str, Sheet]:
    """Every sheet by its key, in order."""
    if not _sheets:
        _sheets.update(_found())
    return _sheets


def stages() -> list[Sheet]:
    """The stages of the track."""
    return [sheet for sheet in sheets().values() if not sheet.home]


def tabs_of(key: str) -> dict[str, str]:
    """The sheets that share a stage with a sheet."""
    here = sheets().get(key)
    return tabs(here.home or key) if here is not None else {}


def tabs(stage: str) -> dict[str, str]:
    """The sheets of a stage by key, the stage's own first; none where it is alone."""
    return {s.key: s.tab for s in sheets().values() if s.tab and stage in (s.key, s.home)}
