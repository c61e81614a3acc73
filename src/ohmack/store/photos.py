"""Photos of a job: written once, put away, never deleted."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from ohmack.formats.photo import Photo
from ohmack.store.context import Context
from ohmack.store.database import QUERIES, Database, NotFound, StoreError
from ohmack.store.design_rows import job_and_letter

MOST = 200


class TooManyPhotos(StoreError):
    """The job has as many photos as it may have."""


@dataclass(frozen=True)
class PhotoRecord:
    """One photo without its pixels."""

    id: int
    path: str
    name: str
    width_px: int
    height_px: int
    created_at: datetime
    away: int


class PhotoStore:
    """The repository of photos."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def list(self, context: Context, number: str) -> list[PhotoRecord]:
        """A job's photos, oldest first, those put away among them."""
        return [
            PhotoRecord(**row)
            for row in self.database.read(
                lambda c: [*QUERIES.list_photos(c, shop_id=context.shop_id, number=job_and_letter(number)[0])]
            )
        ]

    def add(self, context: Context, number: str, path: str, photo: Photo) -> int:
        """Keep a photo.

        Returns:
            its number.

        Raises:
            NotFound: no such job.
            TooManyPhotos: the job has its fill.
        """

        def work(c: Any) -> Any:
            if QUERIES.count_photos(c, shop_id=context.shop_id, number=job_and_letter(number)[0]) >= MOST:
                raise TooManyPhotos(f"This job has {MOST} photos already; put some away first.")
            return QUERIES.add_photo(
                c,
                shop_id=context.shop_id,
                number=job_and_letter(number)[0],
                path=path,
                name=photo.name,
                width_px=photo.width_px,
                height_px=photo.height_px,
                image=photo.image,
                thumbnail=photo.thumbnail,
            )

        row = self.database.run(work)
        if row is None:
            raise NotFound(f"job {number}")
        return int(row["id"])

    def pixels(self, context: Context, number: str, photo_id: int, thumbnail: bool) -> bytes:
        """A photo's JPEG.

        Raises:
            NotFound: no such photo of this job.
        """
        row = self.database.read(
            lambda c: QUERIES.get_photo(c, shop_id=context.shop_id, number=job_and_letter(number)[0], id=photo_id)
        )
        if row is None:
            raise NotFound(f"photo {photo_id}")
        return bytes(row["thumbnail" if thumbnail else "image"])

    def put_away(self, context: Context, number: str, photo_id: int, away: bool) -> None:
        """Put a photo away, or bring it back; doing it twice changes nothing."""
        query = QUERIES.put_photo_away if away else QUERIES.bring_photo_back
        self.database.run(lambda c: query(c, shop_id=context.shop_id, number=job_and_letter(number)[0], id=photo_id))
