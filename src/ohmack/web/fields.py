"""Form fields from the document's models: label, unit, what is shown, and how typed text becomes a value."""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import Enum
from functools import cache
from types import UnionType
from typing import Annotated, Any, Literal, Union, get_args, get_origin

from pydantic import BaseModel

from ohmack.core.document import Basis, Design, Fact
from ohmack.core.document.amplifiers import Rating
from ohmack.core.document.boxes import Corner
from ohmack.core.document.facts import Position
from ohmack.core.document.links import Band
from ohmack.core.document.parts import VoiceCoil
from ohmack.core.document.paths import get, parent_of, unit_field
from ohmack.core.document.registry import reference_of
from ohmack.core.errors import UnknownName
from ohmack.core.evaluation.sensitivity import fact_guide, said
from ohmack.core.units import UNITS, unit_of
from ohmack.core.wording import SHOWN, amount, trimmed
from ohmack.formats.entry import entry_unit
from ohmack.web.asked import facts_asked, no_use_for, pieces_asked, read_together
from ohmack.web.titles import label_of, thing_title, title_of

BARE_SHOWN = {"mohm": "mΩ", "ft": "ft"} | {unit.library: unit.shown for unit in UNITS.values() if unit.library}


# What has an entry of its own, or none: `_hidden` adds everything that names other things.
HIDDEN = {
    "id",
    "kind",
    "phase",
    "stands",
    "by_customer",
    "catalogue_id",
    "laid_by",
    "taken_as_usual",
    "position",
    "way_points",
    "by_hand",
    "from_port",
    "to_port",
    "format",
    "version",
    "hz",
    "level_db",
    "goes",
    "splices",
    "is_battery",
    "is_radio",
    "live",
    "way",
}


def _hidden(model: type[BaseModel], name: str) -> bool:
    return name in HIDDEN or reference_of(model, name) is not None


@dataclass(frozen=True)
class Field:
    """One thing to enter."""

    path: str
    label: str
    kind: str  # number, text, long, choice, flag, flags, table
    shown: str
    unit: str = ""
    choices: tuple[tuple[str, str], ...] = ()
    chosen: tuple[str, ...] = ()
    hint: str = ""
    short: str = ""  # the label without its owner
    needed: bool = False  # whether the thing cannot be without it

    @property
    def id(self) -> str:
        """An HTML id."""
        return "f-" + self.path.replace("/", "-").replace("_", "-")


@dataclass(frozen=True)
class FactView:
    """A fact with its entry."""

    path: str
    field: Field
    owner: str
    basis: Basis
    basis_word: str
    said: str
    low: str
    high: str
    range_said: str
    who: str
    when: str
    how: str
    note: str
    guide: str
    minutes: int
    known: bool

    @property
    def mark(self) -> str:
        """The basis mark's class: missing, assumed, documented, measured."""
        return self.basis.value if self.known else "missing"


def base_type(annotation: Any) -> Any:
    """The type below Annotated and Optional."""
    while True:
        if get_origin(annotation) is Annotated:
            annotation = get_args(annotation)[0]
        elif get_origin(annotation) in (Union, UnionType):
            rest = [a for a in get_args(annotation) if a is not type(None)]
            annotation = rest[0]
        else:
            return annotation


def annotation_at(design: Design, path: str) -> tuple[Any, str]:
    """(type, name of the field that carries the unit) of a path.

    Raises:
        UnknownName: the path leads nowhere.
    """
    parent, last = parent_of(design, path)
    return base_type(type(parent).model_fields[last].annotation), unit_field(path)


def _shown_number(value: Any, unit: str, bare: str) -> str:
    if value is None:
        return ""
    if bare == "mohm":
        return trimmed(value * 1000)
    if bare == "ft":
        return amount(value, "m", "ft")
    return trimmed(value)


