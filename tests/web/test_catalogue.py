"""The catalogue as CSV: what goes out comes back the same; separators, encodings, commas; refusals named by row."""

from __future__ import annotations

import csv
import io
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from starlette.testclient import TestClient

from ohmack.demo.building import catalogue
from ohmack.store.context import BUILT_IN
from ohmack.store.database import Database
from ohmack.store.shop import PART, ShopStore
from ohmack.web.catalogue_csv import MOST_REFUSALS, read_catalogue, write_catalogue

PARTS = [PART.validate_python(tree | {"id": f"c-{n}"}) for n, tree in enumerate(catalogue())]


def bare(part: Any) -> dict[str, Any]:
    return dict(part.model_dump(exclude={"id", "position", "phase", "catalogue_id"}))


def test_what_goes_out_comes_back_the_same() -> None:
    report = read_catalogue(write_catalogue(PARTS))
    assert not report.refused
    assert not report.ignored_columns
    assert [bare(p) for p in report.parts] == [bare(p) for p in PARTS]


@settings(max_examples=40)
@given(
    st.text(
        st.characters(codec="utf-8", exclude_characters="\0\r\n", exclude_categories=("Cs", "Cc")),
        min_size=1,
        max_size=40,
    )
)
def test_any_name_survives_and_none_is_a_formula(name: str) -> None:
    part = PARTS[0].model_copy(update={"name": name.strip() or "x", "maker": "=cmd()"})
    data = write_catalogue([part])
    for row in list(csv.reader(io.StringIO(data.decode("utf-8-sig"))))[1:]:
        assert not row[1].startswith(("=", "+", "-", "@"))  # the usual formula signs
        assert not row[2].startswith(("=", "+", "-", "@"))
    report = read_catalogue(data)
    assert [(p.name.strip(), p.maker) for p in report.parts] == [
        (part.name.strip("'").strip() if part.name.startswith("''") else part.name, "=cmd()")
    ]


HEADS = (
    "kind",
    "maker",
    "name",
    "price",
    "role",
    "impedance_ohm",
    "power_rms_w",
    "mounting_depth_mm",
    "cut_out_mm",
    "frame_mm",
    "front_height_mm",
)
ROW = ("driver", "Märrek", "Coax Ω 13", "44,50", "coaxial", "4", "45 W", "48,5", "4 1/2 in", "132", "9,5")


@pytest.mark.parametrize(("separator", "encoding", "said"), [
    (";", "utf-8", "UTF-8"), ("\t", "utf-16", "UTF-16"), ("|", "utf-8-sig", "UTF-8"),
    (";", "cp1252", "Windows-1252"), (",", "utf-8", "UTF-8"),
])  # fmt: skip
def test_separators_encodings_and_decimal_commas(separator: str, encoding: str, said: str) -> None:
    out = io.StringIO()
    row = [cell.replace("Ω ", "") if encoding == "cp1252" else cell for cell in ROW]
    csv.writer(out, delimiter=separator).writerows([HEADS, row])
    report = read_catalogue(out.getvalue().encode(encoding))
    assert (report.encoding, report.separator) == (said, separator)
    part = report.parts[0]
    assert part.maker == "Märrek"
    assert (part.price, part.mounting_depth_mm, part.front_height_mm) == (44.5, 48.5, 9.5)  # type: ignore[union-attr]
    assert part.cut_out_mm == pytest.approx(4.5 * 25.4)  # type: ignore[union-attr]  # the international inch


@pytest.mark.parametrize(("row", "words"), [
    ("spaceship;A;B;1", "no kind of part"),
    (";A;B;1", "kind is missing"),
    ("driver;A;;1", "no name"),
    ("fuse holder;A;B;-3;21", "It must be 0 or more"),
    ("fuse holder;A;B;dear;21", "Price:"),
    ("fuse holder;A;B;2.500;21", "two ways"),
    ("driver;A;B;1", "RMS power"),
    ("fuse holder;A;B;1;2;3;4;5", "more cells than the first line"),
])  # fmt: skip
def test_a_bad_row_is_named_and_the_others_are_taken(row: str, words: str) -> None:
    data = f"Kind;Maker;Name;Price;Shade\n{row}\n\nfuse holder;A;Good;1\n".encode()
    report = read_catalogue(
        data.replace(b"Kind;Maker;Name;Price;Shade", b"Kind;Maker;Name;Price;Holder takes wire up to;Shade").replace(
            b"Good;1", b"Good;1;21,2"
        )
    )
    assert report.ignored_columns == ("Shade",)
    assert [p.name for p in report.parts] == ["Good"]
    assert [(r.row, words in r.reasons) for r in report.refused] == [(2, True)], report.refused


@pytest.mark.parametrize("data", [b"", b"  \n \n", b"\x00\x01\x02", b"name;price\nA;1\n", b"kind\namplifier\n"])
def test_files_that_are_no_catalogue(data: bytes) -> None:
    report = read_catalogue(data)
    assert report.problem
    assert not report.parts


