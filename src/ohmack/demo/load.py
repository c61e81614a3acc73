"""Put the demo shop into an empty database."""

from __future__ import annotations

from ohmack.core.document.edits import apply_edits
from ohmack.core.document.policy import Policy
from ohmack.demo.building import catalogue
from ohmack.demo.jobs import SHOP, demo_jobs
from ohmack.store.database import Database
from ohmack.store.designs import DesignStore
from ohmack.store.shop import PART, ShopStore


def load_demo(database: Database) -> bool:
    """Load shop, catalogue and jobs.

    Returns:
        False where there already are jobs; nothing is touched then.
    """
    designs, shop = DesignStore(database), ShopStore(database)
    if designs.count_jobs():
        return False
    shop.found(SHOP, Policy())
    for number, tree in enumerate(catalogue(), start=1):
        shop.add_part(PART.validate_python(tree | {"id": f"catalogue-{number}"}))
    for job in demo_jobs():
        number_text = designs.open_job(job.customer, job.phone, job.title, job.first, author="Odile")
        for reason, edits in job.rounds:
            record = designs.load(number_text)
            designs.save(record.design_id, record.version, apply_edits(record.design, edits), reason, author="Wen")
    return True
