"""Customers and cars: merged, handed out, erased from everything that is stored."""

from __future__ import annotations

import json
from datetime import date
from io import BytesIO
from typing import Any

import pytest

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.handover.state import digest_of
from ohmack.formats.photo import Photo
from ohmack.store.audit import AuditStore
from ohmack.store.context import BUILT_IN, Context
from ohmack.store.customer_links import CustomerLinkStore
from ohmack.store.customers import CustomerStore
from ohmack.store.database import Conflict, Database, NotFound
from ohmack.store.designs import DesignStore
from ohmack.store.packs import PackStore
from ohmack.store.photos import PhotoStore
from ohmack.store.search import SearchStore
from ohmack.store.templates import TemplateStore

NAME, PHONE = "Zebulon Quarrington", "555 7731"


def everything_stored(database: Database) -> str:
    """Every value of every row of every table, as one text."""

    def read(connection: Any) -> str:
        with connection.cursor() as cursor:
            cursor.execute("SELECT table_name AS name FROM information_schema.tables WHERE table_schema = DATABASE()")
            names = [row["name"] for row in cursor.fetchall()]
            texts = []
            for name in names:
                cursor.execute(f"SELECT * FROM `{name}`")
                values = (value for row in cursor.fetchall() for value in row.values())
                texts += [v.decode("latin-1") if isinstance(v, bytes) else str(v) for v in values]
            return "\n".join(texts)

    return database.read(read)


def customer_of(database: Database, number: str) -> int:
    found = SearchStore(database).find(BUILT_IN, number, "job")
    assert found
    record = DesignStore(database).load(BUILT_IN, number)
    return next(h.ref for h in SearchStore(database).find(BUILT_IN, record.customer, "customer"))


def test_who_is_erased_is_nowhere_any_more_and_the_job_stays(database: Database, estate: Design) -> None:
    designs, customers = DesignStore(database), CustomerStore(database)
    number = designs.open_job(BUILT_IN, NAME, PHONE, "Quiet bass", estate)
    record = designs.load(BUILT_IN, number)
    signed = {"id": "signed", "by": "Wilhelmina Overstreet", "revision": 1, "digest": digest_of(estate),
              "drawn": [{"points": [[1, 2], [31, 44]]}], "when": "2026-11-28"}  # fmt: skip
    edits = (
        Edit(path="intake/wishes_note", value="Zebulon wants bass. Call him: 555-7731, Mr. Quarrington."),
        Edit(path="work/accepted", value={"by": NAME, "when": "2026-11-20", "lines": []}),
        Edit(op="add", path="handover/signatures", value=signed),
        Edit(path="title", value=f"Quiet bass for {NAME}"),
    )
    for n, edit in enumerate(edits):
        now = designs.load(BUILT_IN, number)
        designs.save(
            BUILT_IN,
            now.design_id,
            now.version,
            apply_edits(now.design, [edit]),
            f"In the customer's words: {n}, Zebulon, 5557731, says Overstreet",
        )
    customer_id = customer_of(database, number)
    car = customers.get(BUILT_IN, customer_id).cars[0]
    customers.change_car(BUILT_IN, car.id, car.version, "QZ 77 ABC", "VINQZ0077")
    customers.change(BUILT_IN, customer_id, 1, NAME, PHONE, "pays in quarters")
    token = CustomerLinkStore(database).make(BUILT_IN, record.design_id, 1, date(2099, 1, 1))
    packs = PackStore(database)
    pack = packs.begin(BUILT_IN, record.design_id, 1, 1)
    packs.keep(BUILT_IN, record.design_id, pack, BytesIO(f"paper of {NAME}".encode()))
    PhotoStore(database).add(BUILT_IN, number, "vehicle/radio", Photo("plug.jpg", 2, 2, b"x", b"y"))
    noted = {"value": 12.5, "basis": "measured", "how": "by meter", "note": f"read while {NAME} sat in it"}
    vehicle = apply_edits(estate, [Edit(path="vehicle/supply/post_resting_v", value=noted)]).vehicle
    TemplateStore(database).add(BUILT_IN, vehicle, number)
    handed = json.dumps(customers.hand_out(BUILT_IN, customer_id))
    for told in (NAME, PHONE, "QZ 77 ABC", "VINQZ0077", "pays in quarters", "Call him", "[31, 44]", "plug.jpg", number):
        assert told in handed
    before = everything_stored(database)
    for trace in (
        NAME,
        "Zebulon",
        "Quarrington",
        "Overstreet",
        "5557731",
        PHONE,
        "555-7731",
        "QZ 77 ABC",
        "VINQZ0077",
        "quarters",
    ):
        assert trace in before
    stale = DesignStore(database)  # another process, which has read it all
    assert stale.load(BUILT_IN, number).customer == NAME
    assert customers.erase(BUILT_IN, customer_id) == 5
    after = everything_stored(database)
    for trace in ("Zebulon", "zebulon", "Quarrington", "quarrington", "Overstreet", "5557731", PHONE, "555-7731",
                  "QZ 77 ABC", "VINQZ0077", "quarters", "31,44", "31, 44"):  # fmt: skip
        assert trace not in after, trace
    for store in (designs, stale):
        erased = store.load(BUILT_IN, number)
        assert erased.customer == "(erased)"
        assert NAME not in erased.design.model_dump_json()
        assert erased.design.intake.wishes_note.startswith("(erased) wants bass.")
        assert erased.design.handover.signatures[0].by == "(erased)"
        assert erased.design.parts == estate.parts
    with pytest.raises(NotFound):
        CustomerLinkStore(database).opened(token, date(2026, 11, 28))
    assert packs.last(BUILT_IN, record.design_id) is None
    assert PhotoStore(database).list(BUILT_IN, number)
    said = [(row.what, row.about) for row in AuditStore(database).list(BUILT_IN)][:2]
    assert said == [
        ("customer erased", f"customer {customer_id}"), ("customer's data handed out", f"customer {customer_id}"),
    ]  # fmt: skip


