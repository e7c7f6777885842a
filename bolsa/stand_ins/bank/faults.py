"""What can be switched to go wrong at the bank stand-in, and what each does to an answer."""

from dataclasses import dataclass, replace
from datetime import date, timedelta
from decimal import Decimal

from bolsa.stand_ins.bank.state import BankAccount, BankRow

SLOW_SECONDS = 4
NEW_PASSWORD = "bollard-7"  # noqa: S105 (part of the story)


@dataclass(frozen=True)
class Fault:
    """One thing that goes wrong at an institution while it is switched on."""

    key: str
    words: str


FAULTS = (
    Fault("consent", "The consent has ended: every request is refused"),
    Fault("password", f"The password was changed to “{NEW_PASSWORD}”, and the consent ended with it"),
    Fault("missing", "The first account is missing from the answers"),
    Fault("repeat", "The latest entry is sent twice, with another id"),
    Fault("sign", "The latest entry is sent with the wrong sign"),
    Fault("pending", "Entries of the next days are announced as pending"),
    Fault("pending-low", "What is announced is announced a tenth too low, until it is booked"),
    Fault("pending-gone", "A reservation is announced that will never be booked"),
    Fault("slow", f"Every answer takes {SLOW_SECONDS} seconds"),
    Fault("half", "The last account answers with an error, after the others were sent"),
    Fault("cut", "Answers break off in the middle"),
)
FAULT_BY_KEY = {fault.key: fault for fault in FAULTS}
DAYS_ANNOUNCED = 3


@dataclass(frozen=True)
class Answer:
    """What an institution answers for an account: its booked rows, the pending ones (None if it never announces any)."""

    rows: tuple[BankRow, ...]
    pending: tuple[BankRow, ...] | None


def answer_for(account: BankAccount, faults: frozenset[str], first: date, today: date) -> Answer:
    """The rows of some days as the institution would send them, with what is switched on."""
    rows = account.rows_between(first, today)
    if rows and "sign" in faults:
        rows[-1] = replace(rows[-1], amount=-rows[-1].amount)
    if rows and "repeat" in faults:
        rows.append(replace(rows[-1], id=f"{rows[-1].id}-R"))
    announces = faults & {"pending", "pending-low", "pending-gone"}
    return Answer(tuple(rows), tuple(_pending(account, faults, today)) if announces else None)


def _pending(account: BankAccount, faults: frozenset[str], today: date) -> list[BankRow]:
    """What is on its way: the bookings of the next days, announced today under references of their own."""
    pending = []
    if faults & {"pending", "pending-low"}:
        for row in account.rows_between(today + timedelta(days=1), today + timedelta(days=DAYS_ANNOUNCED)):
            low = (row.amount * Decimal("0.9")).quantize(Decimal("0.01")) if "pending-low" in faults else row.amount
            pending.append(replace(row, amount=low, id=f"P-{row.id}", day=today))
    if "pending-gone" in faults:
        pending.append(BankRow(today, Decimal("-60.00"), "QUAYSIDE DIESEL RESERVATION", "", f"P-{account.number}-HOLD"))
    return pending
