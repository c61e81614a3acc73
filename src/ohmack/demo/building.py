"""What demo jobs are made with: catalogue parts, readings, papers, places."""

from __future__ import annotations

import tomllib
from copy import deepcopy
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit


@dataclass(frozen=True)
class DemoJob:
    """One job of the demo shop: customer, first revision and the edits that followed."""

    customer: str
    phone: str
    title: str
    first: Design
    rounds: tuple[tuple[str, tuple[Edit, ...]], ...]


def catalogue() -> list[dict[str, Any]]:
    """The starter catalogue, one tree a part."""
    return deepcopy(_read_catalogue())


@cache
def _read_catalogue() -> list[dict[str, Any]]:
    text = (files("ohmack.demo") / "catalogue.toml").read_text(encoding="utf-8")
    parts: list[dict[str, Any]] = tomllib.loads(text)["part"]
    return parts


def catalogue_part(name: str, part_id: str, x_m: float, y_m: float, **more: Any) -> Edit:
    """The edit that places a catalogue part."""
    found = next(p for p in catalogue() if p["name"] == name)
    return Edit(op="add", path="parts", value={**found, "id": part_id, "position": {"x_m": x_m, "y_m": y_m}, **more})


def measured(path: str, value: Any, who: str = "Wen", when: str = "2026-11-16", how: str = "by meter") -> Edit:
    """A fact that was measured."""
    return Edit(path=path, value={"value": value, "basis": "measured", "who": who, "when": when, "how": how})


def documented(path: str, value: Any, when: str = "2026-11-12") -> Edit:
    """A fact from papers."""
    return Edit(path=path, value={"value": value, "basis": "documented", "who": "Odile", "when": when, "how": "papers"})


def place(path: str, x_m: float, y_m: float) -> Edit:
    """Move something on the plan."""
    return Edit(path=f"{path}/position", value={"x_m": x_m, "y_m": y_m})


def guessed(path: str, value: Any, *others: Any, **more: Any) -> Edit:
    """A fact nobody checked, with its range or its alternatives."""
    return Edit(
        path=path,
        value={"value": value, "basis": "assumed", "alternatives": list(others), "how": "not checked", **more},
    )


def added(path: str, item_id: str, name: str, x_m: float, y_m: float, **more: Any) -> Edit:
    """Something more on the car."""
    value = {"id": item_id, "name": name, "position": {"x_m": x_m, "y_m": y_m}, **more}
    return Edit(op="add", path=path, value=value)


def found(value: Any, how: str = "by eye", who: str = "Wen", when: str = "2026-11-17") -> dict[str, Any]:
    """A measured fact as part of a bigger value."""
    return {"value": value, "basis": "measured", "how": how, "who": who, "when": when}


def surveyed(
    line_v: float, clip_step: str, post_running_v: float, post_resting_v: float, cca_a: float, body_return_ohm: float
) -> tuple[Edit, ...]:
    """What was found in a car with an aftermarket radio with three line pairs: radio, charging, ground, bulkhead.

    Parameters:
        line_v: of its line outputs [v].
        clip_step: its last clean step.
        post_running_v, post_resting_v: at the battery's posts [v].
        cca_a: cold cranking, by the battery's label [a].
        body_return_ohm: of the body between ground point and battery [ohm].

    Returns:
        edits of the survey.
    """
    car, radio, supply = "vehicle", "vehicle/radio", "vehicle/supply"
    return (
        measured(f"{radio}/tier", "aftermarket radio", how="by eye"),
        measured(f"{radio}/line_pairs", 3, how="by eye"),
        measured(f"{radio}/line_v", line_v),
        measured(f"{radio}/clip_step", clip_step, how="by ear"),
        measured(f"{supply}/post_running_v", post_running_v),
        measured(f"{supply}/post_resting_v", post_resting_v),
        documented(f"{supply}/batteries/battery/cca_a", cca_a),
        measured(f"{supply}/body_return_ohm", body_return_ohm),
        measured(f"{supply}/battery_strap_ohm", 0.0004),
        measured(f"{car}/feeds/radio-switched/live", ["accessory", "on"]),
        documented(f"{car}/feeds/radio-switched/limit_a", 0.5),
        measured(f"{car}/ground_points/ground-rear/kind", "bare-metal stud", how="by eye"),
        measured(f"{car}/passages/bulkhead/needs_drilling", False, how="by eye"),
    )