def field_of(design: Design, path: str) -> Field:
    """The entry field of a path, filled with what the design holds.

    Raises:
        UnknownName: the path leads nowhere, or to something that is not entered as one field.
    """
    kind, unit_name = annotation_at(design, path)
    made = _field(path, label_of(design, path), kind, unit_name, get(design, path), design.policy.length_unit)
    return replace(made, short=title_of(design, path))


def _field(path: str, title: str, kind: Any, unit_name: str, value: Any, length_unit: str) -> Field:
    unit = unit_of(unit_name)
    if get_origin(kind) is tuple:
        return _tuple_field(path, title, get_args(kind)[0], value)
    if kind is bool:
        chosen = (said(value, ""),) if value is not None else ()
        return Field(path, title, "choice", "", choices=(("yes", "yes"), ("no", "no")), chosen=chosen)
    if kind is Basis:
        return Field(path, title, "choice", "", choices=tuple((b.value, b.word) for b in Basis), chosen=(value.value,))
    if isinstance(kind, type) and issubclass(kind, Enum):
        chosen = (value.value,) if value is not None else ()
        return Field(path, title, "choice", "", choices=tuple((m.value, m.value) for m in kind), chosen=chosen)
    if get_origin(kind) is Literal:
        options = tuple((str(a), str(a).replace("_", " ")) for a in get_args(kind))
        return Field(path, title, "choice", "", choices=options, chosen=(str(value),))
    if kind in (float, int):
        bare = entry_unit(unit_name, unit, length_unit)
        return Field(path, title, "number", _shown_number(value, unit, bare), BARE_SHOWN.get(bare, SHOWN.get(unit, "")))
    if kind is str:
        return Field(path, title, "long" if path.endswith("note") else "text", value or "")
    raise UnknownName("field", path)


def model_fields(model: type[BaseModel], values: BaseModel | None = None) -> list[Field]:
    """Fields for a model that stands alone: a part to type in, a policy."""
    fields = []
    for name, info in model.model_fields.items():
        if _hidden(model, name) or (get_origin(info.annotation) is Literal and len(get_args(info.annotation)) == 1):
            continue
        default = (
            getattr(values, name)
            if values
            else (None if info.is_required() else info.get_default(call_default_factory=True))
        )
        if (piece := piece_type(info.annotation)) is not None:
            inner = model_fields(piece, default)
            fields += [replace(field, path=f"{name}/{field.path}") for field in inner]
            continue
        made = _field(name, info.title or name, base_type(info.annotation), name, default, "m")
        fields.append(replace(made, needed=info.is_required()))
    return fields


def piece_type(annotation: Any) -> type[BaseModel] | None:
    """The model of a piece with fields of its own; None for a plain value."""
    return annotation if isinstance(annotation, type) and issubclass(annotation, BaseModel) else None


@cache
def blank_fields(model: type[BaseModel]) -> tuple[Field, ...]:
    """The fields of a thing that is not there yet; made once."""
    return tuple(model_fields(model))


def _tuple_field(path: str, title: str, item: Any, value: tuple[Any, ...] | None) -> Field:
    item = base_type(item)
    if item is Rating:
        return Field(
            path, title, "table", "; ".join(f"{trimmed(r.load_ohm)} Ω: {trimmed(r.power_w)} W" for r in value or ())
        )
    if item is Band:
        words = {"band": "", "low shelf": "under ", "high shelf": "over "}
        bands = "; ".join(
            f"{words[b.kind]}{trimmed(b.centre_hz)} Hz {b.gain_db:+g} dB Q {trimmed(round(b.q, 2))}"
            for b in value or ()
        )
        return Field(path, title, "table", bands, hint="63 Hz +4 dB Q 1.4; under 80 Hz +6 dB")
    if item is Corner:
        corners = "; ".join(f"{trimmed(c.behind_mm)} × {trimmed(c.up_mm)}" for c in value or ())
        return Field(path, title, "table", corners, hint="mm: 0 × 0; 340 × 0; 220 × 440")
    if item is VoiceCoil:
        coils = []
        for coil in value or ():
            reads = f" ({trimmed(coil.dc_resistance_ohm)} Ω DC)" if coil.dc_resistance_ohm else ""
            coils.append(f"{trimmed(coil.impedance_ohm)} Ω{reads}")
        return Field(path, title, "table", "; ".join(coils))
    if item is float:
        return Field(path, title, "table", "; ".join(f"{trimmed(v)} A" for v in value or ()))
    if item is int:
        return Field(path, title, "table", "; ".join(str(v) for v in value or ()), hint="3; 12")
    if isinstance(item, type) and issubclass(item, Enum):
        return Field(
            path,
            title,
            "flags",
            "",
            choices=tuple((m.value, m.value) for m in item),
            chosen=tuple(v.value for v in value or ()),
        )
    raise UnknownName("field", path)