def test_in_and_out_through_the_pages(client: TestClient, database: Database) -> None:
    shop = ShopStore(database)
    before = shop.count_parts(BUILT_IN)
    out = client.get("/catalogue/export")
    assert out.headers["content-type"].startswith("text/csv")

    def bring(data: bytes) -> Any:
        return client.post("/catalogue/import", files={"file": ("parts.csv", data)})

    assert "0 parts added" in bring(out.content).text  # everything is known already
    assert shop.count_parts(BUILT_IN) == before
    mixed = (
        b"kind,maker,name,price,family,terminal_area_max_mm2\nfuse holder,Hob,Hob 100% holder,12.5,maxi,33.6\nfuse"
        b" holder,Hob,Bad,abc,maxi,33.6\n"
    )
    answer = bring(mixed)
    assert answer.status_code == 200
    for words in ("1 part added, 0 changed, 0 as before", "1 row not taken", "Price:", "Bad"):
        assert words in answer.text, words
    assert "0 parts added, 1 changed, 0 as before" in bring(mixed.replace(b"12.5", b"13.5")).text
    found = client.get("/catalogue", params={"words": "100%"}).text
    assert "Hob 100% holder" in found
    assert "1 part found" in found
    assert "Tessel" not in found
    assert shop.count_parts(BUILT_IN, words="%") == 1
    assert shop.count_parts(BUILT_IN, words="_") == 0
    for data, words in (
        (b"", "Choose a file first"),
        (b"\x89PNG\r\n\0", "no text"),
        (b"kind,name\nx,y\n", "No row could be taken"),
    ):
        refused = bring(data)
        assert refused.status_code == 422
        assert words in refused.text
        assert "Nothing was stored" in refused.text
    assert shop.count_parts(BUILT_IN) == before + 1


def test_two_thousand_rows(client: TestClient, database: Database) -> None:
    rows = [f"fuse holder,Bulk,Holder {n},{n / 10:.2f},maxi,21.2" for n in range(2000)]
    rows[1000] = "fuse holder,Bulk,Holder x,much,maxi,21.2"
    answer = client.post(
        "/catalogue/import",
        files={
            "file": ("big.csv", ("kind,maker,name,price,family,terminal_area_max_mm2\n" + "\n".join(rows)).encode())
        },
    )
    assert "1999 parts added" in answer.text
    assert "1 row not taken" in answer.text
    page = client.get("/catalogue?kind=fuse+holder").text
    assert "the first 200 shown" in " ".join(page.split())
    database.run(
        lambda c: c.cursor().execute("UPDATE catalogue_parts SET archived_at = UTC_TIMESTAMP() WHERE maker = 'Bulk'")
    )


def test_a_catalogue_part_is_changed_put_away_and_taken_back(client: TestClient, database: Database) -> None:
    shop = ShopStore(database)
    part = PART.validate_python(
        {"id": "x", "kind": "wire", "name": "Odd reel", "maker": "A", "wire_size": "8 AWG", "on_reel_m": 5.0}
    )
    number = shop.add_part(BUILT_IN, part)
    address = f"/catalogue/{number}"
    form = {
        "version": "1",
        "name": "Odd reel",
        "maker": "A",
        "wire_size": "10 mm²",
        "on_reel_m": "16 ft 5 in",
        "material": "copper",
        "basis": "measured",
        "colour": "red",
    }
    assert "Odd reel" in client.get(address).text
    bad = client.post(address, data=form | {"on_reel_m": "a few", "name": " "})
    assert bad.status_code == 422
    assert "Give it a name" in bad.text
    assert 'value="a few"' in bad.text
    assert client.post(address, data=form, follow_redirects=False).status_code == 303
    changed = shop.record(BUILT_IN, number)
    assert changed.version == 2
    assert changed.part.model_dump()["wire_size"] == "10 mm2"
    assert changed.part.model_dump()["on_reel_m"] == pytest.approx(16 * 0.3048 + 5 * 0.0254, abs=1e-3)
    stale = client.post(address, data=form | {"name": "Stale"})  # still version 1
    assert stale.status_code == 409
    assert 'value="Stale"' in stale.text
    assert shop.record(BUILT_IN, number).part.name == "Odd reel"
    assert client.post(address, data={"version": "2", "act": "away"}, follow_redirects=False).status_code == 303
    assert "Odd reel" not in client.get("/catalogue?words=odd+reel").text
    assert "Odd reel" in client.get("/catalogue?words=odd+reel&away=true").text
    assert client.post(address, data={"version": "2", "act": "back"}).status_code == 409
    assert client.post(address, data={"version": "3", "act": "back"}, follow_redirects=False).status_code == 303
    assert "Odd reel" in client.get("/catalogue?words=odd+reel").text
    assert client.get("/catalogue/999999").status_code == 404


def test_a_file_that_is_another_file_stops_early() -> None:
    rows = "".join(f"amplifier;A{i};{i} miles;x\n" for i in range(6000))
    report = read_catalogue(f"kind;name;lowest_load_ohm;channel_count\n{rows}".encode())
    assert len(report.refused) == MOST_REFUSALS + 1  # the other 5,000 are not even looked at
    assert not report.parts
    assert "right file" in report.problem
