"""The bay plan and the papers over the web: booked, moved, clashes named; PDFs read by another reader."""

from __future__ import annotations

import builtins
import re
from datetime import date, timedelta
from io import BytesIO
from xml.etree import ElementTree as ET

import pytest
import vobject
from pypdf import PdfReader
from starlette.testclient import TestClient

from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.evaluation.door import evaluate
from ohmack.demo.jobs import demo_design
from ohmack.store.context import BUILT_IN
from ohmack.store.database import Database
from ohmack.store.work import WorkStore
from ohmack.web.papers.making import PAPERS
from ohmack.web.papers.pdf import _fetcher
from ohmack.web.papers.picture_style import on_paper
from web.test_survey import Bench, car

NEXT = date.today() + timedelta(days=7 - date.today().weekday())  # the coming Monday


def here(number: int = 0):
    """A demo job whose parts are all here."""
    design = demo_design(number)
    return apply_edits(design, [Edit(path=f"parts/{p.id}/stands", value="here") for p in design.parts])


def booked(bench: Bench, **fields: str):
    return bench.post("booking", stage="steps", path="booking", **{"act": "keep", "bay": "1", "people": "1", **fields})


def week(client: TestClient, day: date) -> str:
    return client.get("/bay", params={"week": day.isoformat()}).text


def test_cars_are_booked_and_clash_by_name(client: TestClient, database: Database) -> None:
    far = NEXT + timedelta(weeks=30)
    one, two = Bench(client, database, here()), Bench(client, database, here(16))
    for bench in (one, two):
        assert booked(bench, starts=f"{far}T08:00", due=str(far)).status_code == 303
    page = week(client, far)
    assert f"{one.job} and {two.job} stand in bay 1 at the same time" in page
    assert booked(two, starts=f"{far}T08:00", bay="2").status_code == 303
    page = week(client, far)
    assert "stand in bay 1 at the same time" not in page
    assert page.count(f'href="/jobs/{one.job}#when"') >= 2, "in the picture and in the table"
    assert two.job not in week(client, far + timedelta(weeks=1))
    events = vobject.readOne(client.get("/bay.ics").text).vevent_list
    (mine,) = [e for e in events if e.uid.value == f"{one.job}-1@ohmack.invalid"]
    assert str(mine.dtstart.value) == f"{far} 08:00:00"
    assert booked(one, act="out").status_code == 303
    assert one.design.work.booking is None
    assert one.job not in week(client, far)


def test_the_first_free_place_is_taken_after_the_parts(client: TestClient, database: Database) -> None:
    waiting = apply_edits(here(), [Edit(path="parts/amp/stands", value="ordered")])
    bench = Bench(client, database, waiting)
    answer = booked(bench, act="free")
    assert answer.status_code == 422
    assert re.search(r'class="problem wide">Nobody knows when [^<]* will be here', answer.text)
    known = Bench(client, database, apply_edits(waiting, [Edit(path="parts/amp/lead_days", value=9)]))
    assert booked(known, act="free").status_code == 303
    starts = known.design.work.booking.starts
    assert date.fromisoformat(starts[:10]) >= date.today() + timedelta(days=9)
    assert date.fromisoformat(starts[:10]).weekday() < 5
    same = Bench(client, database, apply_edits(here(), [Edit(path="parts/amp/lead_days", value=9)]))
    assert booked(same, act="free").status_code == 303
    assert "at the same time" not in week(client, date.fromisoformat(same.design.work.booking.starts[:10]))


@pytest.mark.parametrize(
    ("fields", "words"),
    [({"starts": "2026-02-31T08:00"}, "Comes in: a day and a time"), ({"due": "soon"}, "Ready by: a day"),
     ({"bay": "99"}, "Bays have numbers from 1 to 12"), ({"people": "three"}, "At work: a whole number")],
)  # fmt: skip
def test_a_booking_that_cannot_be_is_refused_at_its_place(
    client: TestClient, database: Database, fields: dict[str, str], words: str
) -> None:
    bench = Bench(client, database, here())
    answer = booked(bench, **{"starts": f"{NEXT}T08:00", **fields})
    assert answer.status_code == 422
    assert words in answer.text
    (name, typed), *_ = fields.items()
    assert re.search(rf'name="{name}"[^>]*value="{typed}"', answer.text), "what was typed is still there"
    assert bench.design.work.booking is None
    assert client.get("/bay", params={"week": "yesterday"}).status_code == 200
    assert client.get("/bay", params={"week": "9999-12-31"}).status_code == 200


