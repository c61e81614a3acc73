"""Pin maps as CSV: a row a cavity, read with whatever separator, encoding and colour code they come in."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError

from ohmack.core.document.edits import sentence
from ohmack.core.document.factory import Band, ChannelPlace, RadioChannel
from ohmack.core.document.facts import Basis
from ohmack.core.document.harness import Cavity, CavityUse, Condition, Connector, Housing, Polarity
from ohmack.core.document.vehicle import Vehicle
from ohmack.core.errors import NotPossible, OhmackError, UnknownName
from ohmack.core.harness.wire_colours import colour_words, read_colour
from ohmack.core.reference import read_toml
from ohmack.formats.csv_table import Refusal, guarded_cell, read_table, write_table
from ohmack.formats.entry import EntryError
from ohmack.formats.trade_entry import read_area

MOST_ROWS = 500
NUMBERED = Housing()  # a housing whose cavities are called by their numbers
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
FIELDS_OF = {
    "use": ("use", "expected"),
    "papers say": ("expected",),
    "channel": ("channel_id", "polarity"),
    "polarity": ("polarity",),
    "colour": ("base", "tracer"),
    "base": ("base",),
    "tracer": ("tracer",),
    "area_mm2": ("area_mm2",),
    "goes to": ("destination",),
    "found": ("condition",),
}
"""What a column says of a cavity; a column that is not there and an empty cell say nothing, and what is on file
stays.
"""
_WORDS = read_toml("pin_map_words")


def _meanings(group: str) -> dict[str, str]:
    """What every word of a group of trade words means in ours."""
    return {word: ours for ours, words in _WORDS[group].items() for word in words}


HEADS = {name: name for name in COLUMNS} | _meanings("heads")
USES = {use.value: use for use in CavityUse} | {word: CavityUse(ours) for word, ours in _meanings("uses").items()}
PLACES = _meanings("places")
"""German, French and Spanish words of a speaker's place, word by word."""
BANDS = {"high": (Band.HIGH, Band.MID_HIGH), "mid": (Band.MID,), "low": (Band.LOW, Band.LOW_MID)}
BAND_WORDS = {name: name for name in BANDS} | _meanings("bands")
SPEAKER_WORDS = ("lautsprecher ", "haut-parleur ", "haut parleur ", "hp ", "altavoz ")
SIGNS = {
    "+": Polarity.PLUS,
    "plus": Polarity.PLUS,
    "positive": Polarity.PLUS,
    "-": Polarity.MINUS,
    "−": Polarity.MINUS,
    "minus": Polarity.MINUS,
    "negative": Polarity.MINUS,
}


@dataclass(frozen=True, slots=True)
class PinMapReport:
    """What was read of a pin map."""

    cavities: tuple[Cavity, ...]
    refused: tuple[Refusal, ...]
    ignored_columns: tuple[str, ...]
    encoding: str
    separator: str
    problem: str = ""
    given: tuple[frozenset[str], ...] = ()  # for each of the cavities the fields the file says something of
    lettered: bool = False  # whether it calls cavities A1, B7


@dataclass(frozen=True, slots=True)
class PinChange:
    """What a file does to one cavity, in words."""

    number: int
    was: str
    now: str
    kept: str = ""  # what the file said and was not taken, with the reason


