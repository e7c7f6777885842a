"""The course of an account's values as a drawing: a step for each, holes apart."""

from dataclasses import dataclass
from datetime import date

from bolsa.services.accounts.valuing import ValuesPage
from bolsa.web.round_steps import round_steps

WIDTH, HEIGHT, LEFT, TOP, BOTTOM = 1180, 190, 84, 12, 160


@dataclass(frozen=True)
class ValueDot:
    """A noted value as a place in the drawing."""

    x: float
    y: float
    day: date
    amount_minor: int
    is_noted: bool


@dataclass(frozen=True)
class ValuesCourse:
    """The dots in order, the line through them, the hatched holes as (x, width), and the rules with their amounts."""

    dots: tuple[ValueDot, ...]
    path: str
    holes: tuple[tuple[float, float], ...]
    rules: tuple[tuple[float, int], ...]
    years: tuple[tuple[float, int], ...]


def draw_values(page: ValuesPage, today: date) -> ValuesCourse | None:
    """The drawing, None while fewer than two values are noted."""
    notes = [step.note for step in reversed(page.steps)]
    if len(notes) < 2:
        return None
    first, days = notes[0].day, max(1, (today - notes[0].day).days)
    amounts = [note.amount_minor for note in notes]
    least, most = min(amounts), max(amounts)
    low = min(0, least) if least < 0 or most - least > most * 0.4 else least - (most - least) * 0.3 - 1
    span = max(1, most - low)

    def x(day: date) -> float:
        return round(LEFT + (WIDTH - LEFT - 12) * (day - first).days / days, 1)

    def y(amount: float) -> float:
        return round(BOTTOM - (BOTTOM - TOP) * (amount - low) / span, 1)

    dots = tuple(ValueDot(x(n.day), y(n.amount_minor), n.day, n.amount_minor, n.source in ("hand", "brought")) for n in notes)
    path = f"M{dots[0].x} {dots[0].y}" + "".join(f"L{dot.x} {dot.y}" for dot in dots[1:]) + f"H{WIDTH - 12}"
    holes = tuple(
        (x(gap.before.day), round(x(gap.after.day if gap.after else today) - x(gap.before.day), 1)) for gap in page.gaps
    )
    rules = tuple((y(amount), amount) for amount in round_steps(low, most, page.state.account.currency))
    years = tuple((x(date(year, 1, 1)), year) for year in range(first.year + 1, today.year + 1))
    return ValuesCourse(dots, path, holes, rules, years)
