"""Adding, changing, hiding and showing accounts; the accounts table. Closing and deleting: ending.py."""

import sqlite3
from dataclasses import dataclass, replace
from datetime import date
from typing import Any

from bolsa.core.accounts.account import KIND_BY_KEY, KINDS_WITH_SHARES, Account, AccountState
from bolsa.core.accounts.opening import KnownBalance
from bolsa.core.accounts.terms import NO_TERMS, Terms
from bolsa.core.currencies import parse_currency
from bolsa.core.known import known
from bolsa.core.ledger.entries import Line, Part, entry_on_account
from bolsa.core.units import Money, Rate
from bolsa.core.whole_numbers import counted
from bolsa.errors import InvalidInput
from bolsa.services.accounts.openings import OPENING_PAYEE, is_counted
from bolsa.services.changes import Done, change, require_version
from bolsa.services.clock import By
from bolsa.services.holdings.book import values_by_account
from bolsa.store.accounts import accounts, openings, terms
from bolsa.store.house import household
from bolsa.store.ledger import entries
from bolsa.store.sorting import categories
from bolsa.store.sorting.categories import OPENING


@dataclass(frozen=True)
class NewAccount:
    """What is asked when an account is added; None follows from the kind. The opening balance is signed as it stands:
    a debt is negative. `set_apart` keeps a card's debt from before out of the unplaced money, in a category of its own."""

    name: str
    kind: str
    currency: str = ""
    opening_minor: int = 0
    opened_on: date | None = None
    everyday: bool | None = None
    side: str | None = None
    institution: str = ""
    number: str = ""
    group: str = ""
    note: str = ""
    set_apart: bool = False
    terms: Terms = NO_TERMS
    owner_ids: tuple[int, ...] = ()


def add_account(db: sqlite3.Connection, by: By, new: NewAccount) -> Done:
    """Adds an account with its opening balance; gives its id. Raises: InvalidInput naming the field."""
    with change(db, by) as done:
        kind = KIND_BY_KEY.get(new.kind)
        if kind is None:
            raise InvalidInput(f"“{new.kind}” is no kind of account. Kinds: {', '.join(KIND_BY_KEY)}.", field="kind")
        name = _require_name(db, new.name)
        home = household.get_household(db).home_currency
        currency = new.currency or home
        currency = parse_currency(currency)
        everyday = kind.everyday and currency == home if new.everyday is None else new.everyday
        _require_home_currency(everyday, currency, home)
        opened_on = new.opened_on or by.today
        account = Account(
            id=0, name=name, kind=kind.key, side=new.side or kind.side, everyday=everyday, currency=currency,
            institution=new.institution.strip(), number=new.number.replace(" ", ""),
            group=new.group.strip() or kind.group_for(everyday), opened_on=opened_on, shown=True, note=new.note.strip(),
        )  # fmt: skip
        done.sentence = f"Added the account {name}"
        account_id = accounts.insert_account(db, account)
        if new.opening_minor:
            category_id = _debt_category(db, name) if new.set_apart and new.opening_minor < 0 else OPENING
            line = Line(new.opening_minor, currency, account_id=account_id, state="cleared")
            share = Part(category_id, -new.opening_minor)
            made = entries.insert_entry(db, entry_on_account(opened_on, OPENING_PAYEE, line, [share]))
            if is_counted(db, accounts.get_account(db, account_id)):
                openings.put_known(db, KnownBalance(account_id, opened_on, new.opening_minor, made))
        if new.terms != NO_TERMS:
            terms.put_terms(db, account_id, new.terms)
        if new.owner_ids:
            terms.put_owners(db, account_id, list(new.owner_ids))
        done.made = account_id
    return done


def add_several(db: sqlite3.Connection, by: By, rows: list[NewAccount]) -> Done:
    """Adds several accounts as one step. Raises: InvalidInput naming row and field; none is added then."""
    with change(db, by) as done:
        if not rows:
            raise InvalidInput("Fill at least one row.", field="row-0")
        done.sentence = f"Added {counted(len(rows), 'account')}"
        for i, new in enumerate(rows):
            try:
                add_account(db, by, new)
            except InvalidInput as error:
                raise InvalidInput(error.sentence, field=f"row-{i}") from error
    return done


def get_terms(db: sqlite3.Connection, account_id: int) -> Terms:
    """The account's terms."""
    return terms.get_terms(db, account_id)


