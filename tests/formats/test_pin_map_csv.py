"""Pin maps as CSV: what goes out comes back; separators, encodings, colour codes; refusals named by row."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ohmack.core.document.factory import Band
from ohmack.core.document.facts import Basis, Fact
from ohmack.core.document.harness import Cavity, CavityUse, Colour, Condition, Connector, Polarity
from ohmack.demo.jobs import demo_design
from ohmack.formats.entry import EntryError
from ohmack.formats.pin_map_csv import changes, merged, read_area_mm2, read_pin_map, write_pin_map

VEHICLE = demo_design(0).vehicle
cavities = st.builds(
    Cavity,
    id=st.just("x"),
    number=st.integers(1, 999),
    base=st.none() | st.sampled_from(list(Colour)),
    tracer=st.none(),
    use=st.builds(
        Fact[CavityUse],
        value=st.sampled_from([u for u in CavityUse if u is not CavityUse.SPEAKER]),
        basis=st.sampled_from(list(Basis)),
    ),
    expected=st.none() | st.sampled_from(list(CavityUse)),
    area_mm2=st.none() | st.sampled_from([0.35, 0.5, 0.75, 1.5, 2.5]),
    destination=st.sampled_from(["", "left door, via the boot", "=SUM(A1)", "dash; glove box", 'the "old" alarm']),
    condition=st.sampled_from(list(Condition)),
)


@given(st.lists(cavities, max_size=12, unique_by=lambda c: c.number))
def test_out_and_in_again(pins: list[Cavity]) -> None:
    own = tuple(sorted((c.model_copy(update={"id": f"c{c.number}"}) for c in pins), key=lambda c: c.number))
    report = read_pin_map(write_pin_map(Connector(id="k", name="K", cavities=own), VEHICLE), VEHICLE)
    assert not report.refused
    for was, now in zip(own, report.cavities, strict=True):
        expected = was.expected or (was.use.value if was.use.basis is Basis.DOCUMENTED else None)
        assert now == was.model_copy(update={"expected": expected})


def test_the_demo_map_survives_with_pairs_and_tracers() -> None:
    plug = VEHICLE.connectors[0]
    again = {c.number: c for c in read_pin_map(write_pin_map(plug, VEHICLE), VEHICLE).cavities}
    for cavity in plug.cavities:
        back = again[cavity.number]
        assert (back.base, back.tracer, back.channel_id, back.polarity) == (
            cavity.base,
            cavity.tracer,
            cavity.channel_id,
            cavity.polarity,
        )


@pytest.mark.parametrize("separator", [";", ",", "\t", "|"])
@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "cp1252"])
def test_separators_and_encodings(separator: str, encoding: str) -> None:
    rows = [
        ["Pin", "Function", "Color", "Gauge", "To"],
        ["3", "Front left +", "WH/GN", "18 AWG", "Tür links"],
        ["4", "B+", "red", '"0,75"', ""],
    ]
    report = read_pin_map("\r\n".join(separator.join(r) for r in rows).encode(encoding), VEHICLE)
    assert not report.refused, report.refused
    one, two = report.cavities
    assert (one.use.value, one.channel_id, one.polarity) == (CavityUse.SPEAKER, "ch-fl", Polarity.PLUS)
    assert (one.base, one.tracer, one.destination) == (Colour.WHITE, Colour.GREEN, "Tür links")
    assert one.area_mm2 == pytest.approx(0.823, abs=0.001)  # 18 AWG is 0.823 mm² (ASTM B258, from memory)
    assert (two.use.value, two.area_mm2) == (CavityUse.CONSTANT, 0.75)


@pytest.mark.parametrize(
    ("row", "words"),
    [
        ("x;constant;red", "no cavity of this housing"), ("2;warp drive;red", "warp drive"),
        ("2;constant;tartan", "tartan"),
        ("0;constant;red", "greater|1 or more"),
        ("2;constant;red/blue/green", "at most one tracer"), ("1;constant;red", "row 2 already"),
        ("2;constant;red;4;5;6;7", "more cells"), ("-2;constant;red", "no cavity of this housing"),
    ],
)  # fmt: skip
def test_a_bad_row_is_named_and_the_others_are_taken(row: str, words: str) -> None:
    report = read_pin_map(f"cavity;use;colour\n1;ground;black\n{row}\n9;switched;blue/red\n".encode(), VEHICLE)
    assert [c.number for c in report.cavities] == [1, 9]
    assert len(report.refused) == 1
    assert report.refused[0].row == 3
    assert any(w in report.refused[0].reasons for w in words.split("|"))


def test_files_that_are_no_map_say_so() -> None:
    for data, words in (
        (b"", "empty"),
        (b"\0\1", "no text"),
        (b"use;colour\nground;black\n", "no column cavity"),
        (b"cavity\n" + b"1\n" * 501, "At most 500"),
    ):
        report = read_pin_map(data, VEHICLE)
        assert words in report.problem
        assert not report.cavities


def test_a_file_never_takes_away_what_was_measured() -> None:
    old = Cavity(
        id="c1",
        number=1,
        use=Fact[CavityUse](value=CavityUse.SWITCHED, basis=Basis.MEASURED),
        off_v=0.0,
        accessory_v=12.1,
    )
    paper = read_pin_map(b"pin,use,colour\n1,constant,red\n2,,\n", VEHICLE)
    was = (old, Cavity(id="c7", number=7))
    result = merged(was, paper)
    assert [(c.number, c.kept) for c in changes(was, paper, VEHICLE)] == [
        (1, "the file says constant; what was measured stays"),
        (2, ""),
    ]
    assert [c.number for c in result] == [1, 2, 7]
    assert (result[0].use.value, result[0].off_v, result[0].expected, result[0].base) == (
        CavityUse.SWITCHED,
        0.0,
        CavityUse.CONSTANT,
        Colour.RED,
    )


def test_a_column_the_file_does_not_have_takes_nothing_away() -> None:
    """Two columns of five: the others stay, in whatever language the headings are."""
    plug = VEHICLE.connectors[0]
    for head, sizes in (("pin;gauge", ("18 AWG", "0,5 mm²")), ("Pin;Querschnitt;Bemerkung", ("0,82", "0,5"))):
        numbers = [c.number for c in plug.cavities[:2]]
        rows = "".join(f"{n};{size};x\n" for n, size in zip(numbers, sizes, strict=True)).replace(
            ";x", ";x" if head.count(";") == 2 else ""
        )
        report = read_pin_map(f"{head}\n{rows}".encode("cp1252"), VEHICLE)
        assert not report.refused, report.refused
        after = merged(plug.cavities, report)
        for was, now in zip(sorted(plug.cavities, key=lambda c: c.number), after, strict=True):
            assert now.model_copy(update={"area_mm2": was.area_mm2}) == was
        assert after[0].area_mm2 == pytest.approx(0.82, abs=0.01)
        assert report.ignored_columns == (("Bemerkung",) if head.count(";") == 2 else ())


def test_an_empty_cell_takes_nothing_away() -> None:
    plug = VEHICLE.connectors[0]
    first, second = plug.cavities[:2]
    report = read_pin_map(
        f"pin,use,colour,goes to\n{first.number},,,behind the glove box\n{second.number},,pink,\n".encode(), VEHICLE
    )
    after = {c.number: c for c in merged(plug.cavities, report)}
    assert after[first.number] == first.model_copy(update={"destination": "behind the glove box"})
    assert after[second.number] == second.model_copy(update={"base": Colour.PINK, "tracer": None})


def test_german_headings_and_words_are_read_and_unknown_ones_stop() -> None:
    """Names of terminals (30, 15, 31, 58) are of DIN 72552, from memory; colour codes of IEC 60757, from memory."""
    file = (
        "Pin;Funktion;Kanal;Farbe;mm²\n1;Dauerplus;;RT;1,5\n2;Masse;;braun;1,5\n3;Lautsprecher;vorne links"
        " +;GR/SW;0,75\n4;Kl. 15;;sw/vi;0,5\n"
    )
    report = read_pin_map(file.encode("cp1252"), VEHICLE)
    assert not report.refused, report.refused
    assert [(c.use.value, c.base, c.tracer, c.area_mm2) for c in report.cavities] == [
        (CavityUse.CONSTANT, Colour.RED, None, 1.5),
        (CavityUse.GROUND, Colour.BROWN, None, 1.5),
        (CavityUse.SPEAKER, Colour.GREY, Colour.BLACK, 0.75),
        (CavityUse.SWITCHED, Colour.BLACK, Colour.PURPLE, 0.5),
    ]
    assert (report.cavities[2].channel_id, report.cavities[2].polarity) == ("ch-fl", Polarity.PLUS)
    for words in ("pin;warp;drive\n1;a;b\n", "pin\n1\n"):
        report = read_pin_map(words.encode(), VEHICLE)
        assert report.problem.startswith("No column says anything of a cavity")
        assert not report.cavities
        assert ("warp, drive" in report.problem) == (";" in words)


def test_areas_are_read_as_people_write_them() -> None:
    assert read_area_mm2("2.5 mm²") == 2.5
    assert read_area_mm2("") is None
    assert read_area_mm2("16 AWG") == pytest.approx(1.309, abs=0.001)  # ASTM B258, from memory
    for bad in ("thick", "16 stone"):
        with pytest.raises(EntryError):
            read_area_mm2(bad)


@pytest.mark.parametrize(
    ("head", "rows", "used"),
    [
        ("broche;fonction;couleur;section", ["1;+ permanent;rouge/noir;1,5", "2;haut-parleur avant gauche +;blanc;0,75",
         "3;masse;noir;1,5", "4;marche arrière;bleu clair;0,5", "5;après contact;jaune;1"],
         ["constant", "speaker", "ground", "reverse light", "switched"]),
        ("patilla;función;color;sección", ["1;positivo permanente;rojo/negro;1,5",
         "2;altavoz izquierdo delantero +;blanco;0,75", "3;masa;negro;1,5", "4;marcha atrás;azul claro;0,5",
         "5;contacto;amarillo;1"],
         ["constant", "speaker", "ground", "reverse light", "switched"]),
        ("Kammer;Belegung;Farbe;Querschnitt", ["1;Dauerplus;rot/schwarz;1,5", "2;Lautsprecher vorne links +;weiß;0,75",
         "3;Masse;schwarz;1,5", "4;Rückfahrlicht;hellblau;0,5", "5;Zündplus;gelb;1"],
         ["constant", "speaker", "ground", "reverse light", "switched"]),
    ],
    ids=["French", "Spanish", "German"],
)  # fmt: skip
def test_papers_in_other_languages_are_read(head: str, rows: list[str], used: list[str]) -> None:
    """Words of the trade, common practice; all three say the same of the same plug."""
    report = read_pin_map("\n".join([head, *rows]).encode(), VEHICLE)
    assert not report.refused
    assert not report.ignored_columns
    assert [c.use.value.value for c in report.cavities if c.use.value] == used
    constant, speaker, ground, reverse, switched = report.cavities
    assert (constant.base, constant.tracer) == (Colour.RED, Colour.BLACK)
    assert (speaker.channel_id, speaker.polarity, speaker.base) == ("ch-fl", Polarity.PLUS, Colour.WHITE)
    assert (ground.area_mm2, reverse.base, switched.base) == (1.5, Colour.LIGHT_BLUE, Colour.YELLOW)


def test_a_pair_that_carries_one_band_is_found_by_its_band() -> None:
    """High and low wires of one door, as German and French papers call them; without the pairs on file the row says
    where they go in, and a place with two of them asks which is meant.
    """
    head = "Pin;Funktion;Kanal\n"
    doors = "3;Lautsprecher +;vorne links Hochton\n4;Lautsprecher -;vorne links Tieftöner\n"
    rows = f"{doors}5;CAN high;\n6;haut-parleur;avant gauche\n"
    whole = read_pin_map((head + rows).encode(), VEHICLE)
    assert [(c.number, c.use.value) for c in whole.cavities] == [(5, CavityUse.BUS), (6, CavityUse.SPEAKER)]
    assert ["under Factory system" in refusal.reasons for refusal in whole.refused] == [True, True]
    radio = VEHICLE.radio
    front = next(c for c in radio.channels if c.place == "front left")
    split = [
        front.model_copy(update={"id": f"fl-{n}", "name": f"FL {n}", "band": Fact[Band](value=b)})
        for n, b in (("low", Band.LOW_MID), ("high", Band.HIGH))
    ]
    others = [c for c in radio.channels if c is not front]
    car = VEHICLE.model_copy(update={"radio": radio.model_copy(update={"channels": (*split, *others)})})
    parted = read_pin_map((head + rows).encode(), car)
    assert [(c.number, c.channel_id, c.polarity) for c in parted.cavities[:2]] == [
        (3, "fl-high", Polarity.PLUS), (4, "fl-low", Polarity.MINUS),
    ]  # fmt: skip
    assert [refusal.reasons for refusal in parted.refused] == ["Front left has 2 pairs; say which: FL low or FL high."]
