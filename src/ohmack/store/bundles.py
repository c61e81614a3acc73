"""A whole job brought in: customer, options, photos, in one transaction."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from ohmack.formats.bundle import Bundle
from ohmack.store.context import Context
from ohmack.store.database import QUERIES, Database
from ohmack.store.opening import open_with, owner_new


class BundleStore:
    """What opens a job from a bundle."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def open(self, context: Context, customer: str, bundle: Bundle) -> str:
        """Open a job with everything a bundle holds, or with nothing.

        Parameters:
            context: who asks.
            customer: whose car it is; empty keeps the name in the bundle.
            bundle: the job.

        Returns:
            the new job's number.

        Raises:
            BadDocument: a photo that cannot be read; nothing is stored then.
        """
        told = bundle.manifest
        name, phone = (customer, "") if customer and customer != told.customer else (told.customer, told.phone)

        def work(c: Any) -> str:
            owner = owner_new(c, context, name or "Unnamed", phone, bundle.designs[0])
            title = told.title or "From a bundle"
            number = open_with(c, context, owner, title, bundle.designs, reason=f"from the bundle of {told.job}")
            for one in bundle.photos():
                QUERIES.bring_photo_in(
                    c, shop_id=context.shop_id, number=number, path=one.path, name=one.photo.name,
                    width_px=one.photo.width_px, height_px=one.photo.height_px, image=one.photo.image,
                    thumbnail=one.photo.thumbnail, created_at=datetime.fromisoformat(one.taken), away=one.away,
                )  # fmt: skip
            return number

        return self.database.run(work)
