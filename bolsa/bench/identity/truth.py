"""Three months of one account as they truly were: every booking with its days, its amount, and what was paid."""

import random
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, timedelta

FIRST, LAST = date(2026, 2, 1), date(2026, 4, 30)
_NAMES = (
    "Heron", "Tern", "Plover", "Skerry", "Sluice", "Grebe", "Lantern", "Quay", "Anchor", "Cormorant", "Kelp", "Barley",
    "Millstone", "Gannet", "Sorrel", "Bracken",
)  # fmt: skip
_KINDS = (
    "Grocer",
    "Bakery",
    "Diesel",
    "Chandlery",
    "Pharmacy",
    "Hardware",
    "Market",
    "Kiosk",
    "Books",
    "Café",
    "Tools",
    "Garage",
)
_ROUND = (500, 1_000, 2_000, 2_500, 5_000, 10_000)
_TILL = (299, 349, 499, 799, 999, 1_299, 1_999)  # prices many shops have


@dataclass(frozen=True)
class Booking:
    """A booking: when it was paid and when the bank booked it, in minor units from the account's side; `number` tells it
    apart."""

    number: int
    paid: date
    booked: date
    amount_minor: int
    shop: str
    is_card: bool = True


def live(seed: int) -> list[Booking]:
    """The bookings of three months, in order of the day they were booked; the same for the same seed."""
    dice = random.Random(seed)  # noqa: S311 (made up)
    shops = [f"{name} {kind}" for name in _NAMES for kind in _KINDS]
    dice.shuffle(shops)
    found = sorted(_paid(dice, shops), key=lambda one: one[0])
    slow = dice.choice((0, 0, 1, 2))  # days this bank takes with card payments
    bookings = []
    for number, (paid, amount_minor, shop, is_card) in enumerate(found, 1):
        booked = _weekday(paid + timedelta(days=dice.choice((slow, slow, slow + 1)) if is_card else 0))
        bookings.append(Booking(number, paid, booked, amount_minor, shop, is_card))
    return sorted(bookings, key=lambda one: (one.booked, one.number))


def _paid(dice: random.Random, shops: list[str]) -> Iterator[tuple[date, int, str, bool]]:
    days = [FIRST + timedelta(days=i) for i in range((LAST - FIRST).days + 1)]
    coffee, price = shops[0], dice.choice((320, 350, 410))
    for day in days:
        if day.day == dice.choice((1, 2)):
            yield day, -64_000, shops[1], False
        if day.day == 25:
            yield day, 213_000 + dice.choice((0, 0, 12_345)), shops[2], False
        if day.weekday() == 4 and dice.random() < 0.6:
            yield day, -dice.choice(_ROUND), "Cash machine Port Halden", True
        if day.weekday() < 5 and dice.random() < 0.5:
            for _ in range(dice.choice((1, 1, 1, 2))):  # two true purchases of one amount on one day
                yield day, -price, coffee, True
        for _ in range(dice.choice((0, 0, 1, 1, 2))):
            shop = dice.choice(shops[3:25])
            amount = dice.choice(_TILL) if dice.random() < 0.25 else dice.randint(250, 14_000)
            yield day, amount if dice.random() < 0.03 else -amount, shop, True


def _weekday(day: date) -> date:
    """The day, or the Monday after it: banks book on working days."""
    return day + timedelta(days=(7 - day.weekday()) if day.weekday() > 4 else 0)
