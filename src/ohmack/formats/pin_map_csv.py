"""Pin maps as CSV: a row a cavity, read with whatever separator, encoding and colour code they come in."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError

from ohmack.core.document.edits import sentence
from ohmack.core.document.facts import Basis
from ohmack.core.document.harness import Cavity, CavityUse, Condition, Connector, Polarity
from ohmack.core.document.vehicle import Vehicle
from ohmack.core.errors import OhmackError, UnknownName
from ohmack.core.wire_colours import colour_words, read_colour
from ohmack.formats.csv_table import Refusal, guarded_cell, read_table, write_table
from ohmack.formats.entry import EntryError, is_whole
from ohmack.formats.trade_entry import read_area

MOST_ROWS = 500
COLUMNS = (
    "cavity",
    "use",
    "channel",
    "polarity",
    "colour",
    "base",
    "tracer",
    "area_mm2",
    "goes to",
    "basis",
    "found",
    "papers say",
)
HEADS = {name: name for name in COLUMNS} | {
    "pin": "cavity", "position": "cavity", "no": "cavity", "no.": "cavity", "number": "cavity", "function": "use", "signal": "use", "is": "use",
    "pair": "channel", "speaker": "channel", "base colour": "base", "stripe": "tracer", "tracer colour": "tracer", "color": "colour", "wire colour": "colour",
    "gauge": "area_mm2", "wire": "area_mm2", "area": "area_mm2", "mm2": "area_mm2", "destination": "goes to", "to": "goes to", "condition": "found", "expected": "papers say",
}  # fmt: skip
USES = {use.value: use for use in CavityUse} | {
    "+12": CavityUse.CONSTANT, "b+": CavityUse.CONSTANT, "battery": CavityUse.CONSTANT, "memory": CavityUse.CONSTANT, "acc": CavityUse.SWITCHED, "accessory": CavityUse.SWITCHED,
    "ignition": CavityUse.SWITCHED, "ill": CavityUse.ILLUMINATION, "dimmer": CavityUse.ILLUMINATION, "gnd": CavityUse.GROUND, "earth": CavityUse.GROUND, "ground": CavityUse.GROUND,
    "remote": CavityUse.REMOTE, "amp": CavityUse.REMOTE, "ant": CavityUse.AERIAL, "aerial": CavityUse.AERIAL, "antenna": CavityUse.AERIAL, "can": CavityUse.BUS, "bus": CavityUse.BUS,
    "nc": CavityUse.EMPTY, "n/c": CavityUse.EMPTY, "-": CavityUse.EMPTY, "none": CavityUse.EMPTY, "speaker": CavityUse.SPEAKER, "airbag": CavityUse.AIRBAG, "swc": CavityUse.BUTTONS,
}  # fmt: skip
SIGNS = {"+": Polarity.PLUS, "plus": Polarity.PLUS, "positive": Polarity.PLUS, "-": Polarity.MINUS, "−": Polarity.MINUS, "minus": Polarity.MINUS, "negative": Polarity.MINUS}  # fmt: skip


@dataclass(frozen=True, slots=True)
class PinMapReport:
    """What was read of a pin map."""

    cavities: tuple[Cavity, ...]
    refused: tuple[Refusal, ...]
    ignored_columns: tuple[str, ...]
    encoding: str
    separator: str
    problem: str = ""


def write_pin_map(connector: Connector, vehicle: Vehicle) -> bytes:
    """A connector's cavities as CSV; base and tracer stand in columns of their own beside the colour in words."""
    names = {c.id: c.name for c in vehicle.channels}
    rows = []
    for c in sorted(connector.cavities, key=lambda c: (c.number, c.id)):
        taken = c.use.value
        rows.append({
            "cavity": str(c.number), "use": taken.value if taken else "", "channel": names.get(c.channel_id or "", ""),
            "polarity": {Polarity.PLUS: "plus", Polarity.MINUS: "minus"}[c.polarity] if c.polarity else "", "colour": colour_words(c.base, c.tracer),
            "base": c.base.value if c.base else "", "tracer": c.tracer.value if c.tracer else "", "area_mm2": f"{c.area_mm2:g}" if c.area_mm2 else "",
            "goes to": c.destination, "basis": c.use.basis.value if taken else "", "found": c.condition.value, "papers say": c.expected.value if c.expected else "",
        })  # fmt: skip
    return write_table(rows, COLUMNS, guarded_cell)


def read_area_mm2(text: str) -> float | None:
    """A wire's area from `0.75`, `0.75 mm2` or `18 AWG`.

    Raises:
        EntryError: it is none.
    """
    cleaned = text.strip()
    if not cleaned:
        return None
    return round(read_area(cleaned), 3)


