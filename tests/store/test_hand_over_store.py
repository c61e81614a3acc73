"""Links, packs and cars in the database: who is let in, what is kept in pieces, what belongs together."""

from __future__ import annotations

import io
import re
from datetime import date, timedelta
from typing import Any

import pytest

from ohmack.core.document import Design
from ohmack.store import customer_links
from ohmack.store.cars import CarStore
from ohmack.store.context import BUILT_IN, Context
from ohmack.store.customer_links import CustomerLinkStore
from ohmack.store.database import Database, NotFound
from ohmack.store.designs import DesignStore
from ohmack.store.packs import PIECE_BYTES, PackStore

DAY = date(2026, 11, 28)


@pytest.fixture
def design_id(database: Database, estate: Design) -> int:
    designs = DesignStore(database)
    return designs.load(BUILT_IN, designs.open_job(BUILT_IN, "Ada", "", "Link", estate)).design_id


def everything_in(database: Database, table: str) -> str:
    def ask(c: Any) -> str:
        with c.cursor() as cursor:
            cursor.execute(f"SELECT * FROM {table}")
            return str(cursor.fetchall())

    return database.read(ask)


def test_a_link_opens_until_its_day_and_no_longer_once_withdrawn(database: Database, design_id: int) -> None:
    links = CustomerLinkStore(database)
    token = links.make(BUILT_IN, design_id, 1, DAY)
    for ahead, opens in ((-900, True), (0, True), (1, False)):
        if opens:
            assert links.opened(token, DAY + timedelta(days=ahead)).design_id == design_id
        else:
            with pytest.raises(NotFound):
                links.opened(token, DAY + timedelta(days=ahead))
    (link,) = links.list(BUILT_IN, design_id)
    links.withdraw(BUILT_IN, design_id, link.id)
    links.withdraw(BUILT_IN, design_id, link.id)
    with pytest.raises(NotFound):
        links.opened(token, DAY)
    assert links.list(BUILT_IN, design_id)[0].withdrawn


def test_nobody_guesses_a_link_and_who_reads_the_database_opens_none(
    database: Database, design_id: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    """256 random bits in 43 letters; compared as whole digests, in a time that tells nothing (hmac.compare_digest)."""
    links = CustomerLinkStore(database)
    tokens = [links.make(BUILT_IN, design_id, 1, DAY) for _ in range(20)]
    assert len(set(tokens)) == 20
    assert all(re.fullmatch(r"[A-Za-z0-9_-]{43}", t) for t in tokens)
    kept = everything_in(database, "customer_links")
    assert not any(token in kept for token in tokens)
    compared: list[tuple[str, str]] = []
    real = customer_links.compare_digest
    monkeypatch.setattr(customer_links, "compare_digest", lambda a, b: compared.append((a, b)) or real(a, b))
    assert links.opened(tokens[3], DAY).number == 1
    assert [(len(a), len(b)) for a, b in compared] == [(64, 64)]
    for forged in ("", "x", tokens[3][:-1], tokens[3] + "A", tokens[3].swapcase(), "é" * 300, tokens[3][::-1]):
        with pytest.raises(NotFound):
            links.opened(forged, DAY)


def test_a_link_is_of_its_shop(database: Database, design_id: int) -> None:
    links = CustomerLinkStore(database)
    links.make(BUILT_IN, design_id, 1, DAY)
    other = Context(99, 1)
    assert links.list(other, design_id) == []
    with pytest.raises(NotFound):
        links.make(other, design_id, 1, DAY)
    links.withdraw(other, design_id, links.list(BUILT_IN, design_id)[0].id)
    assert not links.list(BUILT_IN, design_id)[0].withdrawn


def test_a_pack_is_kept_in_pieces_and_the_one_before_goes(database: Database, design_id: int) -> None:
    packs = PackStore(database)
    data = bytes(range(256)) * (PIECE_BYTES // 256 + 40)
    first = packs.begin(BUILT_IN, design_id, 1, 9)
    packs.touch(BUILT_IN, first, 4, "photo 4 of 9")
    going = packs.last(BUILT_IN, design_id)
    assert going is not None
    assert (going.making, going.done, going.doing) == (True, 4, "photo 4 of 9")
    packs.keep(BUILT_IN, design_id, first, io.BytesIO(data))
    kept = packs.load(BUILT_IN, design_id, first)
    assert (kept.made, kept.done, kept.bytes) == (True, 9, len(data))
    pieces = list(packs.pieces(BUILT_IN, kept))
    assert [len(p) for p in pieces] == [PIECE_BYTES, len(data) - PIECE_BYTES]
    assert b"".join(pieces) == data
    assert list(packs.pieces(Context(99, 1), kept)) == [], "not another shop's"
    second = packs.begin(BUILT_IN, design_id, 2, 9)
    packs.fail(BUILT_IN, second, "no room")
    assert packs.load(BUILT_IN, design_id, first).made, "what is there stays while nothing better is"
    third = packs.begin(BUILT_IN, design_id, 2, 9)
    packs.keep(BUILT_IN, design_id, third, io.BytesIO(b"small"))
    with pytest.raises(NotFound):
        packs.load(BUILT_IN, design_id, first)


def test_one_that_nothing_is_heard_of_is_not_waited_for(database: Database, design_id: int) -> None:
    packs = PackStore(database)
    pack_id = packs.begin(BUILT_IN, design_id, 1, 9)

    def long_ago(c: Any) -> None:
        with c.cursor() as cursor:
            cursor.execute("UPDATE packs SET touched_at = touched_at - INTERVAL 3 MINUTE WHERE id = %s", (pack_id,))

    database.run(long_ago)
    found = packs.last(BUILT_IN, design_id)
    assert found is not None
    assert not found.making
    assert not found.made


def test_jobs_are_put_into_one_car_and_apart(database: Database, estate: Design) -> None:
    designs, cars = DesignStore(database), CarStore(database)
    car = estate.model_copy(update={"vehicle": estate.vehicle.model_copy(update={"model": "Lonely"})})
    first = designs.open_job(BUILT_IN, "Ada", "1", "First", car)
    second = designs.open_job(BUILT_IN, "Ada", "1", "Second", car)
    assert [j.number for j in cars.jobs(BUILT_IN, first)] == [first]
    assert [j.number for j in cars.like(BUILT_IN, first)] == [second]
    cars.join(BUILT_IN, second, first)
    assert [j.number for j in cars.jobs(BUILT_IN, second)] == [first, second]
    third = designs.open_job(BUILT_IN, "somebody else", "", "Third", car, same_car_as=second)
    assert [j.customer for j in cars.jobs(BUILT_IN, first)] == ["Ada"] * 3, "the car's owner is the customer"
    cars.part(BUILT_IN, third)
    assert [j.number for j in cars.jobs(BUILT_IN, first)] == [first, second]
    assert [j.number for j in cars.like(BUILT_IN, third)][:2] == [second, first]
    with pytest.raises(NotFound):
        cars.join(BUILT_IN, first, "J-99999")
    with pytest.raises(NotFound):
        cars.join(Context(99, 1), first, second)
    assert cars.jobs(Context(99, 1), first) == []
