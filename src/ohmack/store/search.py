"""What is found by words while they are typed: jobs, customers, cars, parts, findings and notes of one shop.

Every thing has an entry with its words, and every word a row of its own under which its entries stand, so that two
letters already lead to them without reading what does not begin with them. Where every word that was typed is a
common one, the newest entries are read until enough fit; where too few of them do, MariaDB's full text is asked.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from ohmack.core.document import Design
from ohmack.core.document.parts import Part
from ohmack.core.planning.notes import notes
from ohmack.store.context import Context
from ohmack.store.database import QUERIES, Database

MOST_WORDS = 6  # of what is typed
MOST_LETTERS = 32  # of one word
MOST_KEPT = 400  # words of one entry
COMMON = 1_500  # entries under the beginning of a word from which on it leads nowhere fast
DEEP = 8_000  # of the newest entries that are read before full text is asked
FULL_TEXT_LETTERS = 3  # MariaDB keeps no shorter words, unless told to


class Kind(StrEnum):
    """What is found."""

    JOB = "job"
    CUSTOMER = "customer"
    CAR = "car"
    PART = "part"
    FINDING = "finding"
    NOTE = "note"


@dataclass(frozen=True, slots=True)
class Hit:
    """One thing that was found."""

    kind: Kind
    ref: int
    title: str
    line: str
    address: str


def words_of(text: str) -> list[str]:
    """The words of a text as they are looked for: small letters, no accents, letters and digits only.

    >>> words_of("Vélo & Söhne, J-0401")
    ['velo', 'sohne', 'j', '0401']
    """
    plain = unicodedata.normalize("NFKD", text.casefold())
    letters = "".join(letter for letter in plain if not unicodedata.combining(letter))
    return [word[:MOST_LETTERS] for word in re.findall(r"[^\W_]+", letters)]


def _past(word: str) -> str:
    """The least word behind all that begin with a word."""
    return word + "\U0010ffff"


class SearchStore:
    """The repository of what is found."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def find(self, context: Context, text: str, kind: str = "", most: int = 20) -> list[Hit]:
        """What has every word that was typed, or the beginning of it; the newest first.

        Parameters:
            context: who asks.
            text: as typed; the first words count.
            kind: one kind only, or empty for all.
            most: how many at most.
        """
        wanted = list(dict.fromkeys(words_of(text)))[:MOST_WORDS]
        if not wanted:
            return []
        shop_id = context.shop_id
        likes = {f"w{n + 1}": f"% {wanted[n]}%" if n < len(wanted) else "%" for n in range(MOST_WORDS)}

        def work(c: Any) -> list[dict[str, Any]]:
            near = {
                word: QUERIES.count_word(c, shop_id=shop_id, word=word, past=_past(word), most=COMMON + 1)
                for word in wanted
            }
            rarest = min(near, key=lambda word: near[word])
            if not near[rarest]:
                return []
            if near[rarest] <= COMMON:
                return list(
                    QUERIES.entries_by_word(
                        c, shop_id=shop_id, word=rarest, past=_past(rarest), most=COMMON, kind=kind, found=most, **likes
                    )
                )
            full_text = len(wanted) > 1 and all(len(word) >= FULL_TEXT_LETTERS for word in wanted)
            depth = QUERIES.depth_of_newest(c, shop_id=shop_id, deep=DEEP) if full_text else None
            since = depth["id"] if depth is not None else 0
            newest = list(QUERIES.newest_entries(c, shop_id=shop_id, since=since, kind=kind, found=most, **likes))
            if len(newest) >= most or not since:
                return newest
            typed = " ".join(f"+{word}*" for word in wanted)
            more = QUERIES.entries_by_text(c, shop_id=shop_id, text=typed, kind=kind, found=most)
            return list({row["id"]: row for row in (*newest, *more)}.values())[:most]

        rows = self.database.read(work)
        return [Hit(Kind(r["kind"]), r["ref"], r["title"], r["line"], r["address"]) for r in rows]

    def lacking_jobs(self, context: Context, most: int) -> list[str]:
        """Jobs nobody finds yet, as after an update."""
        rows = self.database.read(lambda c: list(QUERIES.jobs_not_searched(c, shop_id=context.shop_id, most=most)))
        return [row["number"] for row in rows]

    def lacking_parts(self, context: Context, most: int) -> list[int]:
        """Catalogue parts nobody finds yet."""
        rows = self.database.read(lambda c: list(QUERIES.parts_not_searched(c, shop_id=context.shop_id, most=most)))
        return [row["id"] for row in rows]

    def enter_part(self, context: Context, part_id: int, part: Part) -> None:
        """Make a catalogue part found."""
        self.database.run(lambda c: index_part(c, context, part_id, part))

    def enter_findings(self, context: Context, number: str, sentences: Iterable[str]) -> None:
        """Make a job found by what is wrong with it."""
        said = tuple(sentences)

        def work(c: Any) -> None:
            row = QUERIES.job_to_search(c, shop_id=context.shop_id, number=number)
            if row is not None:
                entry = (f"{number}: findings", said[0] if said else "", f"/jobs/{number}/plan")
                index(c, context, Kind.FINDING, row["id"], entry, said)

        self.database.run(work)


