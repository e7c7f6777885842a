"""Letting the days of the household happen: every booking with its true category, the same from the same seed."""

import random
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, timedelta

from bolsa.core.months import Month, months_between
from bolsa.demo import people


@dataclass(frozen=True)
class Happening:
    """One thing that happened, as it truly was. `amount_minor` is signed from the account's side.

    Either `category` says what it was for, or `other` names the account at the other end (arriving `slow` days later, `set_by`
    the category it is paid from, when that account is apart). `interest_minor` is the part of a loan payment that is
    interest.
    """

    day: date
    account: str
    amount_minor: int
    payee: str
    raw: str
    category: str = ""
    other: str = ""
    slow: int = 0
    set_by: str = ""
    interest_minor: int = 0
    memo: str = ""


def happenings() -> list[Happening]:
    """Everything that happened from the first day to the end of what the bank knows, in order of day."""
    dice = random.Random(people.SEED)  # noqa: S311 (a story, not a secret)
    found: list[Happening] = []
    for month in months_between(Month.of(people.FIRST_DAY), Month.of(people.BANK_END)):
        found += _shopping(dice, month)
        found += _regulars(dice, month)
        found += _studio(dice, month)
        found += _around_the_tin(dice, month)
        found += _loan(month)
    found += _pay(dice)
    found += _survey()
    found += _card_payments(found)
    kept = [h for h in found if people.FIRST_DAY < h.day <= people.BANK_END]
    return sorted(kept, key=lambda h: (h.day, h.account, h.payee, h.amount_minor))


def _minor(amount: float) -> int:
    return round(amount * 100)


def _years(day: date) -> float:
    return (day - people.FIRST_DAY).days / 365.25


def _shopping(dice: random.Random, month: Month) -> Iterator[Happening]:
    for shop in people.SHOPS:
        visits = int(shop.visits) + (dice.random() < shop.visits % 1) + dice.choice((-1, 0, 0, 0, 1) if shop.visits > 3 else (0,))
        for _ in range(visits):
            day = month.day(dice.randint(1, 31))
            if shop.payee == "Saturday Market":
                day += timedelta(days=(5 - day.weekday()) % 7 - (7 if (5 - day.weekday()) % 7 > 3 else 0))
            price = dice.triangular(shop.least, shop.most, shop.least + (shop.most - shop.least) * 0.3)
            price *= 1 + 0.028 * _years(day)
            raw = shop.raw.format(n=dice.randint(100, 999))
            category = shop.category
            # The hardware shop sells for the studio and the boat too: a shop that must be asked about.
            if shop.payee == "Lantern Hardware":
                category = dice.choices(("Household", "Upkeep", "Clay and glazes"), (5, 3, 2))[0]
            yield Happening(day, shop.account, -_minor(price), shop.payee, raw, category)


def _regulars(dice: random.Random, month: Month) -> Iterator[Happening]:
    for bill in people.REGULARS:
        if month.number not in bill.months:
            continue
        # Prices rise once a year, in January, not a little every month.
        amount = bill.amount * (1 + bill.drift) ** (month.year - people.FIRST_DAY.year - 1)
        amount += dice.uniform(-bill.spread, bill.spread)
        day = month.day(bill.day)
        if bill.payee == "Curlew Streaming" and month >= Month(2026, 3):
            amount = 11.90  # the raised subscription
        if bill.payee == "Tidewater Power" and month == Month(2026, 5):
            day = date(2026, 5, 21)  # the late bill
        if day.weekday() > 4 and bill.account != "card":
            day += timedelta(days=7 - day.weekday())
        yield Happening(day, bill.account, -_minor(amount), bill.payee, bill.raw, bill.category)


def _studio(dice: random.Random, month: Month) -> Iterator[Happening]:
    """Sales through the year: lively before the holidays, thin in late winter, and two market stalls."""
    season = (0.7, 0.55, 0.7, 0.9, 1.1, 1.25, 1.2, 1.0, 0.9, 1.0, 1.5, 1.9)[month.number - 1]
    for _ in range(dice.randint(2, 5)):
        day = month.day(dice.randint(1, 28))
        sum_ = dice.triangular(70, 460, 150) * season
        who = dice.choice(("Gallery Linnet", "Tern and Table", "Studio web orders", "Lighthouse Hotel"))
        yield Happening(day, "studio", _minor(sum_), who, f"{who.upper()} PAYMENT {dice.randint(1000, 9999)}", "Studio sales")
    if month.number in (6, 11):
        day = month.day(9)
        yield Happening(day, "studio", -_minor(185 + 6 * _years(day)), "Stall Committee", "STALL COMMITTEE FEE", "Market stalls")
        for i in range(2):
            takings = _minor(dice.uniform(210, 420))
            yield Happening(month.day(20 + i), "tin", takings, "Market stall", "", "Studio sales")
        yield Happening(month.day(23), "tin", -50000, "Studio current", "", other="studio", slow=1)
    # What the studio can spare goes to the household.
    spare = round(dice.uniform(0.45, 0.7) * 900 * season / 50) * 50
    raw = "STANDING ORDER I ARRIETA HOUSEHOLD"
    yield Happening(month.day(25), "studio", -_minor(spare * 0.55), "Household current", raw, other="current", slow=1)


