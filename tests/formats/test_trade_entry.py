"""What the trade writes in its own way.

Areas of gauges by ASTM B258 (from memory); a sine's peak is √2 of its rms (handbook).
"""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ohmack.formats.entry import EntryError
from ohmack.formats.trade_entry import (
    read_amperes,
    read_area,
    read_coils,
    read_money,
    read_ratings,
    read_share,
    read_stated_volts,
    rms_of,
)


@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("€450", 450), ("450 €", 450), ("1,200", 1200), ("2 500 EUR", 2500), ("2’500 CHF", 2500),
        ("1.200,50", 1200.5), ("1,200.50", 1200.5), ("2.50", 2.5),
        ("2,5", 2.5), ("1.200.000", 1_200_000), ("0.500", 0.5), ("$19.99", 19.99),
    ],
)  # fmt: skip
def test_money(text: str, value: float) -> None:
    assert read_money(text) == pytest.approx(value)


@given(st.integers(1, 999), st.integers(0, 999))
def test_money_of_two_meanings_is_always_asked_back(thousands: int, rest: int) -> None:
    with pytest.raises(EntryError, match="two ways") as error:
        read_money(f"{thousands}.{rest:03d}")
    assert f"write {thousands}{rest:03d} or {thousands}." in str(error.value)


@pytest.mark.parametrize("text", ["", "€", "free", "1,2,3", "12.34.56", "-", "1e5x"])
def test_what_is_no_money(text: str) -> None:
    with pytest.raises(EntryError):
        read_money(text)


@pytest.mark.parametrize(
    ("text", "volts", "stated", "rms"),
    [
        ("9 Vpk", 9.0, "peak", 6.364), ("9Vp", 9.0, "peak", 6.364), ("18 Vpp", 9.0, "peak", 6.364),
        ("18 V p-p", 9.0, "peak", 6.364), ("18 volts peak to peak", 9.0, "peak", 6.364),
        ("9 V peak", 9.0, "peak", 6.364), ("6.4 Vrms", 6.4, "rms", 6.4), ("6,4 V rms", 6.4, "rms", 6.4),
        ("900 mV rms", 0.9, "rms", 0.9), ("9.2", 9.2, "", 9.2), ("9.2 V", 9.2, "", 9.2),
    ],
)  # fmt: skip
def test_volts_say_how_they_are_stated(text: str, volts: float, stated: str, rms: float) -> None:
    found = read_stated_volts(text)
    assert found == (pytest.approx(volts), stated)
    assert rms_of(*found) == pytest.approx(rms, abs=0.001)


def test_areas_lists_and_coils() -> None:
    assert [round(read_area(t), 2) for t in ("4 AWG", "16 mm²", "1/0 AWG", "18 ga", "0,75")] == [
        21.15, 16.0, 53.48, 0.82, 0.75,
    ]  # fmt: skip
    assert (
        read_amperes("2 x 25")
        == read_amperes("25A x2")
        == read_amperes("25+25")
        == read_amperes("25 A; 25 A")
        == [25.0, 25.0]
    )
    for text in ("D4", "dual 4 ohm", "2 x 4", "4+4", "4 Ω; 4 Ω", "DVC 4"):
        assert [c["impedance_ohm"] for c in read_coils(text)] == [4.0, 4.0], text
    assert read_coils("2 x 4 Ω (3.4 Ω DC)")[1] == {"impedance_ohm": 4.0, "dc_resistance_ohm": 3.4}
    assert len(read_coils("S4")) == 1
    for text in ("4 ohm 300W, 2 ohm 500W", "4 Ω: 300 W; 2 Ω: 0.5 kW", "300 W @ 4 ohm; 500 W @ 2 ohm"):
        assert [(r["load_ohm"], r["power_w"]) for r in read_ratings(text)] == [(4.0, 300.0), (2.0, 500.0)], text
    assert [read_share(t) for t in ("75", "75 %", "0.75")] == [0.75, 0.75, 0.75]


@pytest.mark.parametrize(
    ("read", "text"),
    [(read_amperes, "99 x 2"), (read_amperes, "two"), (read_coils, "D"), (read_coils, "dual soft"),
     (read_ratings, "lots"), (read_area, "3 1/7 AWG"), (read_area, "thick")],
)  # fmt: skip
def test_what_cannot_be_read_says_so(read: object, text: str) -> None:
    with pytest.raises(EntryError):
        read(text)  # type: ignore[operator]


@pytest.mark.parametrize(
    ("text", "chosen", "volts", "stated"),
    [("18", "peak to peak", 9.0, "peak"), ("9", "peak", 9.0, "peak"), ("6.4", "rms", 6.4, "rms"),
     ("18 Vpp", "rms", 9.0, "peak"), ("6.4", "", 6.4, "")],
)  # fmt: skip
def test_what_is_chosen_beside_a_voltage_counts_where_the_text_says_nothing(
    text: str, chosen: str, volts: float, stated: str
) -> None:
    assert read_stated_volts(text, chosen) == (pytest.approx(volts), stated)
