"""The track of a budget row: its length is the need's scale, outline what was there, fill what was spent, hatch what is over."""

from dataclasses import dataclass

from bolsa.core.budget.month import CategoryMonth

LENGTH = 276
ROOM = 300


@dataclass(frozen=True)
class Track:
    """Widths and places in pixels; `over` begins at `over_x` where what was there ends."""

    held: float
    spent: float
    over_x: float
    over: float
    tick: float | None


def draw_track(row: CategoryMonth) -> Track:
    """The row's track. The scale is the larger of the month's whole plan and what was there; what is over may exceed it."""
    there = max(0, row.there_minor)
    plan = max(row.expected_minor, row.need_minor + max(0, row.carried_minor))
    scale = max(plan, min(there, plan) if plan else there, row.spent_minor if not plan and not there else 0, 1)

    def px(amount_minor: int) -> float:
        return round(min(ROOM - 2, LENGTH * amount_minor / scale), 1)

    spent = max(0, row.spent_minor)
    held_px, within = px(there), px(min(spent, there))
    over = max(0, spent - there)
    over_px = round(min(px(over), ROOM - 1 - held_px), 1) if over else 0
    return Track(held_px, within, held_px, max(over_px, 5) if over else 0, px(plan) if plan else None)