def write_pin_map(connector: Connector, vehicle: Vehicle) -> bytes:
    """A connector's cavities as CSV; base and tracer stand in columns of their own beside the colour in words."""
    names = {c.id: c.name for c in vehicle.channels}
    rows = []
    for c in sorted(connector.cavities, key=lambda c: (c.number, c.id)):
        taken = c.use.value
        rows.append(
            {
                "cavity": connector.called(c),
                "use": taken.value if taken else "",
                "channel": names.get(c.channel_id or "", ""),
                "polarity": {Polarity.PLUS: "plus", Polarity.MINUS: "minus"}[c.polarity] if c.polarity else "",
                "colour": colour_words(c.base, c.tracer),
                "base": c.base.value if c.base else "",
                "tracer": c.tracer.value if c.tracer else "",
                "area_mm2": f"{c.area_mm2:g}" if c.area_mm2 else "",
                "goes to": c.destination,
                "basis": c.use.basis.value if taken else "",
                "found": c.condition.value,
                "papers say": c.expected.value if c.expected else "",
            }
        )
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
    """(channel id, polarity) of `front left`, `Front left +`, `fl-`, `front left tweeter` or the channel's own name.

    Raises:
        UnknownName: the car has no pair there.
        NotPossible: it has some there, and none of that band, or the band is not said.
    """
    words, sign = _signed(text)
    for before in SPEAKER_WORDS:
        words = words.removeprefix(before)
    for channel in vehicle.channels:
        if words and words in (channel.name.lower(), channel.id, channel.id.removeprefix("ch-")):
            return channel.id, sign
    said = [word.strip(",;()") for word in words.split()]
    band = next((BAND_WORDS[word] for word in said if word in BAND_WORDS), None)
    ours = [PLACES.get(word, word) for word in said if word not in BAND_WORDS and word != "range"]
    words = " ".join(sorted(ours, key=lambda word: word in ("left", "right")))  # the side stands last
    why: OhmackError = UnknownName("speaker pair", text.strip()[:40], ", ".join(c.name for c in vehicle.channels))
    for source in vehicle.sources:
        here = [c for c in source.channels if c.place is not None and words in (c.place.value, _initials(c.place))]
        fitting = [c for c in here if band is None or c.band.value in BANDS[band]]
        named = [c for c in fitting if c.place is not None and c.name.lower() == c.place.value]  # by its place alone
        if len(fitting) == 1 or named:
            return (named or fitting)[0].id, sign
        if here:
            why = NotPossible("channel", _several(here, band))
    raise why


def _several(here: Sequence[RadioChannel], band: str | None) -> str:
    """Why a place and a band, or a place alone, do not say which of some pairs is meant."""
    place = str(here[0].place)
    if band is None:
        return f"{place.capitalize()} has {len(here)} pairs; say which: {' or '.join(c.name for c in here)}."
    what = f"No one pair on file carries the {band} range of the {place}."
    return f"{what} Type its pairs in under Factory system, then bring the file in again."


def _signed(text: str) -> tuple[str, Polarity | None]:
    """Words without the sign they end with, and the sign."""
    words = text.strip().lower()
    sign = next((SIGNS[s] for s in ("+", "−", "-", "plus", "minus") if words.endswith(s)), None)
    return words.removesuffix("plus").removesuffix("minus").rstrip("+-− ").strip(), sign


def _initials(place: ChannelPlace) -> str:
    return "".join(word[0] for word in place.value.split())


def _use(text: str, vehicle: Vehicle) -> tuple[CavityUse, str | None, Polarity | None]:
    words = text.strip().lower()
    if words in USES:
        return USES[words], None, None
    bare, sign = _signed(text)
    if USES.get(bare) is CavityUse.SPEAKER:  # a column of its own says which
        return CavityUse.SPEAKER, None, sign
    try:
        channel_id, sign = _channel(text, vehicle)
    except UnknownName:
        known = [*(c.name for c in vehicle.channels), *(u.value for u in CavityUse)]
        raise UnknownName("use, or speaker pair of this car", text.strip()[:40], ", ".join(known)) from None
    return CavityUse.SPEAKER, channel_id, sign


def cavity_tree(cells: dict[str, str], vehicle: Vehicle, housing: Housing) -> dict[str, Any]:
    """The plain cavity of one row.

    Parameters:
        cells: text by column, empty ones left out.
        vehicle: the car, whose pairs the row may name.
        housing: the housing, which says what its cavities are called.

    Returns:
        the cavity as a document holds it.

    Raises:
        EntryError: a cell cannot be read.
        UnknownName: a pair, a use or a colour nobody knows.
    """
    called = cells.get("cavity", "")
    number = housing.number_of(called)
    if number is None:
        has = f"{housing.rows} rows of {housing.columns}"
        raise EntryError(f"“{called[:20]}” is no cavity of this housing, which has {has}.")
    tree: dict[str, Any] = {"id": f"c{number}", "number": number, "destination": cells.get("goes to", "")}
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


