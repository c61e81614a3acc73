"""A wire kit bought as one: its reels, holder, fuse and line cables, each judged as a part of its own."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from ohmack.core.build.lists import COLOUR
from ohmack.core.document import Basis, Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.facts import Model, Name, SizeText
from ohmack.core.document.part import Money
from ohmack.core.errors import NotPossible
from ohmack.core.physics.conductors import conductor
from ohmack.core.planning.part_added import added

KitMetres = Annotated[float, Field(ge=0, le=100)]


class WireKit(Model):
    """What a kit's label and a tape say of it."""

    name: Name = Field(title="Name")
    maker: Name = Field("", title="Maker")
    price: Money | None = Field(None, title="Price")
    basis: Basis = Field(Basis.DOCUMENTED, title="Data are")
    wire_size: SizeText = Field(title="Size of its power wire")
    material: Literal["copper", "tinned_copper", "copper_clad_aluminium"] = Field("copper", title="Material")
    red_m: KitMetres = Field(title="Power wire in it")
    black_m: KitMetres = Field(0.0, title="Ground wire in it")
    family: Literal["blade", "maxi", "strip"] = Field("strip", title="Holder takes")
    rating_a: Annotated[float, Field(gt=0, le=500)] | None = Field(None, title="Fuse in it")
    terminal_area_max_mm2: Annotated[float, Field(gt=0, le=120)] | None = Field(None, title="Holder takes wire up to")
    switch_on_size: SizeText | None = Field(None, title="Size of its switch-on wire")
    switch_on_m: KitMetres = Field(0.0, title="Switch-on wire in it")
    line_m: Annotated[float, Field(ge=0, le=30)] = Field(0.0, title="Length of its line cable, a pair")
    line_pieces: Annotated[int, Field(ge=1, le=10)] = Field(1, title="Line cables in it")


def kit_parts(kit: WireKit) -> list[dict[str, Any]]:
    """The parts a kit is made of, the whole price at the first.

    Parameters:
        kit: the kit.

    Returns:
        data of each part, without id and place; nothing that is not in it.

    Raises:
        NotPossible: there is no wire in it, or switch-on wire of no size.
        UnknownName: no figures are on file for its size.
    """
    if not kit.red_m and not kit.black_m:
        raise NotPossible("red_m", "There is no wire in it: type how many metres.")
    if kit.switch_on_m and kit.switch_on_size is None:
        raise NotPossible("switch_on_size", "Type the size of its switch-on wire, or 0 m of it.")
    area_mm2 = kit.terminal_area_max_mm2 or conductor(kit.wire_size, kit.material).area_mm2
    parts: list[dict[str, Any]] = [
        {"kind": "wire", "name": f"{kit.name}: {colour} wire", "wire_size": kit.wire_size, "material": kit.material,
         "on_reel_m": metres, "colour": colour}
        for colour, metres in (("red", kit.red_m), ("black", kit.black_m))
        if metres
    ]  # fmt: skip
    holder = {"kind": "fuse holder", "name": f"{kit.name}: holder", "terminal_area_max_mm2": round(area_mm2, 1)}
    parts.append(holder | {"family": kit.family})
    if kit.rating_a is not None:
        parts.append({"kind": "fuse", "name": f"{kit.name}: fuse", "family": kit.family, "rating_a": kit.rating_a})
    if kit.switch_on_m and kit.switch_on_size is not None:
        conductor(kit.switch_on_size)
        parts.append({"kind": "wire", "name": f"{kit.name}: switch-on wire", "wire_size": kit.switch_on_size,
                      "on_reel_m": kit.switch_on_m, "colour": COLOUR["remote"]})  # fmt: skip
    if kit.line_m:
        parts.append({"kind": "line cable", "name": f"{kit.name}: line cable", "length_m": kit.line_m,
                      "pieces": kit.line_pieces})  # fmt: skip
    shared = {"maker": kit.maker, "basis": kit.basis.value}
    return [part | shared | {"price": kit.price if n == 0 else 0.0} for n, part in enumerate(parts)]


def kit_added(design: Design, kit: WireKit) -> tuple[Edit, ...]:
    """The edits that put a kit's parts into a plan.

    Parameters:
        design: the design.
        kit: the kit.

    Returns:
        the edits.

    Raises:
        NotPossible: there is no wire in it.
        UnknownName: no figures are on file for its size.
    """
    edits: tuple[Edit, ...] = ()
    for tree in kit_parts(kit):
        more = added(design, tree)
        design, edits = apply_edits(design, more), (*edits, *more)
    return edits
