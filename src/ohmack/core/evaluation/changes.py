"""What an edit moved: key figures before and after."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from dataclasses import replace

from ohmack.core.evaluation.answer import Moved
from ohmack.core.evaluation.results import Results
from ohmack.core.figures.figure import Figure
from ohmack.core.wording import amount

KEYS = (
    "load_ohm", "power_w", "current_a", "wire", "ground_wire", "fuse_a", "drop_v", "at_amplifier_v", "target_v",
    "sensitivity_v", "gain_db", "output_v", "source_v", "length_m", "cost",
)  # fmt: skip


def shown(figure: Figure | None, length_unit: str = "m") -> str:
    """A figure's value in words, lengths as the shop says them, `not known` where it has none."""
    if figure is None or figure.value is None:
        return "not known"
    if isinstance(figure.value, str):
        return figure.value
    if figure.id == "cost":
        return f"{figure.value:.0f} {figure.unit}"
    return amount(figure.value, figure.unit, length_unit)


def _renamed(before: Mapping[str, Figure], after: Mapping[str, Figure]) -> dict[str, str]:
    """Figures filed under another id since: those of a part that had one output and has several now, or the other
    way.
    """

    def kind(figure_id: str) -> tuple[str, str]:
        return figure_id.split("/", 1)[0], figure_id.rsplit("/", 1)[-1]

    new = [i for i in after if i not in before]
    found: dict[str, str] = {}
    for old in (i for i in before if i not in after and "/" in i):
        match = next((i for i in new if kind(i) == kind(old) and i not in found.values()), None)
        if match is not None:
            found[old] = match
    return found


def called(results: Results, figure_id: str) -> str:
    """What a figure is about, in words: a part with its channel, or a run by its ends; empty where that is plain."""
    first, _, rest = figure_id.partition("/")
    part = results.design.part(first)
    if part is not None:
        channel = rest.partition("/")[0]
        return f"{part.name}, channel {channel[2:]}" if channel[:2] == "ch" and channel[2:].isdigit() else part.name
    run = results.runs.get(first)
    return f"{run.start_name} to {run.end_name}" if run is not None else ""


def what_moved(before: Mapping[str, Figure], after: Results, length_unit: str = "m") -> tuple[Moved, ...]:
    """The key figures whose shown value changed, those of one name with what each is about; lengths in `m` or `ft`.
    Nothing is said of a thing that is gone.
    """
    moved = [
        item
        for item in compare(before, after.book.figures, length_unit)
        if item.figure_id in after.book.figures or "/" not in item.figure_id or called(after, item.figure_id)
    ]
    times = Counter(item.name for item in moved)
    return tuple(
        replace(item, name=f"{item.name}, {what}")
        if times[item.name] > 1 and (what := called(after, item.figure_id))
        else item
        for item in moved
    )


def compare(before: Mapping[str, Figure], after: Mapping[str, Figure], length_unit: str = "m") -> tuple[Moved, ...]:
    """The key figures whose shown value changed, in the order of the work; lengths in `m` or `ft`. One that was
    not filed before, or is not now, is `not reckoned`; `not known` is one that lacks a fact.
    """
    moved = []
    renamed = _renamed(before, after)
    for figure_id in dict.fromkeys([*before, *after]):
        key = figure_id.rsplit("/", 1)[-1]
        if key not in KEYS or figure_id in renamed.values():
            continue
        now_id = renamed.get(figure_id, figure_id)
        was, now = (
            "not reckoned" if figure is None else shown(figure, length_unit)
            for figure in (before.get(figure_id), after.get(now_id))
        )
        if was != now:
            figure = after.get(now_id) or before[figure_id]
            moved.append((KEYS.index(key), Moved(now_id, figure.name, was, now)))
    return tuple(item for _, item in sorted(moved, key=lambda pair: pair[0]))
