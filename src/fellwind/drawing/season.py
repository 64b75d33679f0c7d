"""A season as bars on a line of days: from when a bow can be worked on to when it is done."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from django.utils.safestring import SafeString

from bowyery.making.season import Schedule
from fellwind.drawing import svg

WIDTH, LEFT, RIGHT, ROW = 960.0, 240.0, 20.0, 34.0
MOST = 24  # rows


@dataclass(frozen=True)
class Span:
    """A bow: its name, schedule, and whether it is begun."""

    name: str
    plan: Schedule
    begun: bool


def season_picture(rows: Sequence[Span], today: date, wanted: date | None) -> SafeString:
    """Draw the season.

    Args:
        wanted: the day they are wanted, or None.
    """
    rows = rows[:MOST]
    last = max([r.plan.late for r in rows] + ([wanted] if wanted else []))
    days = max((last - today).days, 30) + 5
    scale = (WIDTH - LEFT - RIGHT) / days

    def x(day: date) -> float:
        return LEFT + max((day - today).days, 0) * scale

    tall = 44 + ROW * len(rows) + 8
    parts = []
    month = today.replace(day=1)
    step = 1 if days < 400 else 3
    while month <= last + timedelta(days=5):
        if month >= today:
            parts.append(svg.line((x(month), 28), (x(month), tall - 8), "rule"))
            parts.append(svg.text((x(month) + 3, 22), f"{month:%b}", "small muted"))
        for _ in range(step):
            month = (month.replace(day=28) + timedelta(days=5)).replace(day=1)
    told = []
    for number, row in enumerate(rows):
        y = 44 + ROW * number
        plan = row.plan
        name = row.name if len(row.name) < 28 else f"{row.name[:27]}…"
        parts.append(svg.text((16, y + 14), name, "small strong" if row.begun else "small"))
        start, early, usual, late = x(plan.begins), x(plan.early), x(plan.usual), x(plan.late)
        if plan.begins > today:
            parts.append(svg.line((x(today), y + 9), (start, y + 9), "waits-line"))
        parts.append(svg.rect(start, y + 3, max(early - start, 2), 12, "span-work"))
        parts.append(svg.rect(early, y + 3, max(late - early, 2), 12, "span-range"))
        parts.append(svg.line((usual, y), (usual, y + 18), "span-done"))
        told.append(
            (row.name, f"{plan.begins:%-d %b %Y}", f"{plan.early:%-d %b}", f"{plan.usual:%-d %b}",
             f"{plan.late:%-d %b %Y}")
        )  # fmt: skip
    if wanted:
        parts.append(svg.line((x(wanted), 28), (x(wanted), tall - 8), "wanted-day"))
        parts.append(
            svg.text((x(wanted), tall), f"wanted {wanted:%-d %b}", "small strong", "middle")
        )
    title = f"The season: {len(rows)} bows, the last of them done about {last:%-d %B %Y}."
    heads = ("Bow", "Can be worked from", "Done early", "Done, most likely", "Done late")
    picture = svg.picture(WIDTH, tall + 6, parts, title, "ruler-picture season-picture")
    return SafeString(picture + svg.figures("The season", heads, told))
