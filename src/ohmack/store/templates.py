"""Vehicle templates: what a survey found, kept for the next car of its kind."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from pydantic import TypeAdapter

from ohmack.core.document.vehicle import Vehicle
from ohmack.core.document.work import OwnStep
from ohmack.store.context import Context
from ohmack.store.database import QUERIES, Database, NotFound

STEPS: TypeAdapter[tuple[OwnStep, ...]] = TypeAdapter(tuple[OwnStep, ...])


@dataclass(frozen=True)
class TemplateRecord:
    """One kept vehicle."""

    id: int
    name: str
    job_number: str
    created_at: datetime
    vehicle: Vehicle
    own_steps: tuple[OwnStep, ...] = ()  # what the shop learned to do on this kind of car


class TemplateStore:
    """The repository of vehicle templates."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def list(self, context: Context) -> list[TemplateRecord]:
        """Every template, by make and model, the newest of a kind first."""
        return [
            self._record(row)
            for row in self.database.read(lambda c: [*QUERIES.list_templates(c, shop_id=context.shop_id)])
        ]

    def load(self, context: Context, template_id: int) -> TemplateRecord:
        """One template.

        Raises:
            NotFound: no such template.
        """
        row = self.database.read(lambda c: QUERIES.get_template(c, shop_id=context.shop_id, id=template_id))
        if row is None:
            raise NotFound(f"template {template_id}")
        return self._record(row)

    def add(
        self, context: Context, vehicle: Vehicle, job_number: str, own_steps: tuple[OwnStep, ...] = ()
    ) -> int:  # fmt: skip
        """Keep a vehicle with the steps the shop put in for it.

        Returns:
            the template's number.
        """
        return int(
            self.database.run(
                lambda c: QUERIES.add_template(
                    c,
                    shop_id=context.shop_id,
                    name=vehicle.title,
                    make=vehicle.make,
                    model=vehicle.model,
                    body=vehicle.body.value,
                    job_number=job_number,
                    vehicle=vehicle.model_dump_json(),
                    own_steps=STEPS.dump_json(own_steps).decode(),
                )
            )["id"]
        )

    @staticmethod
    def _record(row: dict[str, Any]) -> TemplateRecord:
        vehicle = Vehicle.model_validate_json(row["vehicle"])
        steps = STEPS.validate_json(row["own_steps"] or "[]")
        return TemplateRecord(row["id"], row["name"], row["job_number"], row["created_at"], vehicle, steps)
