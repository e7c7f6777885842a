"""Net worth by month: what is owned above the line, what is owed below it."""

from dataclasses import dataclass

from bolsa.core.months import Month


@dataclass(frozen=True)
class WorthPoint:
    """Net worth at a month's end, in home currency. Debts are negative, as they stand in the books."""

    month: Month
    owned_minor: int
    owed_minor: int

    @property
    def net_minor(self) -> int:
        return self.owned_minor + self.owed_minor


@dataclass(frozen=True)
class WorthRow:
    """One account on a day: its balance in its own currency and in home currency at that day's rate."""

    account_id: int
    name: str
    kind: str
    side: str
    shown: bool
    currency: str
    balance_minor: int
    home_minor: int


def worth_point(month: Month, rows: list[WorthRow]) -> WorthPoint:
    """The point a month's rows make. An account counts on its side, whichever sign it happens to have."""
    owned = sum(row.home_minor for row in rows if row.side == "asset")
    owed = sum(row.home_minor for row in rows if row.side == "liability")
    return WorthPoint(month, owned, owed)