def read_pin_map(data: bytes, vehicle: Vehicle, housing: Housing = NUMBERED) -> PinMapReport:
    """Cavities from a CSV file.

    Parameters:
        data: the file.
        vehicle: the car, whose speaker pairs the rows name.
        housing: the housing, which says what A1 or B7 is.

    Returns:
        the cavities that can be taken, and every other row with its reasons; nothing is raised for a bad row.
    """
    table = read_table(data, HEADS, ("cavity",), MOST_ROWS)
    cavities: list[Cavity] = []
    refused: list[Refusal] = []
    given: list[frozenset[str]] = []
    seen: dict[int, int] = {}
    for number, cells, too_long in table.rows:
        try:
            if too_long:
                raise EntryError("The row has more cells than the first line; is a decimal comma not quoted?")
            cavity = Cavity.model_validate(cavity_tree(cells, vehicle, housing))
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
                        cells["cavity"],
                        f"Cavity {cells['cavity']} stands in row {seen[cavity.number]} already.",
                    )
                )
                continue
            seen[cavity.number] = number
            cavities.append(cavity)
            given.append(frozenset(field for column in cells for field in FIELDS_OF.get(column, ())))
    lettered = any(cells.get("cavity", "")[:1].isalpha() for _, cells, _ in table.rows)
    problem = table.problem
    if not problem and not any(FIELDS_OF.get(column) for column in table.columns):
        unknown = f" ({', '.join(table.ignored_columns)} cannot be read here)" if table.ignored_columns else ""
        problem = f"No column says anything of a cavity{unknown}. Columns: {', '.join(COLUMNS[1:])}."
    if problem:
        cavities, given = [], []
    return PinMapReport(
        tuple(cavities), tuple(refused), table.ignored_columns, table.encoding, table.separator, problem,
        tuple(given), lettered,
    )  # fmt: skip


def merged(old: Sequence[Cavity], report: PinMapReport) -> tuple[Cavity, ...]:
    """Rows of a file over what is on file: only what a row says changes, and what was measured stays measured."""
    known = {c.number: c for c in old}
    result = dict(known)
    for cavity, given in zip(report.cavities, report.given, strict=True):
        was = known.get(cavity.number)
        result[cavity.number] = cavity if was is None else _over(was, cavity, given)
    return tuple(result[n] for n in sorted(result))


def _over(was: Cavity, cavity: Cavity, given: frozenset[str]) -> Cavity:
    taken = {name: getattr(cavity, name) for name in given}
    if _measured_stays(was, cavity, given):
        taken = {n: v for n, v in taken.items() if n not in ("use", "channel_id", "polarity")}
    elif "use" in given and cavity.use.value is not CavityUse.SPEAKER and was.use.value is CavityUse.SPEAKER:
        taken |= {"channel_id": cavity.channel_id, "polarity": cavity.polarity}  # no speaker any more: its pair goes
    elif "use" in given and cavity.channel_id:
        taken |= {"channel_id": cavity.channel_id, "polarity": cavity.polarity or was.polarity}
    return was.model_copy(update=taken)


def _measured_stays(was: Cavity, cavity: Cavity, given: frozenset[str]) -> bool:
    return "use" in given and was.use.basis is Basis.MEASURED and cavity.use.basis is not Basis.MEASURED


def changes(old: Sequence[Cavity], report: PinMapReport, vehicle: Vehicle) -> tuple[PinChange, ...]:
    """What a file would do, or did, to every cavity it names: before and after."""
    known = {c.number: c for c in old}
    found = []
    for cavity, given in sorted(zip(report.cavities, report.given, strict=True), key=lambda pair: pair[0].number):
        was = known.get(cavity.number)
        now = cavity if was is None else _over(was, cavity, given)
        kept = ""
        if was is not None and _measured_stays(was, cavity, given) and was.use.value != cavity.use.value:
            said = cavity.use.value.value if cavity.use.value else "nothing"
            kept = f"the file says {said}; what was measured stays"
        found.append(
            PinChange(cavity.number, in_words(was, vehicle) if was else "not on file", in_words(now, vehicle), kept)
        )
    return tuple(found)


def in_words(cavity: Cavity, vehicle: Vehicle) -> str:
    """One cavity in a line: use, pair and sign, colour, area, where it goes, the state it is in."""
    channel = next((c.name for c in vehicle.channels if c.id == cavity.channel_id), "")
    use = cavity.taken_for.value if cavity.taken_for else "not known"
    sign = cavity.polarity.value if cavity.polarity else ""
    parts = [
        " ".join(p for p in (use, channel, sign) if p), colour_words(cavity.base, cavity.tracer),
        f"{cavity.area_mm2:g} mm²" if cavity.area_mm2 else "", f"to {cavity.destination}" if cavity.destination else "",
        "" if cavity.condition is Condition.WHOLE else cavity.condition.value,
    ]  # fmt: skip
    return ", ".join(p for p in parts if p)