def _channel(text: str, vehicle: Vehicle) -> tuple[str, Polarity | None]:
    """(channel id, polarity) of `front left`, `Front left +`, `fl-` or the channel's own name."""
    words = text.strip().lower()
    sign = next((SIGNS[s] for s in ("+", "−", "-") if words.endswith(s)), None)
    words = words.rstrip("+-− ").strip()
    for channel in vehicle.channels:
        place = channel.place.value if channel.place else ""
        short = "".join(w[0] for w in place.split())
        if words and words in (channel.name.lower(), channel.id, place, short, channel.id.removeprefix("ch-")):
            return channel.id, sign
    raise UnknownName("speaker pair", text.strip()[:40], ", ".join(c.name for c in vehicle.channels))


def _use(text: str, vehicle: Vehicle) -> tuple[CavityUse, str | None, Polarity | None]:
    words = text.strip().lower()
    if words in USES:
        return USES[words], None, None
    try:
        channel_id, sign = _channel(text, vehicle)
    except UnknownName:
        raise UnknownName("use of a cavity", text.strip()[:40], ", ".join(u.value for u in CavityUse)) from None
    return CavityUse.SPEAKER, channel_id, sign


def _tree(cells: dict[str, str], vehicle: Vehicle) -> dict[str, Any]:
    """The plain cavity of one row; raises where a cell cannot be read."""
    number = cells.get("cavity", "")
    if not is_whole(number, 4):
        raise EntryError(f"“{number[:20]}” is no cavity number.")
    tree: dict[str, Any] = {"id": f"c{int(number)}", "number": int(number), "destination": cells.get("goes to", "")}
    if "use" in cells:
        use, tree["channel_id"], tree["polarity"] = _use(cells["use"], vehicle)
        tree["use"] = {"value": use, "basis": cells.get("basis", "documented").lower()}
    if "papers say" in cells:
        tree["expected"] = _use(cells["papers say"], vehicle)[0]
    elif "use" in cells and tree["use"]["basis"] == Basis.DOCUMENTED.value:
        tree["expected"] = tree["use"]["value"]
    if "channel" in cells:
        tree["channel_id"], sign = _channel(cells["channel"], vehicle)
        tree["polarity"] = sign or tree.get("polarity")
    if "polarity" in cells:
        if cells["polarity"].lower() not in SIGNS:
            raise EntryError(f"“{cells['polarity'][:20]}” is no polarity: write plus or minus.")
        tree["polarity"] = SIGNS[cells["polarity"].lower()]
    if "colour" in cells:
        tree["base"], tree["tracer"] = read_colour(cells["colour"])
    for name in ("base", "tracer"):
        if name in cells:
            tree[name] = read_colour(cells[name])[0]
    if "area_mm2" in cells:
        tree["area_mm2"] = read_area_mm2(cells["area_mm2"])
    if "found" in cells:
        tree["condition"] = (
            Condition(cells["found"].lower()) if cells["found"].lower() in set(Condition) else cells["found"]
        )
    return tree


def read_pin_map(data: bytes, vehicle: Vehicle) -> PinMapReport:
    """Cavities from a CSV file.

    Parameters:
        data: the file.
        vehicle: the car, whose speaker pairs the rows name.

    Returns:
        the cavities that can be taken, and every other row with its reasons; nothing is raised for a bad row.
    """
    table = read_table(data, HEADS, ("cavity",), MOST_ROWS)
    cavities: list[Cavity] = []
    refused: list[Refusal] = []
    seen: dict[int, int] = {}
    for number, cells, too_long in table.rows:
        try:
            if too_long:
                raise EntryError("The row has more cells than the first line; is a decimal comma not quoted?")
            cavity = Cavity.model_validate(_tree(cells, vehicle))
        except ValidationError as error:
            words = " ".join(
                f"{e['loc'][0] if e['loc'] else 'It'} {sentence(e)}." for e in error.errors(include_url=False)
            )
            refused.append(Refusal(number, cells.get("cavity", ""), words))
        except OhmackError as error:
            refused.append(Refusal(number, cells.get("cavity", ""), str(error)))
        except EntryError as error:
            refused.append(Refusal(number, cells.get("cavity", ""), str(error)))
        else:
            if cavity.number in seen:
                refused.append(
                    Refusal(
                        number,
                        str(cavity.number),
                        f"Cavity {cavity.number} stands in row {seen[cavity.number]} already.",
                    )
                )
                continue
            seen[cavity.number] = number
            cavities.append(cavity)
    return PinMapReport(
        tuple(cavities), tuple(refused), table.ignored_columns, table.encoding, table.separator, table.problem
    )


def merged(old: Sequence[Cavity], new: Sequence[Cavity]) -> tuple[Cavity, ...]:
    """Rows from a file over what is on file: readings, joints and what was measured stay where the file says nothing of them."""
    known = {c.number: c for c in old}
    result = dict(known)
    for cavity in new:
        was = known.get(cavity.number)
        if was is None:
            result[cavity.number] = cavity
            continue
        kept = {
            name: getattr(was, name)
            for name in ("id", "feed_id", "joint", "off_v", "accessory_v", "lights_v", "body_ohm")
        }
        if was.use.basis is Basis.MEASURED and cavity.use.basis is not Basis.MEASURED:
            kept["use"] = was.use
        result[cavity.number] = cavity.model_copy(update=kept)
    return tuple(result[n] for n in sorted(result))