def test_two_records_of_one_person_become_one(database: Database, estate: Design) -> None:
    designs, customers, search = DesignStore(database), CustomerStore(database), SearchStore(database)
    one = designs.open_job(BUILT_IN, "Perpetua Vole", "", "First", estate)
    two = designs.open_job(BUILT_IN, "P. Vole-Harrow", "555 8", "Second", estate)
    first, second = customer_of(database, one), customer_of(database, two)
    assert first != second
    customers.merge(BUILT_IN, first, second)
    kept = customers.get(BUILT_IN, first)
    assert (kept.id, kept.name) == (second, "P. Vole-Harrow")
    assert [j.number for j in kept.jobs] == [two, one]
    assert len(kept.cars) == 2
    assert designs.load(BUILT_IN, one).customer == "P. Vole-Harrow"
    assert search.find(BUILT_IN, "perpetua") == []
    assert {h.address for h in search.find(BUILT_IN, "harrow", "job")} >= {f"/jobs/{one}", f"/jobs/{two}"}
    for wrong in ((second, second), (first, second), (second, 999_999)):
        with pytest.raises(NotFound):
            customers.merge(BUILT_IN, *wrong)
    with pytest.raises(Conflict):
        customers.change(BUILT_IN, second, kept.version + 1, "x", "", "")
    third = designs.open_job(BUILT_IN, "P. Vole-Harrow", "", "Third", estate, customer_id=second)
    other = designs.open_job(BUILT_IN, "Somebody Else", "", "Fourth", estate, customer_id=second)
    assert designs.load(BUILT_IN, other).customer == "Somebody Else", "what was typed over the chosen one counts"
    assert [j.number for j in customers.get(BUILT_IN, second).jobs] == [third, two, one]
    elsewhere = Context(9_999, 1)
    with pytest.raises(NotFound):
        customers.get(elsewhere, second)
    with pytest.raises(NotFound):
        customers.erase(elsewhere, second)