def test_times_follow_the_steps_through_undo(client: TestClient, database: Database) -> None:
    bench, store = Bench(client, database, demo_design(0)), WorkStore(database)

    def mine() -> list[tuple[str, float]]:
        all_of_them = store.times(BUILT_IN)
        others = store.times(BUILT_IN, but_job=bench.job)
        return sorted((t.kind, t.minutes) for t in all_of_them if t not in others)

    assert mine() == []
    bench.post("step", stage="steps", step="try-all", done="yes", minutes="17.5")
    assert mine() == [("try-all", 17.5)]
    bench.client.post(f"/jobs/{bench.job}/undo", data={"version": bench.store.load(BUILT_IN, bench.job).version})
    assert mine() == []
    page = bench.page("steps")
    assert "What such steps took here" in page, "the demo shop has timed some"
    assert bench.post("step-times", stage="steps").status_code == 303
    assert {t.kind for t in bench.design.work.times} >= {"try-all", "gains"}
    assert "common practice again" in bench.page("steps")
    bench.post("step-times", stage="steps", practice="yes")
    assert not bench.design.work.times


def test_steps_are_moved_and_split_by_form(client: TestClient, database: Database) -> None:
    bench = Bench(client, database, demo_design(0))
    plan = evaluate(bench.design).results.work_plan
    before = str(plan.named("lay-power-amp").number)
    bench.post("step-move", stage="steps", step="lay-line-amp", before=before)
    assert [(m.step, m.before) for m in bench.design.work.moved] == [("lay-line-amp", "lay-power-amp")]
    assert f"put before {plan.named('lay-power-amp').number + 1}" in bench.page("steps")
    answer = bench.post("step-move", stage="steps", path="step-move", step="main-fuse", before="x")
    assert answer.status_code == 422
    assert "Say the number of the step" in answer.text
    bench.post("step-move", stage="steps", step="lay-line-amp", back="yes")
    assert not bench.design.work.moved
    bench.post("step-split", stage="steps", step="gains", first="Front", second="Subwoofer")
    assert "Subwoofer" in bench.page("steps")
    bench.post("step-split", stage="steps", step="gains", whole="yes")
    assert not bench.design.work.splits
    rows = client.get(f"/jobs/{bench.job}/steps.csv").text.splitlines()
    assert len(rows) > 30
    assert client.get(f"/jobs/{bench.job}/quote.csv").text.splitlines()[-1].startswith("Sums,together")


def pdf_of(client: TestClient, job: str, name: str) -> PdfReader:
    answer = client.get(f"/jobs/{job}/papers/{name}.pdf")
    assert answer.status_code == 200
    assert answer.headers["content-type"] == "application/pdf"
    return PdfReader(BytesIO(answer.content))


def test_every_paper_of_a_job(client: TestClient, database: Database) -> None:
    """Five channels, four doors and a box; each paper is made once."""
    job = Bench(client, database, demo_design(13)).job
    readers = {name: pdf_of(client, job, name) for name in PAPERS}
    texts = {name: [page.extract_text() for page in reader.pages] for name, reader in readers.items()}
    _say_whose_they_are(job, readers, texts)
    _hold_what_they_are_for({name: " ".join(pages) for name, pages in texts.items()})
    _print_at_full_size(readers["templates"])
    feet = Bench(client, database, apply_edits(demo_design(13), [Edit(path="policy/length_unit", value="ft")]))
    assert float(pdf_of(client, feet.job, "labels").pages[0].mediabox.width) == pytest.approx(8.5 * 72, abs=0.5)
    drawn = client.get(f"/jobs/{job}/papers/build.svg")
    assert ET.fromstring(drawn.text).tag == "{http://www.w3.org/2000/svg}svg"
    for none in ("nothing.pdf", "nothing.svg"):
        assert client.get(f"/jobs/{job}/papers/{none}").status_code == 404


def _say_whose_they_are(job: str, readers: dict[str, PdfReader], texts: dict[str, list[str]]) -> None:
    for name, reader in readers.items():
        pages = texts[name]
        for n, text in enumerate(pages, 1):
            assert f"{job}, revision 1, {date.today()}" in text, name
            assert f"page {n} of {len(pages)}" in text, name
        assert "Local codes, the maker's guide and licensed technicians come first" in pages[0].replace("\n", " "), name
        assert float(reader.pages[0].mediabox.width) == pytest.approx(210 / 25.4 * 72, abs=0.5)
        fonts = {str(f.get_object()["/BaseFont"]) for p in reader.pages for f in p["/Resources"]["/Font"].values()}
        assert any("Barlow" in font for font in fonts), name
        if name in ("build", "cuts", "order", "quote"):
            assert len(pages) <= 2, "carried to the car, or read by a customer"


