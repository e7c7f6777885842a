"""The track of a budget row: its length is the need's scale, outline what was there, fill what was spent, hatch what is over. Of
an aim that builds up or is kept it is the whole way: fill what is there by now, tick where it should stand by now."""

from dataclasses import dataclass

from bolsa.core.budget.month import CategoryMonth
from bolsa.core.budget.progress import Progress

LENGTH = 236
ROOM = 260


@dataclass(frozen=True)
class Track:
    """Widths and places in pixels; `over` begins at `over_x` where what was there ends. `is_way` says that it is the way of an
    aim."""

    held: float
    spent: float
    over_x: float
    over: float
    tick: float | None
    is_way: bool = False


def draw_track(row: CategoryMonth, progress: Progress | None = None) -> Track:
    """The row's track. The scale is the larger of the month's whole plan and what was there; what is over may exceed it."""
    if progress:
        return _way(row, progress)
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


def _way(row: CategoryMonth, progress: Progress) -> Track:
    should = progress.should_minor
    tick = round(LENGTH * progress.share(should), 1) if should is not None else None
    over = 5.0 if row.over_minor else 0.0
    return Track(LENGTH, round(LENGTH * progress.share(progress.there_minor), 1), LENGTH, over, tick, is_way=True)
