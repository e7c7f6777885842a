"""How long the money in hand would last at the usual spending."""

MOST_DAYS = 3_650
DAYS = 365  # of a year
MONTHS = 12  # a usual month is a twelfth of it


def days_lasting(money_minor: int, monthly_minor: int) -> int | None:
    """The whole days that money lasts if a month takes so much; None where nothing is usually spent, MOST_DAYS at most.

    Formula: days = money / (monthly × 12 / 365), rounded down.

    >>> days_lasting(100_000, 100_000), days_lasting(-5, 100), days_lasting(100, 0)
    (30, 0, None)
    """
    if monthly_minor <= 0:
        return None
    return min(MOST_DAYS, max(0, money_minor) * DAYS // (monthly_minor * MONTHS))
