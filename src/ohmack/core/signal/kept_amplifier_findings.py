"""Rules on a factory amplifier that stays behind a new radio: its level, its hum, what wakes it."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.factory import WokenBy
from ohmack.core.document.handles import at
from ohmack.core.document.parts import Accessory
from ohmack.core.document.small_parts import LineIsolator
from ohmack.core.figures.finding import Draft, Remedy, find_part, note, rule, stop, watch
from ohmack.core.reference import PHYSICS, PRACTICE
from ohmack.core.wording import amount

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

HISS_DB = 12.0  # an input that could take so much more than the radio's line brings up its own noise, common practice


@rule("kept-level", "signal", PHYSICS)
def kept_level(results: Results) -> Iterator[Draft]:
    """The new radio's line output does not suit the input of the amplifier that stays, or nobody knows."""
    kept = results.kept_amplifier
    if kept is None:
        return
    unit, module = kept.unit, kept.module
    limit_v, line_v = module.input_limit_v.value, unit.line_v
    over_db = kept.over.value if kept.over is not None and kept.over.value is not None else 0.0
    path = at(module, lambda it: it.input_limit_v)
    if line_v is None or not unit.line_pairs:
        yield stop(
            module.id,
            f"{unit.name} has no line output, {module.name} wants one",
            "Its speaker outputs are far too strong for that input. Take a radio with line outputs.",
            find_part("Find a radio", "radio"),
        )
    elif limit_v is None:
        yield watch(
            path,
            f"Not known: what {module.name}'s line input takes",
            f"{unit.name} gives up to {amount(line_v, 'v')}. Too much clips in the amplifier, too little hisses.",
            Remedy("Enter it", path=path),
        )
    elif over_db > 0:
        yield watch(
            module.id,
            f"{unit.name} gives {amount(line_v, 'v')}, {module.name} takes {amount(limit_v, 'v')}",
            f"The last {over_db:.0f} dB of its volume clip. Set its line level down, or put line"
            " pads in; then a meter at the amplifier's output finds the last clean step.",
            Remedy("Look at it", path=path),
        )
    elif over_db < -HISS_DB:
        yield watch(
            module.id,
            f"{module.name} takes {amount(limit_v, 'v')}, {unit.name} gives only {amount(line_v, 'v')}",
            f"It plays {-over_db:.0f} dB below what it could, and its hiss stays: take a radio with"
            " stronger line outputs.",
            find_part("Find a radio", "radio"),
        )


@rule("kept-hum", "signal", PRACTICE)
def kept_hum(results: Results) -> Iterator[Draft]:
    """Line leads from a new radio to an amplifier that is grounded elsewhere."""
    kept = results.kept_amplifier
    if kept is None or any(results.design.parts_of(LineIsolator)):
        return
    unit, module = kept.unit, kept.module
    path = at(module, lambda it: it.balanced)
    if module.balanced.value is True:
        yield note(
            module.id,
            f"{module.name} has balanced inputs: tie each minus to the radio's line ground, not to the body",
            "So they keep out the hum they were made to keep out.",
        )
    else:
        known = "is not balanced" if module.balanced.value is False else "may not be balanced: nobody measured it"
        yield watch(
            path,
            f"{unit.name} and {module.name} are grounded in two places: it may hum",
            f"The input {known}. Ground the radio where the old one was; if the engine whines, a line isolator parts"
            " the grounds.",
            find_part("Find an isolator", "line isolator"),
        )


@rule("kept-switch-on", "signal", PRACTICE)
def kept_switch_on(results: Results) -> Iterator[Draft]:
    """What wakes the amplifier that stays, once the old radio is gone."""
    kept = results.kept_amplifier
    if kept is None:
        return
    unit, module = kept.unit, kept.module
    path = at(module, lambda it: it.woken_by)
    match module.woken_by.value:
        case None:
            yield watch(
                path,
                f"Not known: what switches {module.name} on",
                f"The old radio may have done it. {unit.name} can by its remote lead, not over a bus.",
                Remedy("Enter it", path=path),
            )
        case WokenBy.REMOTE if unit.remote_out_limit_a is None:
            yield stop(
                module.id,
                f"{module.name} is switched on by a lead from the radio, and {unit.name} has none",
                "Without it the amplifier sleeps.",
                find_part("Find a radio", "radio"),
            )
        case WokenBy.REMOTE:
            yield note(
                module.id,
                f"Join {unit.name}'s remote lead to the switch-on wire of {module.name}",
                "At the old radio's plug; measure that it was live with the old radio on and dead with it off.",
            )
        case WokenBy.BUS if not any(p.category == "interface" for p in results.design.parts_of(Accessory)):
            yield stop(
                module.id,
                f"{module.name} is woken over the data bus, and nothing speaks on it any more",
                f"{unit.name} does not. A bus interface has to wake it, or the amplifier goes.",
                find_part("Find an interface", "accessory"),
            )
