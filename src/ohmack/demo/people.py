"""The people of the demo: each folder has its own passwords, printed where the demo starts."""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass
from pathlib import Path
from secrets import choice

from ohmack.demo.jobs import SHOP
from ohmack.demo.second_shop import SECOND_SHOP, second_shop
from ohmack.store.context import BUILT_IN, Context
from ohmack.store.database import Database
from ohmack.store.people import PeopleStore, signs_in
from ohmack.store.roles import Role
from ohmack.store.second_factor import SPARE_LETTERS

HERE = (
    ("Odile", "odile", Role.OWNER),
    ("Wen", "wen", Role.INSTALLER),
    ("Bram", "bram", Role.DESK),
    ("Pia", "pia", Role.GUEST),
)
THERE = (("Ruth", "ruth", Role.OWNER),)


@dataclass(frozen=True, slots=True)
class DemoPerson:
    """Who signs in to the demo, and with what."""

    name: str
    login: str
    role: str
    shop: str
    password: str


def _password() -> str:
    """Twenty letters in five groups, nobody else's."""
    return "-".join("".join(choice(SPARE_LETTERS) for _ in range(4)) for _ in range(5))


def demo_people(database: Database, file: Path) -> list[DemoPerson]:
    """Make the demo's people, or find them made; their passwords stay in a file of this folder that is nobody else's
    to read.

    Parameters:
        database: with the demo shop in it.
        file: where the passwords are kept.
    """
    if file.exists():
        return [DemoPerson(**tree) for tree in json.loads(file.read_text("utf-8"))]
    if signs_in(database):
        return []  # restored from elsewhere: its people sign in as they did there
    there = second_shop(database)
    made = [*_made(database, BUILT_IN, SHOP, HERE), *_made(database, there, SECOND_SHOP, THERE)]
    file.touch(mode=0o600)
    file.write_text(json.dumps([asdict(person) for person in made], indent=1), "utf-8")
    return made


def _made(database: Database, context: Context, shop: str, who: tuple[tuple[str, str, Role], ...]) -> list[DemoPerson]:
    people, made = PeopleStore(database), []
    for name, login, role in who:
        person = DemoPerson(name, login, role.value, shop, _password())
        people.ready_made(context, name, login, role, person.password)
        made.append(person)
    return made
