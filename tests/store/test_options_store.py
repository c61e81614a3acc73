"""Options in the store: letters under concurrency, own histories, one catalogue import at a time."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

import pytest

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.store.context import BUILT_IN
from ohmack.store.database import Database, NotFound
from ohmack.store.design_rows import TooManyOptions, job_and_letter
from ohmack.store.designs import MOST_OPTIONS, DesignStore
from ohmack.store.shop import PART, ShopStore
from ohmack.web.workshop import Workshop


@pytest.mark.parametrize(
    ("address", "found"), [("J-0401", ("J-0401", "A")), ("J-0401-B", ("J-0401", "B")), ("J-0401-A", ("J-0401", "A"))]
)
def test_addresses(address: str, found: tuple[str, str]) -> None:
    assert job_and_letter(address) == found


@pytest.mark.parametrize(
    "address",
    ["J-0401-BB", "J-0401-b", "", "J", "J-B", "--B", "J-1-2-C", "j-0401", "J-0401 ", "J-" + "9" * 5000, "J-²"],
)
def test_what_is_no_address_is_not_here(address: str) -> None:
    with pytest.raises(NotFound):
        job_and_letter(address)


def test_eight_people_copy_at_once(database: Database, estate: Design) -> None:
    """Every copy gets a letter of its own, and those for whom there is none left are told."""
    store = DesignStore(database)
    number = store.open_job(BUILT_IN, "Rush", "", "Rush", estate)

    def copy(_: int) -> str:
        try:
            return store.add_option(BUILT_IN, number)
        except TooManyOptions:
            return "full"

    with ThreadPoolExecutor(8) as pool:
        made = list(pool.map(copy, range(8)))
    letters = sorted(address[-1] for address in made if address != "full")
    assert letters == list("BCDEF")
    assert made.count("full") == 8 - (MOST_OPTIONS - 1)
    assert store.options(BUILT_IN, f"{number}-C") == [number, *(f"{number}-{letter}" for letter in letters)]
    for address in store.options(BUILT_IN, number):
        assert store.load(BUILT_IN, address).design.parts == estate.parts
    with pytest.raises(NotFound):
        store.add_option(BUILT_IN, "J-9999")
    with pytest.raises(NotFound):
        store.load(BUILT_IN, f"{number}-Z")


def test_each_option_has_its_own_way_back(database: Database, estate: Design) -> None:
    shop = Workshop(database).seen_by(BUILT_IN)
    store = shop.designs
    number = store.open_job(BUILT_IN, "Two ways", "", estate.title, estate)
    other = store.add_option(BUILT_IN, number)
    a, b = store.load(BUILT_IN, number), store.load(BUILT_IN, other)
    after = shop.edit(b, [Edit(path="parts/amp/price", value=1.0)], "cheaper")
    assert after == store.load(BUILT_IN, other)  # what an edit answers with is what anybody reads
    a = store.load(BUILT_IN, number)
    after = shop.edit(a, [Edit(path="vehicle/width_m", value={"value": 1.79, "basis": "measured"})], "taped")
    assert after == store.load(BUILT_IN, number)
    after = shop.edit(after, [Edit(path="title", value="Both ways")], "called otherwise")
    assert after == store.load(BUILT_IN, number)
    assert after.title == "Both ways"
    shop.share_survey(store.load(BUILT_IN, number))
    b = store.load(BUILT_IN, other)
    assert b.design.vehicle.width_m.value == 1.79
    assert b.design.part("amp").price == 1.0  # type: ignore[union-attr]
    assert [r.reason for r in store.history(BUILT_IN, b.design_id)] == [
        "survey as in option A",
        "cheaper",
        "copied from option A",
    ]
    before = b.version
    shop.share_survey(store.load(BUILT_IN, number))  # nothing new: nothing is saved
    assert store.load(BUILT_IN, other).version == before
    assert store.step(BUILT_IN, b.design_id, b.version, forward=False)
    assert store.load(BUILT_IN, other).design.vehicle.width_m.value == estate.vehicle.width_m.value
    assert store.load(BUILT_IN, number).design.vehicle.width_m.value == 1.79


def test_an_import_is_all_or_nothing(database: Database) -> None:
    """A part the database refuses in the middle leaves nothing of the import behind."""
    shop = ShopStore(database)
    tree = {"kind": "fuse holder", "id": "x", "maker": "Nettle", "family": "maxi", "terminal_area_max_mm2": 21.0}
    good = [PART.validate_python(tree | {"name": f"Holder {n}", "price": 1.0}) for n in range(3)]
    assert shop.put_parts(BUILT_IN, good) == (3, 0, 0)
    assert shop.put_parts(BUILT_IN, good) == (0, 0, 3)
    dearer = [p.model_copy(update={"price": 2.0}) for p in good]
    twice = [*dearer, good[0].model_copy(update={"price": 3.0})]
    assert shop.put_parts(BUILT_IN, twice) == (0, 4, 0)  # a name that comes twice: the last one stands
    prices = {p.name: p.price for p in shop.parts(BUILT_IN, words="Nettle")}
    assert prices == {"Holder 0": 3.0, "Holder 1": 2.0, "Holder 2": 2.0}
    too_long = good[1].model_copy(update={"name": "x" * 400})
    with pytest.raises(Exception, match="Data too long"):
        shop.put_parts(BUILT_IN, [good[2].model_copy(update={"price": 9.0}), too_long])
    assert {p.name: p.price for p in shop.parts(BUILT_IN, words="Nettle")} == prices


def test_a_design_from_before_the_plan_is_still_read(estate: Design) -> None:
    """A file that knows no functions, interventions, strategies, options, phases or roles opens with their defaults."""
    tree = estate.model_dump(mode="json")
    for name in ("interventions", "strategy", "weights", "option_name", "option_note"):
        del tree[name]
    del tree["vehicle"]["functions"]
    for part in tree["parts"]:
        for name in ("stands", "by_customer", "lead_days"):
            del part[name]
    for feed in tree["vehicle"]["feeds"]:
        del feed["role"]
    for link in tree["links"]:
        link.pop("relay", None)
    opened = Design.model_validate(tree)
    assert opened.interventions == ()
    assert opened.strategy is None
    assert apply_edits(opened, []) == opened
