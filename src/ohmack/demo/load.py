"""Put the demo shop into an empty database."""

from __future__ import annotations

from datetime import date, timedelta

from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.policy import Policy
from ohmack.core.document.strategy import StrategyKey
from ohmack.demo.bay_work import begun
from ohmack.demo.building import catalogue
from ohmack.demo.hand_overs import OWNER, SIGNED, five_years, hand_over
from ohmack.demo.jobs import OTHERS, SHOP, demo_jobs, other_option
from ohmack.demo.past_jobs import COUNT, LAST_NUMBER, past_jobs
from ohmack.demo.proofs import proofs
from ohmack.store.context import BUILT_IN, Context
from ohmack.store.database import Database
from ohmack.store.designs import DesignStore
from ohmack.store.shop import PART, ShopStore


def load_demo(database: Database) -> bool:
    """Load shop, catalogue and jobs.

    Returns:
        False where there already are jobs; nothing is touched then.
    """
    designs, shop, handed = DesignStore(database), ShopStore(database), ""
    if designs.count_jobs(BUILT_IN):
        return False
    shop.found(BUILT_IN, SHOP, Policy())
    for number, tree in enumerate(catalogue(), start=1):
        shop.add_part(BUILT_IN, PART.validate_python(tree | {"id": f"catalogue-{number}"}))
    front, bench = shop.add_person(BUILT_IN, "Odile"), shop.add_person(BUILT_IN, "Wen")
    _before(designs, front)
    for job in demo_jobs():
        number_text = designs.open_job(front, job.customer, job.phone, job.title, job.first)
        for reason, edits in job.rounds:
            record = designs.load(bench, number_text)
            designs.save(bench, record.design_id, record.version, apply_edits(record.design, edits), reason)
        _into_the_bay(designs, bench, number_text, job.title)
        if job.title in OTHERS:
            _second_option(designs, front, number_text, *OTHERS[job.title])
        if job.title == SIGNED:
            handed = number_text
    _five_years(designs, front, handed)
    return True


def _before(designs: DesignStore, by: Context) -> None:
    """The jobs of the years before, numbered up to where today's begin."""
    designs.count_on_from(by, LAST_NUMBER - COUNT)
    for past in past_jobs(demo_jobs()):
        number = designs.open_job(by, past.customer, past.phone, past.title, past.design, opened_at=past.opened)
        if past.away:
            designs.archive(by, number, True)


def _five_years(designs: DesignStore, by: Context, handed: str) -> None:
    """A car that was here three times."""
    same = ""
    for past in five_years(designs.load(by, handed).design, handed):
        number = designs.open_job(by, *OWNER, past.title, past.design, same_car_as=same, opened_at=past.opened)
        same = same or number


def _into_the_bay(designs: DesignStore, by: Context, number: str, title: str) -> None:
    """What happened to a job since it was planned, in the week that is now."""
    today = date.today()
    monday = today - timedelta(days=today.weekday())
    for later in (False, True):
        design = designs.load(by, number).design
        for reason, edits in proofs(design, title) if later else begun(design, title, monday):
            record = designs.load(by, number)
            designs.save(by, record.design_id, record.version, apply_edits(record.design, edits), reason)
    proved = designs.load(by, number)
    for reason, edits in hand_over(proved.design, title, proved.number):
        record = designs.load(by, number)
        designs.save(by, record.design_id, record.version, apply_edits(record.design, edits), reason)


def _second_option(
    designs: DesignStore, by: Context, number: str, first_name: str, name: str, key: StrategyKey
) -> None:
    address = designs.add_option(by, number)
    for where, design in (
        (number, apply_edits(designs.load(by, number).design, [Edit(path="option_name", value=first_name)])),
        (address, other_option(designs.load(by, address).design, name, key)),
    ):
        record = designs.load(by, where)
        designs.save(by, record.design_id, record.version, design, f"option: {design.option_name}")