def index(c: Any, context: Context, kind: Kind, ref: int, shown: tuple[str, str, str], texts: Iterable[str]) -> None:
    """Keep one entry, inside the transaction that changes what it is about; one without a word is taken out. Two who
    enter the same at once make one entry of it.

    Parameters:
        c: the connection.
        context: who changes it.
        kind: what it is.
        ref: its number among its kind.
        shown: title, line and address of what is shown.
        texts: what it is found by.
    """
    shop_id, (title, line, address) = context.shop_id, shown
    wanted = list(dict.fromkeys(word for text in texts for word in words_of(text)))[:MOST_KEPT]
    row = {"title": title[:160], "line": line[:240], "address": address[:120], "words": f" {' '.join(wanted)} "}
    known = QUERIES.get_entry(c, shop_id=shop_id, kind=kind, ref=ref)
    if known is not None and all(known[name] == row[name] for name in row):
        return
    if known is None:
        if not wanted:
            return
        entry_id = QUERIES.add_entry(c, shop_id=shop_id, kind=kind, ref=ref, **row)["id"]
    else:
        entry_id = known["id"]
        QUERIES.change_entry(c, shop_id=shop_id, id=entry_id, **row)
        if known["words"] == row["words"]:
            return
        QUERIES.clear_words(c, shop_id=shop_id, entry_id=entry_id)
        if not wanted:
            QUERIES.drop_entry(c, shop_id=shop_id, id=entry_id)
            return
    QUERIES.add_words(c, [{"shop_id": shop_id, "word": word, "entry_id": entry_id} for word in wanted])


def index_job(c: Any, context: Context, number: str, design: Design | None = None) -> None:
    """Enter a job, its customer and its car, and what people wrote in its plan where that is at hand."""
    row = QUERIES.job_to_search(c, shop_id=context.shop_id, number=number)
    if row is None:
        return
    car = " ".join(str(row[name]) for name in ("make", "model", "year") if row[name])
    about = [row["customer"], row["phone"], car, row["body"], row["plate"], row["chassis"]]
    shown = (f"{number} {row['title']}", f"{row['customer']} · {car}", f"/jobs/{number}")
    short = number.partition("-")[2].lstrip("0")
    index(c, context, Kind.JOB, row["id"], shown, [number, short, row["title"], *about])
    person = (row["customer"], row["phone"], f"/customers/{row['customer_id']}")
    index(c, context, Kind.CUSTOMER, row["customer_id"], person, [row["customer"], row["phone"]])
    index(c, context, Kind.CAR, row["vehicle_id"],
          (car or "a car", f"{row['customer']} {row['plate']}".strip(), f"/jobs/{number}/car"),
          [car, row["body"], row["plate"], row["chassis"], row["customer"]])  # fmt: skip
    if design is not None:
        written = notes(design)
        index(c, context, Kind.NOTE, row["id"],
              (f"{number}: notes", written[0] if written else "", f"/jobs/{number}"), written)  # fmt: skip


def index_customer(c: Any, context: Context, customer_id: int) -> None:
    """Enter a customer with every job anew, as after a change of name."""
    for row in list(QUERIES.jobs_of_customer(c, shop_id=context.shop_id, customer_id=customer_id)):
        index_job(c, context, row["number"])


def index_part(c: Any, context: Context, part_id: int, part: Part) -> None:
    """Enter a catalogue part."""
    shown = (f"{part.maker} {part.name}".strip(), part.kind, f"/catalogue/{part_id}")
    index(c, context, Kind.PART, part_id, shown, [part.maker, part.name, part.kind.replace("-", " ")])


def forget(c: Any, context: Context, kind: Kind, ref: int) -> None:
    """Take an entry out."""
    index(c, context, kind, ref, ("", "", ""), ())
