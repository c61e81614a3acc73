"""Commands that look after what is stored: backup, restore, verify, a further shop, a way in for who has none."""

from __future__ import annotations

import os
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from ohmack.launch.mariadb import MariaDbServer
from ohmack.launch.system import SetupTrouble, say

USAGE = {
    "backup": "./ohmack backup FILE",
    "restore": "./ohmack restore FILE",
    "verify": "./ohmack verify FILE",
    "shop": './ohmack shop "NAME OF THE SHOP" "NAME OF ITS OWNER" SIGN-IN-NAME',
    "way-in": "./ohmack way-in SIGN-IN-NAME",
}


@contextmanager
def _place(var: Path, settings: Any) -> Iterator[Any]:
    """The database meant: the one the environment names, or the one of this folder, started for as long as needed.

    Raises:
        SetupTrouble: none of the two.
    """
    if any(name.startswith("OHMACK_DATABASE_") for name in os.environ):
        yield settings.database
        return
    server = MariaDbServer(var / "mariadb", quiet=True)
    port = server.port_in_use()
    try:
        if not port:
            server.start()
        own = {"database_host": "127.0.0.1", "database_port": port or server.port, "database_password": server.password}
        yield settings.model_copy(update=own | {"database_user": "ohmack", "database_name": "ohmack"}).database
    finally:
        server.stop()


def keep(command: str, words: list[str], var: Path, settings: Any) -> int:
    """Run one of them: 0 done, 2 asked wrongly.

    Raises:
        SetupTrouble: it cannot be done; the sentence says why.
    """
    asked = {"shop": 3}.get(command, 1)
    if len(words) != asked or not all(word.strip() for word in words):
        print(f"usage: {USAGE[command]}", file=sys.stderr)
        return 2
    import pymysql

    from ohmack.formats.backup_file import BadBackup
    from ohmack.store.database import StoreError

    try:
        if command == "verify":
            return _verify(Path(words[0]))
        with _place(var, settings) as place:
            return {"backup": _backup, "restore": _restore, "shop": _shop, "way-in": _way_in}[command](
                place, settings, words
            )
    except (BadBackup, StoreError) as error:
        raise SetupTrouble(str(error)) from None
    except pymysql.MySQLError as error:
        raise SetupTrouble(f"The database cannot be used: {error}") from None


def _verify(path: Path) -> int:
    from ohmack.formats.backup_file import verify_backup

    made = verify_backup(path)
    print(f"  {path} is whole: {made.rows} rows in {len(made.tables)} tables, made {made.made_at}.")
    return 0


def _backup(place: Any, settings: Any, words: list[str]) -> int:
    from ohmack.store.backup import back_up

    path = Path(words[0])
    made = back_up(place, path)
    print(f"  {path}: {made.rows} rows, {path.stat().st_size / 1e6:.1f} MB. Check it with ./ohmack verify {path}")
    return 0


def _restore(place: Any, settings: Any, words: list[str]) -> int:
    from ohmack.store.backup import restore

    say("Reading the backup to its end before anything is stored")
    made = restore(place, Path(words[0]))
    print(f"  Restored: {made.rows} rows, as they stood {made.made_at}.")
    return 0


def _shop(place: Any, settings: Any, words: list[str]) -> int:
    from ohmack.store.database import Database
    from ohmack.store.migrate import migrate
    from ohmack.store.people import new_shop

    migrate(place)
    name, owner, login = (word.strip()[:120] for word in words)
    _say_link(settings, new_shop(Database(place), name, owner, login), f"{owner} chooses a password")
    return 0


def _way_in(place: Any, settings: Any, words: list[str]) -> int:
    from ohmack.store.database import Database
    from ohmack.store.people import way_in

    _say_link(settings, way_in(Database(place), words[0].strip()), "A new password is chosen")
    print("  The second factor is off until it is set up again.")
    return 0


def _say_link(settings: Any, token: str, who: str) -> None:
    base = settings.public_address.rstrip("/") or f"http://{settings.host}:{settings.port}"
    print(f"\n  {who} here, once:\n\n    {base}/join/{token}\n")
