"""The course of an account's values as a picture: a dot for each noted one, holes apart."""

from dataclasses import dataclass
from datetime import date

from bolsa.services.accounts.valuing import ValuesPage
from bolsa.web.filters import day, money
from bolsa.web.pictures.kit import Area, Picture, day_scale, marks_at, money_scale

AREA = Area(1180, 200, 84, 1168, 12, 160)


@dataclass(frozen=True)
class ValuesCourse:
    """The line, the places of noted values, and the hatched holes as (x, width)."""

    picture: Picture
    path: str
    dots: tuple[tuple[float, float], ...]
    holes: tuple[tuple[float, float], ...]


def draw_values(page: ValuesPage, today: date) -> ValuesCourse | None:
    """The picture, None while fewer than two values are noted."""
    notes = [step.note for step in reversed(page.steps)]
    if len(notes) < 2:
        return None
    currency = page.state.account.currency
    amounts = [note.amount_minor for note in notes]
    is_near_zero = max(amounts) - min(amounts) > max(amounts) * 0.4
    x, ticks = day_scale(AREA, notes[0].day, today)
    y, rules = money_scale(AREA, [*amounts, 0] if is_near_zero else amounts, currency, parts=4)
    places = [(x(note.day), y(note.amount_minor)) for note in notes]
    path = "M" + "L".join(f"{at} {height}" for at, height in places) + f"H{AREA.right}"
    holes = tuple(
        (x(gap.before.day), round(x(gap.after.day if gap.after else today) - x(gap.before.day), 1)) for gap in page.gaps
    )
    rows = tuple((day(note.day), money(note.amount_minor, currency)) for note in notes)
    marks = marks_at(AREA, [at for at, _ in places], [f"{when}: {amount}" for when, amount in rows])
    name = f"Values of {page.state.account.name}, {rows[0][0]} to {rows[-1][0]}"
    picture = Picture(name, AREA, rules, ticks, marks, ("Day", "Value"), rows)
    dots = tuple(place for place, note in zip(places, notes, strict=True) if note.source in ("hand", "brought"))
    return ValuesCourse(picture, path, dots, holes)
