"""What people type. Inch and foot by their international definitions (25.4 mm exactly, 1959 agreement)."""

from __future__ import annotations

from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ohmack.formats.entry import EntryError, read_day, read_minute, read_number, read_quantity, read_wire_size


@pytest.mark.parametrize(
    ("text", "unit", "value"),
    [
        ("16 ft 4 in", "m", 4.9784), ("16' 4\"", "m", 4.9784), ("16'4\"", "m", 4.9784), ("5,4", "m", 5.4),
        ("5.4 m", "m", 5.4),
        ("540 cm", "m", 5.4), ("1/2 in", "m", 0.0127), ("3 1/2 in", "m", 0.0889), ("3½ in", "m", 0.0889),
        ("12 V", "v", 12.0), ("15 mV", "v", 0.015),
        ("1.5 mΩ", "ohm", 0.0015), ("1,5 mohm", "ohm", 0.0015), ("4 Ω", "ohm", 4.0), ("4 ohms", "ohm", 4.0),
        ("0.5kW", "w", 500.0),
        ("1 kHz", "hz", 1000.0), ("25 mm²", "mm2", 25.0), ("0.25 cm²", "mm2", 25.0), ("−5", "dbfs", -5.0),
        ("-5 dBFS", "dbfs", -5.0),
        ("3 dB", "db", 3.0), ("10 %", "", 0.10), ("2 lb", "kg", 0.90718474), ("1,234.5", "w", 1234.5),
        ("1.234,5", "w", 1234.5), ("60 °C", "c", 60.0),
        ("300 mA", "a", 0.3), ("15 mV / 10 A", "ohm", 0.0015), ("15 mV at 10 A", "ohm", 0.0015),
        ("0,112 V @ 46 A", "ohm", 0.112 / 46),
    ],
)  # fmt: skip
def test_quantities(text: str, unit: str, value: float) -> None:
    assert read_quantity(text, unit) == pytest.approx(value)


def test_a_bare_number_takes_the_shown_unit() -> None:
    assert read_quantity("1.5", "ohm", "mohm") == pytest.approx(0.0015)
    assert read_quantity("16", "m", "ft") == pytest.approx(4.8768)
    assert read_quantity("0.0015 ohm", "ohm", "mohm") == pytest.approx(0.0015)


@pytest.mark.parametrize(
    ("text", "unit", "words"),
    [
        ("", "m", "Nothing"), ("five", "m", "cannot be read"), ("5 parsnips", "m", "not known here"),
        ("5 V", "m", "not a length"),
        ("12 m", "v", "not a voltage"), ("1/0", "m", "no fraction"), ("1,500", "w", "two ways"),
        ("5 m 3", "m", "unit of 3"), ("9" * 80, "m", "too long"),
        ("5 dBV", "dbfs", "not a level"), ("4 V", "", "plain number"), ("1..2", "m", "no number|cannot"),
        ("<b>1</b>", "m", "cannot be read"),
        ("5 __import__", "m", "cannot be read|not known"),
    ],
)  # fmt: skip
def test_unreadable_entries_say_why(text: str, unit: str, words: str) -> None:
    with pytest.raises(EntryError, match=words):
        read_quantity(text, unit)


@pytest.mark.parametrize(
    ("text", "size"),
    [("4 AWG", "4 AWG"), ("4awg", "4 AWG"), ("#4", "4 AWG"), ("4 ga", "4 AWG"), ("1/0", "1/0 AWG"),
     ("0", "1/0 AWG"), ("00 AWG", "2/0 AWG"),
     ("25 mm²", "25 mm2"), ("2,5 mm2", "2.5 mm2"), ("", None)],
)  # fmt: skip
def test_wire_sizes(text: str, size: str | None) -> None:
    assert read_wire_size(text) == size


@given(st.text(max_size=30), st.sampled_from(["m", "v", "ohm", "w", "", "db"]))
def test_anything_typed_gives_a_number_or_a_sentence(text: str, unit: str) -> None:
    try:
        assert isinstance(read_quantity(text, unit), float)
    except EntryError as error:
        assert str(error).endswith(".") or "“" in str(error)


@given(st.floats(-1e6, 1e6).map(lambda x: round(x, 3)))
def test_numbers_survive_both_decimal_marks(value: float) -> None:
    assert read_number(f"{value:.3f}".replace(".", ",") if abs(value) < 1 else f"{value:.3f}") == pytest.approx(value)


@pytest.mark.parametrize(
    ("typed", "minute"),
    [("2026-11-28T07:05", "2026-11-28T07:05"), ("2026-11-28T07:05:59", "2026-11-28T07:05"),
     ("2026-11-28 07:05", "2026-11-28T07:05"), ("2026-11-28T07:05+02:00", "2026-11-28T07:05")],
)  # fmt: skip
def test_a_minute_is_read_as_forms_send_it(typed: str, minute: str) -> None:
    """Local time as it stands on the wall: seconds and zones are left out."""
    assert read_minute(typed) == minute


@pytest.mark.parametrize("typed", ["", "07:05", "28.11.2026 07:05", "2026-02-30T07:05", "2026-11-28T25:00", "x" * 90])
def test_what_is_no_time_is_told_how_to_write_one(typed: str) -> None:
    with pytest.raises(EntryError, match="2026-11-28T07:05") as refused:
        read_minute(typed)
    assert len(str(refused.value)) < 90
    with pytest.raises(EntryError, match="2026-11-28"):
        read_day(typed)


def test_a_day_is_read_as_a_day() -> None:
    assert read_day("2028-02-29") == date(2028, 2, 29)
