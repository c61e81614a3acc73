"""Edits: the one way a design changes. Forms, remedies and files all speak it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from copy import deepcopy
from threading import local
from typing import Any, Literal, cast

from pydantic import BaseModel, Field, ValidationError

from ohmack.core.document.design import Design
from ohmack.core.document.facts import Model
from ohmack.core.document.paths import called_now, parent_of, place_of, steps
from ohmack.core.document.registry import Each, Found, Gone, Reference, named_by, scan, walk
from ohmack.core.errors import BadDocument, OfTheValue, OhmackError, UnknownName


class Edit(Model):
    """One change: `set` a value at a path, `add` an item to a list, `remove` an item by id."""

    op: Literal["set", "add", "remove"] = "set"
    path: str = Field(max_length=300)
    value: Any = None


def is_list(path: str) -> bool:
    """Whether a path names a collection, whose things are added and taken out one by one."""
    return scan(Design).collection_at(tuple(path.split("/"))) is not None


def _opened(value: Any) -> Any:
    """A model as a tree one level deep, its own models still as they are; a tuple as a list; anything else itself."""
    if isinstance(value, BaseModel):
        return {name: getattr(value, name) for name in type(value).model_fields}
    return list(value) if isinstance(value, tuple) else value


def _walk(tree: Any, parts: Sequence[str], path: str) -> Any:
    """What a path leads to, opened on the way: what no edit comes past stays a model, which is not read again."""
    for step in parts:
        key: Any
        if isinstance(tree, dict) and step in tree:
            key = step
        elif isinstance(tree, list):
            named = [place for place, item in enumerate(tree) if _id_of(item) == step]
            key = named[0] if named else place_of(step)
            if key is None or key >= len(tree):
                raise UnknownName("item", step)
        else:
            raise UnknownName("path", path[:120])
        tree[key] = _opened(tree[key])
        tree = tree[key]
    return tree


def _id_of(item: Any) -> Any:
    return item.get("id") if isinstance(item, dict) else getattr(item, "id", None)


def _replace_item(tree: dict[str, Any], head: list[str], last: str, edit: Edit) -> None:
    """A whole item of a list, under the id it had."""
    items = _walk(tree, head, edit.path)
    if not any(_id_of(item) == last for item in items):
        raise UnknownName("item", last)
    if not isinstance(edit.value, dict) or edit.value.get("id") != last:
        raise UnknownName("item", last, "an item keeps its id")
    items[:] = [edit.value if _id_of(item) == last else item for item in items]


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
    lost = [item for item in items if item.get("id") == item_id]
    items[:] = kept
    _forget(tree, tuple(head), lost)


def _forget(tree: dict[str, Any], at: tuple[str, ...], lost: list[Any]) -> None:
    """What names a thing that went is unset; what cannot do without it goes too, and is forgotten in its turn."""
    registry = scan(Design)
    collection = registry.collection_at(at)
    local = collection is not None and not collection.many.shared
    ids = {str(item["id"]) for item in lost}
    if collection is not None and collection.many.group == "cavity":
        _forget_cavities(tree, at[2], ids)
        return
    if not local:
        outputs = [c for item in lost for c in item.get("channels", ()) if isinstance(c, dict)]
        ids |= {str(c["id"]) for c in outputs}  # a module's own pairs; the channels of a line are numbers
    for reference in registry.references:
        if (
            (reference.ref.to == collection.many.group)
            if local and collection
            else not registry.is_local(reference.ref.to)
        ):
            _unname(tree, reference, ids)


def _unname(tree: dict[str, Any], reference: Reference, ids: set[str]) -> None:
    gone: list[tuple[Any, Found]] = []
    for found in list(walk(tree, reference.steps)):
        hit = ids.intersection(named_by(reference, found.holder))
        if not hit:
            continue
        if reference.ref.gone is Gone.GOES_TOO:
            gone.append((found.item, found))
        elif reference.several:
            found.holder[reference.field] = [name for name in found.holder[reference.field] if name not in ids]
        else:
            found.holder[reference.field] = None
            if reference.field == "connector_id":  # the hunt's wires sat in that connector
                for wire in found.holder["wires"]:
                    wire["cavity_id"] = None
    for item, found in gone:
        found.items[:] = [other for other in found.items if other is not item]
    if gone:
        depth = max(i for i, step in enumerate(reference.steps) if isinstance(step, Each))
        _forget(tree, gone[0][1].path[:depth], [item for item, _ in gone])


def _forget_cavities(tree: dict[str, Any], connector_id: str, ids: set[str]) -> None:
    """A hunted wire outlives the cavity it was thought to sit in."""
    hunt = tree["vehicle"]["hunt"]
    for wire in hunt["wires"] if hunt and hunt["connector_id"] == connector_id else ():
        if wire["cavity_id"] in ids:
            wire["cavity_id"] = None


def apply_edits(design: Design, edits: Iterable[Edit]) -> Design:
    """A new design with the edits applied, validated as a whole; the old one is untouched.

    Raises:
        UnknownName: a path leads nowhere.
        BadDocument: the result breaks a rule of the document; its places say where and why.
    """
    every = list(edits)
    known = getattr(_latest, "applied", None)
    if known is not None and known[0] is design and list(map(id, known[1])) == list(map(id, every)):
        return cast(Design, known[2])
    made = _applied(design, every)
    _latest.applied = (design, every, made)
    return made


_latest = local()  # who looks at what edits would make, and then makes it, is not kept waiting twice


def _applied(design: Design, every: Sequence[Edit]) -> Design:
    if len(every) > 1:
        try:  # validated once, at the end; what cannot be done so is done edit by edit, which also says what is wrong
            return _at_once(design, every)
        except (OhmackError, KeyError, TypeError):
            pass
    current = design
    for edit in every:
        current = _at_once(current, [edit])
    return current


def _at_once(design: Design, edits: Sequence[Edit]) -> Design:
    """The edits on one tree, read once; where nothing is taken out, only what they come past is read again."""
    tree = design.model_dump(mode="json") if any(edit.op == "remove" for edit in edits) else _opened(design)
    for asked in edits:
        edit = asked.model_copy(update={"path": called_now(design, asked.path), "value": deepcopy(asked.value)})
        if edit.op == "set":
            _set(tree, design, edit)
        elif edit.op == "add":
            if not is_list(edit.path):
                raise UnknownName("list", edit.path)
            _walk(tree, edit.path.split("/"), edit.path).append(edit.value)
        else:
            _remove(tree, design, edit)
    return read_tree(tree)


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
    """One validation error as a person would say it: what a model says itself is a sentence, the rest is said of the
    value.
    """
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
        "too_short": "needs at least {min_length} of them",
    }
    if kind in table:
        return OfTheValue(table[kind].format(**context))
    if kind == "value_error":
        return str(context.get("error", item["msg"]))
    if kind in ("enum", "literal_error"):
        return OfTheValue(f"must be one of {context.get('expected', '')}")
    return str(item["msg"])