def list_owners(db: sqlite3.Connection) -> dict[int, list[int]]:
    """The members who own each account, by account."""
    return terms.list_owners(db)


def list_facets(db: sqlite3.Connection) -> dict[int, str]:
    """The household's own facets by id."""
    return terms.list_facets(db)


def list_facet_values(db: sqlite3.Connection, account_id: int) -> dict[int, str]:
    """An account's value in each facet it has one in."""
    return terms.list_facet_values(db).get(account_id, {})


@dataclass(frozen=True)
class AccountDetails:
    """What hangs on an account beside its words: terms, owners, what it is in each facet; a facet that is new by its name."""

    terms: Terms
    owner_ids: tuple[int, ...]
    facets: dict[int, str]
    new_facet: tuple[str, str] = ("", "")


def _debt_category(db: sqlite3.Connection, account_name: str) -> int:
    """The category a card's old debt is paid down from: its minus is carried until it is placed away."""
    group_id = categories.put_group(db, "Debts")
    note = "Debt from before, set apart: place into it to pay it down."
    return categories.insert_category(db, group_id, f"Old debt on {account_name}", "spending", carries_minus=True, note=note)


def change_account(
    db: sqlite3.Connection,
    by: By,
    account_id: int,
    details: AccountDetails | None = None,
    *,
    seen: int | None = None,
    **words: Any,
) -> Done:
    """Changes an account's name, kind, side, everyday, institution, number, group or note, and its details; gives the step's
    id."""
    with change(db, by) as done:
        before = accounts.get_account(db, account_id)
        require_version(db, "account", account_id, seen, f"“{words.get('name', before.name)}”")
        if "name" in words:
            words["name"] = _require_name(db, str(words["name"]), besides=account_id)
        if "number" in words:
            words["number"] = str(words["number"]).replace(" ", "")
        after = replace(before, **words)
        if after.kind not in KIND_BY_KEY:
            raise InvalidInput("Choose one of the kinds.", field="kind")
        _require_home_currency(after.everyday, after.currency, household.get_household(db).home_currency)
        if after.counts_shares and (after.everyday or after.kind not in KINDS_WITH_SHARES):
            raise InvalidInput(
                f"{before.name} is counted by its shares. Count it by noted values first, under Holdings.", field="kind"
            )
        done.sentence = f"Changed the account {before.name}"
        accounts.change_account(db, after)
        if after.everyday != before.everyday:
            accounts.mark_everyday_lines(db, account_id)
        if details:
            _put_details(db, account_id, details)
    return done


def _put_details(db: sqlite3.Connection, account_id: int, details: AccountDetails) -> None:
    kept = terms.get_terms(db, account_id)  # how lots are taken is said under Holdings
    terms.put_terms(db, account_id, replace(details.terms, lot_method=kept.lot_method))
    terms.put_owners(db, account_id, list(details.owner_ids))
    facets = dict(details.facets)
    name, value = (" ".join(part.split()) for part in details.new_facet)
    if name and value:
        facets[terms.put_facet(db, name[:40])] = value
    for facet_id, value in facets.items():
        terms.put_facet_value(db, account_id, facet_id, " ".join(value.split())[:60])


def move_account(db: sqlite3.Connection, by: By, account_id: int, places: int) -> Done:
    """Moves an account up (less than 0) or down within its group."""
    moved = accounts.get_account(db, account_id)
    listed = accounts.list_accounts(db)
    ids = [a.id for a in listed if (a.everyday, a.group) == (moved.everyday, moved.group)]
    at = ids.index(account_id)
    return place_account(db, by, account_id, ids[max(0, min(len(ids) - 1, at + places))])


def place_account(db: sqlite3.Connection, by: By, account_id: int, other_id: int) -> Done:
    """Puts an account in the place of another, which makes room; it takes on that one's group."""
    with change(db, by) as done:
        moved, other = accounts.get_account(db, account_id), accounts.get_account(db, other_id)
        if moved.everyday != other.everyday:
            raise InvalidInput("Everyday and apart accounts stand in lists of their own.")
        ids = [a.id for a in accounts.list_accounts(db)]
        to = ids.index(other_id)
        ids.remove(account_id)
        ids.insert(to, account_id)
        done.sentence = f"Moved the account {moved.name}"
        if moved.group != other.group:
            accounts.change_account(db, replace(moved, group=other.group))
        accounts.change_order(db, ids)
    return done


