"""Which facts make sense for a thing of its kind, so that a camera is not asked for its speaker output."""

from __future__ import annotations

from pydantic import BaseModel

from ohmack.core.document import Design, Fact
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.boxes import Box
from ohmack.core.document.cabin import Alteration, AlterationKind, Space
from ohmack.core.document.factory import Module, Radio, Tier
from ohmack.core.document.functions import CarFunction, FunctionKind
from ohmack.core.document.links import FeedLink, LineLink, TapLink
from ohmack.core.document.parts import HeadUnit, PoweredSubwoofer
from ohmack.core.document.vehicle import Battery, BatteryRole, Feed, FeedRole, GroundPoint, Speaker, SpeakerPlace

FIT = ("cut_out_mm", "depth_mm", "window_depth_mm", "trim_clearance_mm", "adapter_ring_mm")
OUTPUT = ("source_voltage_v", "clip_step", "bridged", "tap_low_hz")
TRAITS = ("level", "band_split", "equalised", "load_sensing", "sounds_right")
LINE_IN = ("input_limit_v", "balanced", "woken_by")
LEISURE = ("own_running_v", "own_resting_v", "cca_a", "capacity_ah", "cut_off_v")
LINES = ("line_pairs", "line_v")
OPENING = ("opening_width_mm", "opening_height_mm", "opening_depth_mm")
PAIRS_FROM = 1995  # model years in which every speaker has two wires of its own; common practice
TAP = ("old_load_a", "fuse_a", "wire_size", "wire_length_m")


def facts_asked(thing: BaseModel, design: Design | None = None) -> tuple[str, ...]:
    """The facts to ask for, in order: all a thing has, but for what its kind, or the plan, has no use for.

    Parameters:
        thing: a thing of the car.
        design: where only what this plan may need is to be asked for, as in a survey; else all it could.

    Returns:
        names of its facts.
    """
    match thing:
        case Module():
            if thing.amplifies:
                return ("fitted", *TRAITS, *LINE_IN, *(OUTPUT if thing.channels else ()))
            return ("fitted",)
        case Speaker(place=SpeakerPlace.HEADREST | SpeakerPlace.BOX):
            return ("impedance_ohm", "takes_w", "dc_resistance_ohm", "own_capacitor")
        case Speaker():
            no_use: tuple[str, ...] = () if thing.in_door else ("window_depth_mm",)
            if thing.place is SpeakerPlace.CEILING:
                no_use += ("trim_clearance_mm",)  # nothing stands before it
            fit = tuple(name for name in FIT if name not in no_use)
            return ("impedance_ohm", "takes_w", "dc_resistance_ohm", "own_capacitor", *fit)
        case Radio() if design is not None:
            return tuple(name for name in _facts_of(thing) if name not in _not_of_this_radio(design))
        case Battery(role=BatteryRole.LEISURE):
            return LEISURE
        case Battery():
            return ("cca_a", "capacity_ah", "own_running_v", "own_resting_v")
        case Feed() if design is not None:
            volts = ("reads_v",) if design.vehicle.above_12_v else ()
            return ("live", *volts, "limit_a", *(TAP if _may_be_tapped(design, thing) else ()))
        case Feed(behind_id=str()):  # the converter's, not the factory's: no fuse and no wire of the car lies before it
            return ("live", "reads_v", "limit_a", "old_load_a")
        case CarFunction(kind=function) if function is not FunctionKind.CAMERA:
            return ("has_it",)
        case Alteration(kind=kind) if kind is not AlterationKind.FAILED_ADAPTER:
            return ("work_min",)
        case GroundPoint() if design is not None:
            return ("kind",)  # the way back through the body is asked once, at the first of them
        case _:
            return _facts_of(thing)


def read_together(thing: BaseModel, name: str) -> tuple[str, ...]:
    """The facts of a thing that are measured in one go with one of them: what a ruler is laid to once."""
    match thing:
        case Space():
            return facts_asked(thing)
        case Radio() if name in OPENING:
            return OPENING
        case Speaker() if name in FIT:
            return tuple(other for other in facts_asked(thing) if other in FIT)
        case _:
            return (name,)


def _facts_of(thing: BaseModel) -> tuple[str, ...]:
    return tuple(name for name in type(thing).model_fields if isinstance(getattr(thing, name), Fact))


def _not_of_this_radio(design: Design) -> tuple[str, ...]:
    """Facts nobody asks of a radio: line outputs of one that has none, the dash opening of one that stays."""
    radio = design.vehicle.radio
    has_lines = radio.tier.value in (None, Tier.AFTERMARKET) or bool(radio.line_pairs.value)
    stays = radio.tier.value is Tier.AFTERMARKET and not any(design.parts_of(HeadUnit))
    on_top = radio.tier.value is Tier.RING
    bare = radio.tier.value in (Tier.PLAIN, Tier.NONE, Tier.AFTERMARKET) and not design.vehicle.modules
    return (
        "usual_step", "player_under_db", *(() if has_lines else LINES), *(OPENING if stays else ()),
        *(() if on_top else ("spare_input", "ring_master")),
        *(("starts_without",) if bare else ()),
        *(("shared_return",) if design.vehicle.year is None or design.vehicle.year >= PAIRS_FROM else ()),
    )  # fmt: skip


def _may_be_tapped(design: Design, feed: Feed) -> bool:
    """Whether something with an amplifier of its own could hang on a feed, so that its fuse and wire matter."""
    own = any(isinstance(p, PoweredSubwoofer) or (isinstance(p, Amplifier) and p.plugs_in) for p in design.parts)
    tied = any(link.from_id == feed.id for link in design.links_of(FeedLink))
    return own and (tied or (feed.role is FeedRole.CONSTANT and feed.behind_id is None))


def no_use_for(design: Design, thing: BaseModel) -> tuple[str, ...]:
    """The plain fields a thing of this plan has no use for: sides, where a pair goes into one input."""
    if not isinstance(thing, LineLink | TapLink) or thing.by_sides:
        return ()
    part = design.part(thing.to_id)
    parts_sides = isinstance(part, Amplifier) and part.channels > 3 and not part.processor
    return () if parts_sides else ("by_sides",)


def pieces_asked(thing: BaseModel) -> tuple[str, ...]:
    """The pieces with fields of their own that belong to a thing of its kind, by name."""
    match thing:
        case Box(box_type="passive radiator"):
            return ("radiators", "boards")
        case Box(box_type="vented" | "bandpass"):
            return ("vents", "boards")
        case Box():
            return ("boards",)
        case _:
            return ("wire", "fuse", "housing")