def _around_the_tin(dice: random.Random, month: Month) -> Iterator[Happening]:
    for day in (5, 19):
        yield Happening(month.day(day), "current", -5500, "Cash tin", "CASH WITHDRAWAL ATM QUAY 2", other="tin")
    for week in range(4):
        yield Happening(month.day(2 + 7 * week), "tin", -600, "Mika", "", "Pocket money")
    if dice.random() < 0.6:
        yield Happening(
            month.day(dice.randint(3, 26)), "tin", -_minor(dice.uniform(9, 28)), "School trip", "", "School and lunches"
        )
    transfer = 10000 if month < Month(2025, 1) else 12500
    raw = "TRANSFER TO RESERVE 0777"
    yield Happening(month.day(27), "current", -transfer, "Reserve", raw, other="reserve", slow=1)
    if month.number == 12:
        interest = _minor(dice.uniform(38, 55))
        yield Happening(month.day(31), "reserve", interest, "Halden Mutual", "INTEREST YEAR", "Interest received")
    if month == Month(2026, 5):  # the transfer whose other side comes with the next download
        yield Happening(date(2026, 5, 6), "current", -25000, "Reserve", "TRANSFER 0093", other="reserve", slow=2)


def _loan(month: Month) -> Iterator[Happening]:
    """The barge loan: 612.00 a month, of which 3.9 % a year on what is owed is interest."""
    months = month - Month.of(people.FIRST_DAY)
    if months < 1:
        return
    owed, interest = 5_824_000, 0
    for _ in range(months):
        interest = round(owed * 0.039 / 12)
        owed -= 61200 - interest
    day = month.day(28)
    if day.weekday() > 4:
        day += timedelta(days=7 - day.weekday())
    raw = "STANDING ORDER LOAN HM90012"
    yield Happening(day, "current", -61200, "Barge loan", raw, other="loan", set_by="Barge loan", interest_minor=interest)


def _pay(dice: random.Random) -> Iterator[Happening]:
    """Noor's pay, every second Friday; 8 May 2026 is one of them. That of 24 April came three cents short of the usual slip."""
    day = date(2026, 5, 8)
    while day > people.FIRST_DAY:
        day -= timedelta(days=14)
    day += timedelta(days=14)
    while day <= people.BANK_END:
        net = 1058.60 * 1.031 ** (day.year - 2023)
        if dice.random() < 0.18:
            net += dice.randint(2, 9) * 19.42  # overtime
        amount = _minor(net) - 3 * (day == date(2026, 4, 24)) - (day == date(2026, 5, 8))
        yield Happening(day, "current", amount, "Port Halden Ferry Company", "PT HALDEN FERRY CO PAY QUIST", "Noor’s pay")
        day += timedelta(days=14)


def _card_payments(found: list[Happening]) -> Iterator[Happening]:
    """The card is paid off on the 14th with all that was bought until the end of the month before."""
    paid = 0
    opening = -38640
    for month in months_between(Month.of(people.FIRST_DAY) + 1, Month.of(people.BANK_END)):
        bought = opening + sum(
            h.amount_minor for h in found if h.account == "card" and h.day < month.first_day and h.day > people.FIRST_DAY
        )
        owed = -(bought + paid)
        paid += owed
        day = month.day(16) if month == Month(2026, 5) else month.day(14)
        yield Happening(day, "current", -owed, "Corvane card", "DIRECT DEBIT CORVANE CARD 5512", other="card", slow=1)


def _survey() -> Iterator[Happening]:
    """The hull survey every two years, a fortnight in the south each January, and a heater that was dear."""
    for year in (2023, 2024, 2025, 2026):
        for day, price, who in (
            (9, 412, "Halden Ferries Travel"),
            (14, 638, "Casa Alcaravan"),
            (21, 204, "Casa Alcaravan"),
        ):
            drifted = -_minor(price * 1.03 ** (year - 2023))
            yield Happening(date(year, 1, day), "card", drifted, who, who.upper(), "A winter in the south")
    yield Happening(date(2026, 5, 6), "current", -558, "Sluice Wholefoods", "CARD SLUICE WHOLEFOODS 2214", "Groceries")
    heater = "a heater for the galley"
    yield Happening(
        date(2026, 5, 2), "card", -14635, "Lantern Hardware", "LANTERN HARDWARE 0310 PT HALDEN", "Household", memo=heater
    )
    for year, price in people.HULL_SURVEY.items():
        yield Happening(date(year, 10, 16), "current", -price * 100, "Petrel Surveyors", "PETREL SURVEYORS INV", "Hull survey")
