"""The open file format `ohmack-design`: a design as JSON, with its version and its published schema."""

from __future__ import annotations

import json
from collections.abc import Callable
from typing import Any

from ohmack.core.document import FORMAT, VERSION, Design
from ohmack.core.document.edits import read_tree
from ohmack.core.document.links import ENDS_BEFORE
from ohmack.core.errors import BadDocument

LARGEST_BYTES = 10_000_000  # twenty connectors of five hundred pins are about 8 MB
MOST_VALUES = 400_000  # ten thousand cavities have about 350,000


def _links_from_port_to_port(tree: dict[str, Any]) -> dict[str, Any]:
    """Version 1 called each end of a link by what it was; it also let a tell-tale name a kind of car that was gone."""
    for link in _items(tree, "links"):
        for before, now in ENDS_BEFORE.get(str(link.get("kind")), {}).items():
            if before in link:
                link[now] = link.pop(before)
    vehicle = tree.get("vehicle")
    known = {variant.get("id") for variant in _items(vehicle, "variants")}
    for tell in _items(vehicle, "tells"):
        if isinstance(tell.get("shown_by"), list):
            tell["shown_by"] = [name for name in tell["shown_by"] if not isinstance(name, str) or name in known]
    return tree | {"version": 2}


def _items(tree: Any, name: str) -> list[dict[str, Any]]:
    """The items of a list in a tree that may be anything; none where there is no list."""
    found = tree.get(name) if isinstance(tree, dict) else None
    return [item for item in found if isinstance(item, dict)] if isinstance(found, list) else []


# version -> function that lifts a tree of that version to the next
MIGRATIONS: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {1: _links_from_port_to_port}


def write_design(design: Design) -> bytes:
    """A design as a file: indented UTF-8 JSON with a trailing newline."""
    return (design.model_dump_json(indent=2) + "\n").encode()


def read_design(data: bytes) -> Design:
    """A design from a file; older versions are lifted, newer ones refused.

    Raises:
        BadDocument: too large, no JSON, another format, a newer version, or places that are wrong.
    """
    if len(data) > LARGEST_BYTES:
        raise BadDocument((("file", f"is larger than {LARGEST_BYTES // 1000} kB"),))
    try:
        tree = json.loads(data.decode("utf-8-sig"))
    except UnicodeDecodeError:
        raise BadDocument((("file", "is not UTF-8 text"),)) from None
    except json.JSONDecodeError as error:
        raise BadDocument(((f"line {error.lineno}, column {error.colno}", f"is not JSON: {error.msg}"),)) from None
    except RecursionError:
        raise BadDocument((("file", "is nested too deeply"),)) from None
    except ValueError:
        raise BadDocument((("file", "has a number of more digits than any quantity"),)) from None
    if not isinstance(tree, dict) or tree.get("format") != FORMAT:
        raise BadDocument((("format", f"must be “{FORMAT}”; this is another kind of file"),))
    version = tree.get("version")
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise BadDocument((("version", "must be a whole number from 1"),))
    if version > VERSION:
        raise BadDocument(
            (("version", f"is {version}, written by a newer Ohmack; this one reads up to {VERSION}. Update first."),)
        )
    if (size := _values(tree)) > MOST_VALUES:
        raise BadDocument((("file", f"has {size} values; a design has at most {MOST_VALUES}"),))
    while version < VERSION:
        tree = MIGRATIONS[version](tree)
        version += 1
    try:
        return read_tree(tree)
    except (RecursionError, ValueError) as error:
        if isinstance(error, BadDocument):
            raise
        raise BadDocument((("file", "cannot be read as a design"),)) from None


def _values(tree: Any) -> int:
    """How many values a tree has, counted no further than needed to refuse it."""
    todo, count = [tree], 0
    while todo and count <= MOST_VALUES:
        item = todo.pop()
        count += 1
        if isinstance(item, dict):
            todo += item.values()
        elif isinstance(item, list):
            todo += item
    return count + len(todo)


def json_schema() -> dict[str, Any]:
    """The published JSON Schema of the current version."""
    schema = Design.model_json_schema()
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": f"{FORMAT} {VERSION}"} | schema
