"""Edits: the one way a design changes. Forms, remedies and files all speak it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any, Literal

from pydantic import Field, ValidationError

from ohmack.core.document.design import Design, required_ends
from ohmack.core.document.facts import Model
from ohmack.core.document.paths import parent_of, place_of, steps
from ohmack.core.errors import BadDocument, UnknownName


class Edit(Model):
    """One change: `set` a value at a path, `add` an item to a list, `remove` an item by id."""

    op: Literal["set", "add", "remove"] = "set"
    path: str = Field(max_length=300)
    value: Any = None


LISTS = {
    "parts", "links", "vehicle/speakers", "vehicle/feeds", "vehicle/ground_points", "vehicle/passages",
    "vehicle/radio/channels", "vehicle/supply/batteries", "vehicle/modules", "vehicle/factory_links", "vehicle/variants",
    "vehicle/tells", "vehicle/answers", "vehicle/volume_steps", "vehicle/zones", "vehicle/spaces", "vehicle/alterations",
    "vehicle/functions", "vehicle/connectors", "vehicle/hunt/wires", "vehicle/hunt/readings", "interventions",
}  # fmt: skip


def is_list(path: str) -> bool:
    """Whether a path names a list that items are added to and taken from."""
    if path in LISTS:
        return True
    parts = path.split("/")
    owned = (("vehicle", "modules", "channels"), ("vehicle", "connectors", "cavities"))
    return len(parts) == 4 and (parts[0], parts[1], parts[3]) in owned


def _walk(tree: Any, parts: Sequence[str], path: str) -> Any:
    for step in parts:
        if isinstance(tree, dict) and step in tree:
            tree = tree[step]
        elif isinstance(tree, list):
            named = [item for item in tree if isinstance(item, dict) and item.get("id") == step]
            if named:
                tree = named[0]
            elif (place := place_of(step)) is not None and place < len(tree):
                tree = tree[place]
            else:
                raise UnknownName("item", step)
        else:
            raise UnknownName("path", path[:120])
    return tree


def _replace_item(tree: dict[str, Any], head: list[str], last: str, edit: Edit) -> None:
    """A whole item of a list, under the id it had."""
    items = _walk(tree, head, edit.path)
    if not any(item.get("id") == last for item in items):
        raise UnknownName("item", last)
    if not isinstance(edit.value, dict) or edit.value.get("id") != last:
        raise UnknownName("item", last, "an item keeps its id")
    items[:] = [edit.value if item.get("id") == last else item for item in items]


def _set(tree: dict[str, Any], design: Design, edit: Edit) -> None:
    *head, last = steps(edit.path)
    if is_list("/".join(head)):
        _replace_item(tree, head, last, edit)
        return
    parent_of(design, edit.path)
    if not head and last in ("format", "version"):
        raise UnknownName("path", edit.path)
    parent = _walk(tree, head, edit.path)
    if not isinstance(parent, dict):
        raise UnknownName("path", edit.path[:120])
    parent[last] = edit.value


def _remove(tree: dict[str, Any], design: Design, edit: Edit) -> None:
    *head, item_id = steps(edit.path)
    if not is_list("/".join(head)):
        raise UnknownName("list", "/".join(head))
    items = _walk(tree, head, edit.path)
    kept = [item for item in items if item.get("id") != item_id]
    if len(kept) == len(items):
        raise UnknownName("item", item_id)
    lost = {item_id} | {c["id"] for item in items if item.get("id") == item_id for c in item.get("channels", ())}
    items[:] = kept
    if head == ["vehicle", "hunt", "wires"]:
        _forget_wire(tree, item_id)
    elif head[-1] == "cavities":
        _forget_cavity(tree, head[2], item_id)
    elif head not in (["links"], ["interventions"], ["vehicle", "hunt", "readings"]):
        _forget(tree, design, lost)


def _forget_wire(tree: dict[str, Any], wire_id: str) -> None:
    """The readings of a wire go with it."""
    hunt = tree["vehicle"]["hunt"]
    hunt["readings"] = [r for r in hunt["readings"] if wire_id not in (r["wire_a_id"], r["wire_b_id"])]


def _forget_cavity(tree: dict[str, Any], connector_id: str, cavity_id: str) -> None:
    """A hunted wire outlives the cavity it was thought to sit in."""
    hunt = tree["vehicle"]["hunt"]
    for wire in hunt["wires"] if hunt and hunt["connector_id"] == connector_id else ():
        if wire["cavity_id"] == cavity_id:
            wire["cavity_id"] = None


def _forget(tree: dict[str, Any], design: Design, lost: set[str]) -> None:
    """Unset what names a lost thing; what cannot do without it goes too."""
    for link in tree["links"]:  # what a link survives without is only unset
        if (link.get("fuse") or {}).get("holder_id") in lost:
            link["fuse"]["holder_id"] = None
        if link["kind"] == "feed" and link["ground_point_id"] in lost:
            link["ground_point_id"] = None
    gone = {link.id for link in design.links if lost & {name for _, name in required_ends(link)}}
    tree["links"] = [link for link in tree["links"] if link["id"] not in gone]
    vehicle = tree["vehicle"]
    vehicle["factory_links"] = [k for k in vehicle["factory_links"] if not lost & {k["from_id"], k["to_id"]}]
    for speaker in vehicle["speakers"]:
        for field in ("channel_id", "paired_with_id"):
            if speaker[field] in lost:
                speaker[field] = None
    for alteration in vehicle["alterations"]:
        if alteration["about_id"] in lost:
            alteration["about_id"] = None
    tree["interventions"] = [i for i in tree["interventions"] if i["id"] not in lost]
    vehicle["functions"] = [f for f in vehicle["functions"] if f["made_by_id"] not in lost]
    for function in vehicle["functions"]:
        function["needs_ids"] = [name for name in function["needs_ids"] if name not in lost]
        if function["heard_at_id"] in lost:
            function["heard_at_id"] = None
    for connector in vehicle["connectors"]:
        connector["at_id"] = None if connector["at_id"] in lost else connector["at_id"]
        for cavity in connector["cavities"]:
            for field in ("channel_id", "feed_id"):
                if cavity[field] in lost:
                    cavity[field] = None
    if (hunt := vehicle["hunt"]) is not None:
        hunt["speaker_ids"] = [name for name in hunt["speaker_ids"] if name not in lost]
        hunt["readings"] = [r for r in hunt["readings"] if r["speaker_id"] not in lost]
        if hunt["connector_id"] in lost:
            hunt["connector_id"] = None
            for wire in hunt["wires"]:
                wire["cavity_id"] = None
    for part in tree["parts"]:
        if part["kind"] == "driver":
            part["at_ids"] = [name for name in part["at_ids"] if name not in lost]


def apply_edits(design: Design, edits: Iterable[Edit]) -> Design:
    """A new design with the edits applied, validated as a whole; the old one is untouched.

    Raises:
        UnknownName: a path leads nowhere.
        BadDocument: the result breaks a rule of the document; its places say where and why.
    """
    current = design
    for edit in edits:
        tree = current.model_dump(mode="json")
        if edit.op == "set":
            _set(tree, current, edit)
        elif edit.op == "add":
            if not is_list(edit.path):
                raise UnknownName("list", edit.path)
            _walk(tree, edit.path.split("/"), edit.path).append(edit.value)
        else:
            _remove(tree, current, edit)
        current = read_tree(tree)
    return current


def read_tree(tree: Any) -> Design:
    """Validate a plain tree as a design.

    Raises:
        BadDocument: with a list of places and reasons.
    """
    try:
        return Design.model_validate(tree)
    except ValidationError as error:
        raise BadDocument(places_of(error)) from None


def places_of(error: ValidationError) -> tuple[tuple[str, str], ...]:
    """Places and reasons of a validation error, in plain sentences."""
    places = []
    for item in error.errors(include_url=False):
        steps = [str(step) for step in item["loc"]]
        if len(steps) > 2 and steps[0] in ("parts", "links"):
            del steps[2]  # the kind, which is no part of the path
        place = "/".join(steps) or "design"
        places.append((place, sentence(item)))
    return tuple(places)


def sentence(item: Any) -> str:
    """One validation error as a person would say it."""
    context = item.get("ctx", {})
    kind = item["type"]
    table = {
        "greater_than": "must be more than {gt:g}",
        "greater_than_equal": "must be {ge:g} or more",
        "less_than": "must be less than {lt:g}",
        "less_than_equal": "must be {le:g} or less",
        "missing": "is missing",
        "extra_forbidden": "is not known here",
        "finite_number": "must be a finite number",
        "string_too_long": "is longer than {max_length} characters",
        "too_long": "has more than {max_length} items",
        "too_short": "needs at least {min_length} items",
    }
    if kind in table:
        return table[kind].format(**context)
    if kind == "value_error":
        return str(context.get("error", item["msg"]))
    if kind in ("enum", "literal_error"):
        return f"must be one of {context.get('expected', '')}"
    return str(item["msg"])