def set_shown(db: sqlite3.Connection, by: By, account_id: int, shown: bool) -> Done:
    """Hides an account from lists, or shows it again; it stays in every total."""
    with change(db, by) as done:
        account = accounts.get_account(db, account_id)
        done.sentence = f"{'Showed' if shown else 'Hid'} the account {account.name}"
        accounts.change_account(db, replace(account, shown=shown))
    return done


def set_flags(
    db: sqlite3.Connection, by: By, account_id: int, *, everyday: bool | None = None, shown: bool | None = None
) -> Done:
    """Turns an account everyday or apart, hides or shows it; None leaves a flag as it is."""
    with change(db, by) as done:
        if everyday is not None:
            change_account(db, by, account_id, everyday=everyday)
        if shown is not None:
            set_shown(db, by, account_id, shown)
        done.sentence = f"Changed the account {accounts.get_account(db, account_id).name}"
    return done


def _require_name(db: sqlite3.Connection, name: str, besides: int | None = None) -> str:
    name = " ".join(name.split())
    if not name or len(name) > 60:
        raise InvalidInput("An account needs a name of up to 60 letters.", field="name")
    there = accounts.find_account_named(db, name)
    if there and there.id != besides and there.name.casefold() == name.casefold():
        raise InvalidInput(f"There is an account “{there.name}” already.", field="name")
    return name


def _require_home_currency(everyday: bool, currency: str, home: str) -> None:
    if everyday and currency != home:
        raise InvalidInput(
            f"Money in {currency} cannot be placed into categories in {home}: keep this account apart.", field="everyday"
        )


@dataclass(frozen=True)
class AccountGroup:
    """The accounts of one group that are listed, how many of it are hidden, and the sum of all its members, hidden and closed
    ones too, in home currency at today's rates (None while a rate is not known)."""

    name: str
    everyday: bool
    states: tuple[AccountState, ...]
    members: tuple[AccountState, ...]
    total_minor: int | None
    hidden: int = 0


def account_groups(db: sqlite3.Connection, *, with_hidden: bool = False, with_closed: bool = False) -> list[AccountGroup]:
    """The accounts by everyday or apart and by group, in the household's order. A group whose accounts are all left out is not
    listed while they hold nothing."""
    held = values_by_account(db, [date.max])
    states = [
        replace(s, held_minor=held[s.account.id][0]) if s.account.id in held else s for s in accounts.list_account_states(db)
    ]
    home, rates = household.get_household(db).home_currency, accounts.list_rates(db)
    groups: dict[tuple[bool, str], list[AccountState]] = {}
    for state in states:
        groups.setdefault((state.account.everyday, state.account.group), []).append(state)
    found = []
    for (everyday, name), members in groups.items():
        shown = tuple(s for s in members if (with_hidden or s.account.shown) and (with_closed or s.account.closed_on is None))
        hidden = sum(not s.account.shown and s.account.closed_on is None for s in members)
        each = [in_home(Money(s.worth_minor, s.account.currency), home, rates) for s in members]
        total = None if None in each else sum(known(one).minor for one in each)
        if shown or total:
            found.append(AccountGroup(name, everyday, shown, tuple(members), total, hidden))
    return found


def in_home(own: Money, home: str, rates: dict[str, list[tuple[date, int]]]) -> Money | None:
    """An amount in home currency at the latest rate; None while none is known."""
    if own.currency == home:
        return own
    if own.currency not in rates:
        return None
    return Rate(own.currency, home, rates[own.currency][-1][1]).convert(own)


def resolve_account(db: sqlite3.Connection, text: str) -> Account:
    """The account of that name or bank number. Raises: InvalidInput naming the accounts there are."""
    found = accounts.find_account_named(db, text.strip())
    if found is None:
        names = ", ".join(account.name for account in accounts.list_accounts(db)) or "none yet"
        raise InvalidInput(f"There is no account “{text}”. Accounts: {names}.", field="account")
    return found


def home_currency(db: sqlite3.Connection) -> str:
    """The household's home currency."""
    return household.get_household(db).home_currency


def get_account(db: sqlite3.Connection, account_id: int) -> Account:
    """The account. Raises: NotFound."""
    return accounts.get_account(db, account_id)


def get_account_state(db: sqlite3.Connection, account_id: int) -> AccountState:
    """The account with its balance and what the bank says. Raises: NotFound."""
    return accounts.get_account_state(db, account_id)


def list_accounts(db: sqlite3.Connection) -> list[Account]:
    """All accounts, everyday ones first."""
    return accounts.list_accounts(db)
