"""The calendar file: read by another reader, and by the letter of RFC 5545."""

from __future__ import annotations

from datetime import UTC, date, datetime

import vobject

from ohmack.core.build.bay import Hours, Visit, pieces
from ohmack.formats.calendar import write_calendar

DAY = date(2026, 11, 30).toordinal()
HOURS = Hours(8 * 60, 17 * 60, False, 2)
WRITTEN = datetime(2026, 11, 27, 9, 0, tzinfo=UTC)


def written(*visits: Visit) -> bytes:
    return write_calendar([(v, pieces(v, HOURS)) for v in visits], WRITTEN)


def test_another_reader_finds_every_stretch_where_it_stands() -> None:
    long = Visit("J-0401", "Bass, clarity; and a \\ name\nof two lines", 700.0, 2, DAY, 9 * 60, DAY + 1)
    short = Visit("J-0402", "Ümläute Ω", 45.0, 1, DAY + 3, 16 * 60 + 30)
    events = vobject.readOne(written(long, short, Visit("J-0403", "no day", 60.0)).decode()).vevent_list
    assert [(e.dtstart.value, e.dtend.value) for e in events] == [
        (datetime(2026, 11, 30, 9, 0), datetime(2026, 11, 30, 17, 0)),
        (datetime(2026, 12, 1, 8, 0), datetime(2026, 12, 1, 11, 40)),
        (datetime(2026, 12, 3, 16, 30), datetime(2026, 12, 3, 17, 0)),
        (datetime(2026, 12, 4, 8, 0), datetime(2026, 12, 4, 8, 15)),
    ]
    assert events[0].summary.value == "J-0401 Bass, clarity; and a \\ name\nof two lines, 1 of 2"
    assert [e.location.value for e in events] == ["Bay 2", "Bay 2", "Bay 1", "Bay 1"]
    assert events[0].description.value == "Ready by 2026-12-01"


def test_the_file_keeps_to_the_letter_of_its_standard() -> None:
    """RFC 5545: lines end in CR LF and hold 75 octets at most (3.1); PRODID and VERSION 2.0 stand (3.6); every event
    has UID and DTSTAMP in UTC (3.6.1).
    """
    data = written(Visit("J-0401", "Ω" * 80, 60.0, 1, DAY, 480))
    lines = data.split(b"\r\n")
    assert lines[-1] == b""
    assert b"\n" not in b"".join(lines)
    assert max(map(len, lines)) <= 75
    text = data.decode()
    assert "VERSION:2.0" in text
    assert "PRODID:" in text
    assert text.count("BEGIN:VEVENT") == text.count("UID:") == text.count("DTSTAMP:20261127T090000Z") == 1


def test_an_event_keeps_its_id_when_it_moves() -> None:
    def ids(day: int) -> list[str]:
        found = vobject.readOne(written(Visit("J-0401", "t", 700.0, 1, day, 480)).decode())
        return [e.uid.value for e in found.vevent_list]

    assert ids(DAY) == ids(DAY + 7)
    assert len(set(ids(DAY))) == 2