def fact_view(design: Design, path: str) -> FactView:
    """A fact ready to be shown and edited.

    Raises:
        UnknownName: no fact there.
    """
    fact = get(design, path)
    if not isinstance(fact, Fact):
        raise UnknownName("fact", path)
    parent, name = parent_of(design, path)
    unit = unit_of(name)
    bare = entry_unit(name, unit, design.policy.length_unit)
    guide = fact_guide(name)
    length_unit = design.policy.length_unit
    spread = ""
    if fact.low is not None and fact.high is not None:
        spread = f"{said(fact.low, unit, length_unit)} to {said(fact.high, unit, length_unit)}"
    elif fact.alternatives:
        spread = "or " + ", ".join(said(a, unit, length_unit) for a in fact.alternatives)
    numeric = isinstance(fact.low, (int, float))
    return FactView(
        path,
        field_of(design, f"{path}/value"),
        getattr(parent, "name", ""),
        fact.basis,
        fact.basis.word,
        said(fact.value, unit, length_unit),
        _shown_number(fact.low, unit, bare) if numeric else "",
        _shown_number(fact.high, unit, bare) if numeric else "",
        spread,
        fact.who,
        fact.when,
        fact.how.value,
        fact.note,
        design.vehicle.as_said(guide.get("how", "")),
        int(guide.get("minutes", 5)),
        fact.value is not None,
    )


def editor_of(design: Design, path: str) -> tuple[str, list[Field], list[FactView]]:
    """Everything that can be entered about one thing: its title, its plain fields and its facts.

    Raises:
        UnknownName: nothing there.
    """
    thing = get(design, path)
    if not isinstance(thing, BaseModel) or isinstance(thing, Position):
        raise UnknownName("thing", path)
    fields: list[Field] = []
    facts: list[FactView] = []
    if isinstance(thing, Fact):
        owner, name = parent_of(design, path)
        beside = [other for other in read_together(owner, name) if other != name]
        lacking = [f"{path.rpartition('/')[0]}/{other}" for other in beside if getattr(owner, other).value is None]
        title = thing_title(design, path.rpartition("/")[0]) if lacking else label_of(design, path)
        return title, [], [fact_view(design, one) for one in (path, *lacking)]
    asked, idle = facts_asked(thing), no_use_for(design, thing)
    for name in type(thing).model_fields:
        value = getattr(thing, name)
        if name in idle or (isinstance(value, Fact) and name not in asked):
            continue
        chosen_kind = name == "kind" and isinstance(value, Enum)  # a kind one can choose is shown
        if _hidden(type(thing), name) and not isinstance(value, Fact) and not chosen_kind:
            continue
        if isinstance(value, Fact):
            facts.append(fact_view(design, f"{path}/{name}"))
        elif isinstance(value, BaseModel):
            if name in pieces_asked(thing):
                _, inner, inner_facts = editor_of(design, f"{path}/{name}")
                fields += inner
                facts += inner_facts
        else:
            try:
                fields.append(field_of(design, f"{path}/{name}"))
            except UnknownName:
                continue
    if isinstance(getattr(thing, "position", None), Position):
        fields += [field_of(design, f"{path}/position/{axis}") for axis in ("x_m", "y_m")]
    return thing_title(design, path), fields, facts
