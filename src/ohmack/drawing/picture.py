"""A picture in the making: its frame, what must not be covered, and things one can select."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from markupsafe import Markup

from ohmack.core.evaluation.answer import Evaluation
from ohmack.drawing.car import WIDTH, Frame, frame_of
from ohmack.drawing.labels import Box as LabelBox
from ohmack.drawing.labels import LabelField
from ohmack.drawing.svg import el, group

LinkTo = Callable[[str], str]


@dataclass(frozen=True, slots=True)
class Layer:
    """What a stage shows: which links, which labels, whether speakers, feeds and marks are drawn; of the speakers all,
    or those the plan does something to.
    """

    links: tuple[str, ...] = ()
    quiet_links: tuple[str, ...] = ()
    speakers: bool = False
    touched: bool = False
    grounds: bool = True
    feeds: bool = False
    marks: tuple[Mark, ...] = ()
    parts: bool = True
    way_points: bool = False
    labels: bool = True
    zones: bool = False
    modules: bool = False
    spaces: bool = False
    damage: bool = False
    way: tuple[str, ...] = ()  # things a function goes through, in order
    broken_at: str = ""
    acts: tuple[tuple[str, str], ...] = ()  # what happens to a module, in a word


@dataclass(frozen=True, slots=True)
class Mark:
    """A numbered mark of the survey: its basis shows by shape."""

    number: int
    thing_id: str
    basis: str
    path: str
    title: str


@dataclass
class Picture:
    """A plan in the making: frame, labels placed so far, and where each thing sits."""

    evaluation: Evaluation
    frame: Frame
    link_to: LinkTo
    selected: str
    labels: LabelField
    things: dict[str, LabelBox] = field(default_factory=dict)
    titles: list[tuple[str, str, str]] = field(default_factory=list)
    prefix: str = ""  # of the ids in this picture, where a page has a second one
    shifts: dict[str, tuple[float, float]] = field(default_factory=dict)  # of runs drawn beside their place [px]


def box_at(x: float, y: float, width: float, height: float) -> LabelBox:
    return LabelBox(x - width / 2, y - height / 2, x + width / 2, y + height / 2)


def thing(
    picture: Picture, thing_id: str, path_: str, title: str, box: LabelBox, shapes: list[Markup], movable: bool
) -> Markup:
    """A selectable thing: a link around its shapes, with a title for the pointer and the screen reader."""
    picture.things[thing_id] = box
    picture.labels.block(box)
    chosen = picture.selected in (thing_id, path_) or picture.selected.startswith(f"{path_}/")
    halo = el(
        "rect", x=box.left - 5, y=box.top - 5, width=box.right - box.left + 10, height=box.bottom - box.top + 10, rx=7,
        class_="halo-ring",
    )  # fmt: skip
    later, movable = thing_id in picture.evaluation.later_ids, movable and not picture.frame.upright
    if not picture.link_to(path_):
        return group(shapes, class_="thing")
    if later:
        title += ", comes later"
    return el(
        "a", el("title", title), halo, *shapes, href=picture.link_to(path_),
        class_="thing" + (" chosen" if chosen else "") + (" later" if later else ""),
        aria_label=title, data_thing=None if picture.frame.upright else path_, data_move="yes" if movable else None,
        id=f"{picture.prefix}thing-{thing_id}",
    )  # fmt: skip


def begin(evaluation: Evaluation, link_to: LinkTo, selected: str = "", frame: Frame | None = None) -> Picture:
    """An empty picture of the evaluated car, nose to the left or in a frame of its own; where `link_to` gives "" its
    things cannot be selected.
    """
    frame = frame or frame_of(evaluation.results.design.vehicle)
    field = LabelField(LabelBox(4, 2, frame.width_px - 4, frame.height_px - 2))
    return Picture(evaluation, frame, link_to, selected, field, prefix="up-" if frame.upright else "")


def picture_svg(body: list[Markup], height: float, title: str, name: str, width: float = WIDTH) -> Markup:
    """The whole drawing."""
    return el(
        "svg", el("title", title), *body, viewBox=f"0 0 {width:g} {height:g}", class_=f"drawing {name}", role="group",
        aria_label=title,
    )  # fmt: skip
