"""Suggestions for entries that wait, learned from the household's own decisions."""

import sqlite3
from collections import Counter, defaultdict
from dataclasses import replace
from functools import lru_cache

from rapidfuzz import fuzz, process

from bolsa.core.ledger.payees import payee_key
from bolsa.core.sorting.category import Unsorted
from bolsa.core.sorting.circumstances import Case
from bolsa.core.sorting.joining import join
from bolsa.core.sorting.steadiness import learn_steadiness
from bolsa.core.sorting.suggestions import Choice, Past, Suggestion, learn
from bolsa.core.sorting.vocabulary import GUESSED, guess
from bolsa.store.accounts import accounts
from bolsa.store.ledger import payees
from bolsa.store.sorting import categories
from bolsa.store.sorting.categories import MORE_DECISIONS, MOST_DECISIONS

LIKE_PAYEE = 84
LATEST = 2_000  # decisions that tell how steady the household's payees are
SAID = 0.95  # how sure what a person said of a payee is


@lru_cache(4)
def _join(names: tuple[tuple[int, str, bool], ...]) -> dict[int, int]:
    """By payee the shop it is of. Filing changes no name: thousands of them are not compared after each act."""
    return join({id_: name for id_, name, _ in names}, {id_ for id_, _, apart in names if apart})


class Learner:
    """Suggestions from the household's own decisions: of the payee itself and its other spellings, or of the sorted payee most
    like it; for a payee like none, a first guess by its words. A choice below 0 is a transfer with the account of that
    number."""

    def __init__(self, db: sqlite3.Connection):
        self.db = db
        self._keys: dict[int, str] | None = None
        self._names: dict[int, str] = {}
        self._pasts: dict[int, Past] = {}
        self._shops: dict[int, int] | None = None
        self._members: dict[int, list[int]] = {}
        self._steady: float | None = None
        self._currencies: dict[int, str] | None = None
        self._likes: dict[str, int | None] = {}
        self._usual: dict[int, int] | None = None
        self._own: dict[int, tuple[str, str]] = {}

    def suggest_for(self, entry: Unsorted, *, is_sorted: bool = False) -> Suggestion | None:
        """The suggestion for an entry, None if nothing is known of any like it. A sorted one's own categories are no past."""
        said = self._said_of(entry.payee_id)
        if said:
            return Suggestion((Choice(said, 0, 0, SAID),), "its usual category, as you said", is_guess=True)
        past, like = self._past_of(entry.payee_id), ""
        if entry.is_part or is_sorted:  # what its other part is, this one is not likely to be
            past = self._learned(self.shop_of(entry.payee_id), entry.payee_id, MOST_DECISIONS, without=entry.entry_id)
        if not past.cases:
            like_id = self._payee_like(entry.payee)
            if like_id is not None and like_id != entry.payee_id:
                past, like = self._past_of(like_id), self._names[like_id]
        found = past.suggest(Case(entry.amount_minor, entry.account_id, entry.day, entry.raw_text), entry.currency, like)
        return (self._possible(found, entry) if found else None) or self._first_guess(entry)

    def _possible(self, found: Suggestion, entry: Unsorted) -> Suggestion | None:
        """A suggestion without the transfers that the entry cannot be: with its own account, between currencies, or of a part."""
        if all(choice.category_id > 0 or self._can_transfer(entry, -choice.category_id) for choice in found.choices):
            return found
        left = tuple(one for one in found.choices if one.category_id > 0 or self._can_transfer(entry, -one.category_id))
        if not left:
            return None
        if left[0] == found.choices[0]:
            return replace(found, choices=left)
        return Suggestion(left, f"{left[0].times} of {left[0].cases} times", is_guess=False)

    def _can_transfer(self, entry: Unsorted, account_id: int) -> bool:
        if self._currencies is None:
            self._currencies = {account.id: account.currency for account in accounts.list_accounts(self.db)}
        return account_id != entry.account_id and self._currencies.get(account_id) == entry.currency and not entry.is_part

    def shop_of(self, payee_id: int) -> int:
        """The first of the payees that are one shop with this one."""
        if self._shops is None:
            self._shops = _join(tuple((one.id, one.name, one.apart) for one in payees.list_payees(self.db)))
            for id_, shop in self._shops.items():
                self._members.setdefault(shop, []).append(id_)
        return self._shops.get(payee_id, payee_id)

    def _said_of(self, payee_id: int) -> int | None:
        if self._usual is None:
            self._usual = {one.id: one.category_id for one in payees.list_payees(self.db) if one.category_id is not None}
        return self._usual.get(payee_id)

    def _past_of(self, payee_id: int) -> Past:
        """What was decided on a payee, and on those that are one shop with it."""
        shop = self.shop_of(payee_id)
        if shop not in self._pasts:
            past = self._learned(shop, payee_id, MOST_DECISIONS)
            if past.is_undecided and past.cases >= MOST_DECISIONS:
                past = self._learned(shop, payee_id, MORE_DECISIONS)
            self._pasts[shop] = past
        return self._pasts[shop]

    def _learned(self, shop: int, payee_id: int, most: int, without: int = 0) -> Past:
        members = self._members.get(shop, [payee_id])
        found = [one for id_ in members for one in categories.list_decisions(self.db, id_, most, without=without)]
        found.sort(key=lambda one: one.day)
        return learn(found[-most:], self._steadiness())

    def _steadiness(self) -> float:
        """How many of the household's payees are for one thing."""
        if self._steady is None:
            pasts: dict[int, Counter[int]] = defaultdict(Counter)
            for payee_id, category_id, times in categories.count_latest_decisions(self.db, LATEST):
                pasts[self.shop_of(payee_id)][category_id] += times
            self._steady = learn_steadiness(counts.values() for counts in pasts.values())
        return self._steady

    def _payee_like(self, name: str) -> int | None:
        if name not in self._likes:
            self._likes[name] = self._find_like(name)
        return self._likes[name]

    def _find_like(self, name: str) -> int | None:
        if self._keys is None:
            sorted_payees = categories.list_sorted_payees(self.db)
            self._names = {id_: payee for payee, id_ in sorted_payees.items()}
            self._keys = {id_: payee_key(payee) for payee, id_ in sorted_payees.items()}
        key = payee_key(name)
        best = process.extractOne(key, self._keys, scorer=fuzz.token_set_ratio, score_cutoff=LIKE_PAYEE)
        return best[2] if best and len(key) > 3 else None

    def _first_guess(self, entry: Unsorted) -> Suggestion | None:
        """What a payee's words alone speak of: a choice, and no guess."""
        if not self._own:
            self._own = {c.id: (c.name, c.type) for c in categories.list_categories(self.db)}
        wanted = "income" if entry.amount_minor > 0 else "spending"
        names = {id_: name for id_, (name, _) in self._own.items()}
        allowed = [id_ for id_, (_, type_) in self._own.items() if type_ == wanted]
        found = guess(f"{entry.payee} {entry.memo}", names, allowed)
        if found is None:
            return None
        return Suggestion((Choice(found[0], 0, 0, GUESSED),), f"a first guess by its words: {found[1]}", is_guess=False)
