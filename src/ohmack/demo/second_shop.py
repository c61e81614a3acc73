"""A second shop on the demo's server, in another town: nothing of the one is ever seen in the other."""

from __future__ import annotations

from ohmack.core.document.policy import Policy
from ohmack.demo.jobs import demo_jobs
from ohmack.store.context import Context
from ohmack.store.database import Database
from ohmack.store.designs import DesignStore
from ohmack.store.people import add_shop

SECOND_SHOP = "Harbour Lane Audio, Quillmouth"
CUSTOMERS = (("Ottoline Marsh", "555 0611"), ("Fen Abara", "555 0638"), ("Jory Pell", ""))
FIRST = 2  # of the demo's jobs, the first one that is done there too


def second_shop(database: Database) -> Context:
    """Open the shop with three jobs."""
    by = add_shop(database, SECOND_SHOP, Policy())
    designs = DesignStore(database)
    for (name, phone), job in zip(CUSTOMERS, demo_jobs()[FIRST:], strict=False):
        designs.open_job(by, name, phone, job.title, job.first)
    return by