def _hold_what_they_are_for(words: dict[str, str]) -> None:
    assert words["labels"].count("C1 ") == 2, "both ends"
    assert "Together" in words["quote"]
    assert "Agreed:" in words["quote"]
    assert "Main fuse in" in words["steps"]
    assert "Still assumed" not in words["build"], "what is done at the desk stays there"
    assert "Dovekin Sedge" in words["build"]


def _print_at_full_size(reader: PdfReader) -> None:
    """The bar of 100 mm is 100 mm on the paper, by the path's own coordinates through the page's matrices."""
    lengths: list[float] = []
    at: list[float] = []

    def operand(operator: bytes, operands: list[float], matrix: list[float], _text: list[float]) -> None:
        if operator == b"m":
            at[:] = [float(v) for v in operands]
        elif operator == b"l" and at and float(operands[1]) == at[1]:
            lengths.append(abs(float(operands[0]) - at[0]) * abs(matrix[0]) / 72 * 25.4)

    for page in reader.pages:
        page.extract_text(visitor_operand_before=operand)
    assert any(abs(length - 100.0) < 0.05 for length in lengths), sorted(lengths)[-5:]


def test_papers_fetch_nothing_and_drawings_carry_plain_values() -> None:
    for address in ("http://127.0.0.1/x.woff2", "file:///etc/passwd", "font:../../secret.woff2", "font:barlow.css"):
        with pytest.raises(ValueError, match="papers fetch nothing"):
            _fetcher()({}).fetch(address)
    styled = str(on_paper('<svg class="drawing"><path class="w-red"/><g class="thing chosen"/></svg><p>a</p>'))
    assert ".w-red{fill:none;stroke:#c4372b}" in styled
    assert "var(" not in styled
    assert "color-mix" not in styled
    assert ":hover" not in styled


def test_holes_and_templates_by_form(client: TestClient, database: Database) -> None:
    bench = Bench(client, database, demo_design(13))
    bench.post("hole", stage="holes", step="", name="Parcel shelf", diameter_mm="9 mm", sealed="primer")
    (hole,) = bench.design.work.holes
    assert (hole.name, hole.diameter_mm, hole.sealed) == ("Parcel shelf", 9.0, "primer")
    answer = bench.post("hole", stage="holes", path="hole", step="", name="Sill", diameter_mm="wide")
    assert answer.status_code == 422
    assert 'value="wide"' in answer.text
    answer = bench.post(
        "opening", stage="holes", path="opening", name="Screen", kind="ring", width_mm="100", inner_mm="120"
    )
    assert answer.status_code == 422
    assert "smaller than what is around it" in answer.text
    bench.post(
        "opening", stage="holes", name="Screen", kind="rectangular opening in a trim", width_mm="178", height_mm="100"
    )
    (opening,) = bench.design.work.openings
    assert "Screen" in bench.page("holes")
    svg = client.get(f"/jobs/{bench.job}/templates/own-{opening.id}.svg")
    assert svg.headers["content-type"].startswith("image/svg+xml")
    assert "SECTION" in client.get(f"/jobs/{bench.job}/templates/own-{opening.id}.dxf").text
    assert client.get(f"/jobs/{bench.job}/templates/own-nothing.dxf").status_code == 404
    bench.post("opening", stage="holes", gone=opening.id)
    assert not bench.design.work.openings


def test_without_the_libraries_that_set_type_it_is_said(
    client: TestClient, database: Database, monkeypatch: pytest.MonkeyPatch
) -> None:
    """As on a server where nobody installed them: the import fails with an OSError."""

    def missing(name: str, *more: object, **named: object) -> object:
        if name == "weasyprint":
            raise OSError("cannot load library 'libpango-1.0-0'")
        return before(name, *more, **named)

    before = builtins.__import__
    job = Bench(client, database, demo_design(0)).job
    monkeypatch.setattr(builtins, "__import__", missing)
    answer = client.get(f"/jobs/{job}/papers/cuts.pdf")
    assert answer.status_code == 503
    assert "libharfbuzz-subset0" in answer.text


def test_a_car_booked_without_work_stays_in_sight(client: TestClient, database: Database) -> None:
    far = NEXT + timedelta(weeks=40)
    bench = Bench(client, database, car())
    assert booked(bench, starts=f"{far}T08:00").status_code == 303
    page = week(client, far)
    assert f"{bench.job} is booked, and has no work planned yet" in page
    assert "no work planned</td>" in re.sub(r"\s+</td>", "</td>", page)
