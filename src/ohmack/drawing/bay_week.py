"""A week of the bays: days from left to right, a lane a bay, every car where it stands; for a phone, days downwards."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import date

from markupsafe import Markup

from ohmack.core.build.bay import Hours, Piece, Visit
from ohmack.core.record import record
from ohmack.drawing.car import NARROW
from ohmack.drawing.svg import el, group, label, text_width

WIDE = 1160.0
LANE, BAR, TOP, LEFT = 56.0, 44.0, 46.0, 54.0
HOUR_PX = 26.0  # on a phone
NAMES = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")


@record
class Standing:
    """A visit with its stretches, and whether it clashes with something."""

    visit: Visit
    pieces: tuple[Piece, ...]
    clash: bool


def draw_week(
    days: Sequence[date], hours: Hours, rows: Sequence[Standing], today: date, link: Callable[[str], str]
) -> tuple[Markup, Markup]:
    """The week for a screen and for a phone."""
    return _lying(days, hours, rows, today, link), _standing(days, hours, rows, today, link)


def _lying(
    days: Sequence[date], hours: Hours, rows: Sequence[Standing], today: date, link: Callable[[str], str]
) -> Markup:
    bays = max([hours.bays, *(s.visit.bay for s in rows)])
    day_px = (WIDE - LEFT) / max(len(days), 1)
    bottom = TOP + bays * LANE
    drawn = []
    for n, day in enumerate(days):
        x = LEFT + n * day_px
        here = " today" if day == today else ""
        drawn.append(el("rect", x=x, y=TOP - 6, width=day_px, height=bottom - TOP + 6, class_=f"day{here}"))
        drawn.append(label(x + 8, 20, f"{NAMES[day.weekday()]} {day.day}", "lab"))
        for hour in range(-(-hours.opens_min // 120) * 2, hours.closes_min // 60 + 1, 2):
            at = x + day_px * (hour * 60 - hours.opens_min) / hours.day_min
            drawn.append(el("path", d=f"M{at:.1f} {TOP - 6:.1f}V{bottom:.1f}", class_="grid"))
            if at + 10 < x + day_px:
                drawn.append(label(at, 35, str(hour), "dim", "middle" if at > x + 8 else "start"))
    for bay in range(1, bays + 1):
        y = TOP + (bay - 0.5) * LANE
        drawn.append(label(LEFT - 8, y + 4, f"Bay {bay}", "dim", "end"))
        drawn.append(el("path", d=f"M{LEFT:.1f} {TOP + bay * LANE:.1f}H{WIDE:.1f}", class_="grid"))
    place = {day.toordinal(): n for n, day in enumerate(days)}
    for row in rows:
        for piece in (p for p in row.pieces if p.day in place):
            x = LEFT + place[piece.day] * day_px
            start, end = (x + day_px * (m - hours.opens_min) / hours.day_min for m in (piece.from_min, piece.to_min))
            y = TOP + (piece.bay - 1) * LANE + (LANE - BAR) / 2
            drawn.append(_block(row, start + 1, y, end - start - 2, BAR, link))
    return _svg(drawn, WIDE, bottom + 8)


def _standing(
    days: Sequence[date], hours: Hours, rows: Sequence[Standing], today: date, link: Callable[[str], str]
) -> Markup:
    drawn, y = [], 6.0
    bays = max([hours.bays, *(s.visit.bay for s in rows)])
    lane = (NARROW - 34.0) / bays
    tall = HOUR_PX * hours.day_min / 60
    for day in days:
        here = " today" if day == today else ""
        here_now = [(row, p) for row in rows for p in row.pieces if p.day == day.toordinal()]
        name = f"{NAMES[day.weekday()]} {day.day}"
        if not here_now:
            drawn.append(el("rect", x=30.0, y=y, width=NARROW - 34.0, height=26.0, class_=f"day{here}"))
            drawn.append(label(38, y + 17, f"{name}: free", "dim"))
            y += 36
            continue
        drawn.append(label(30, y + 15, name, "lab"))
        y += 22
        drawn.append(el("rect", x=30.0, y=y, width=NARROW - 34.0, height=tall, class_=f"day{here}"))
        for hour in range(-(-hours.opens_min // 60), hours.closes_min // 60 + 1, 2):
            at = y + (hour * 60 - hours.opens_min) * HOUR_PX / 60
            drawn.append(el("path", d=f"M30 {at:.1f}H{NARROW - 4:.1f}", class_="grid"))
            drawn.append(label(26, at + 4, str(hour), "dim", "end"))
        for row, piece in here_now:
            top = y + (piece.from_min - hours.opens_min) * HOUR_PX / 60
            height = (piece.to_min - piece.from_min) * HOUR_PX / 60
            drawn.append(_block(row, 31 + (piece.bay - 1) * lane, top + 1, lane - 2, height - 2, link))
        y += tall + 10
    return _svg(drawn, NARROW, y)


def _block(row: Standing, x: float, y: float, width: float, height: float, link: Callable[[str], str]) -> Markup:
    visit = row.visit
    state = "clash" if row.clash else "waits" if visit.waits_for else "here"
    texts = [label(x + 7, y + 17, visit.job, "lab")] if text_width(visit.job, "lab") < width - 10 else []
    if texts and height > 34:
        texts.append(label(x + 7, y + 33, _fitting(visit.title, width - 14), "dim"))
    title = el("title", f"{visit.job}: {visit.title}")
    box = el("rect", x=x, y=y, width=max(width, 3.0), height=max(height, 3.0), rx=3.0, class_=f"visit {state}")
    return el("a", title, box, *texts, href=link(visit.job), aria_label=f"{visit.job}, bay {visit.bay}")


def _fitting(words: str, width: float) -> str:
    """As many whole words as there is room for."""
    kept = ""
    for word in words.split():
        longer = f"{kept} {word}".strip()
        if text_width(longer, "dim") > width:
            break
        kept = longer
    return kept


def _svg(drawn: list[Markup], width: float, height: float) -> Markup:
    title = "The bays over the week"
    return el(
        "svg", el("title", title), group(drawn), viewBox=f"0 0 {width:g} {height:g}", class_="drawing bay-week",
        role="group", aria_label=title,
    )  # fmt: skip
