"""Sorting: piles of unsorted entries, suggestions, transfers, and filing."""

import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from rapidfuzz import fuzz, process

from bolsa.core.known import known
from bolsa.core.ledger.entries import Entry
from bolsa.core.ledger.payees import payee_key
from bolsa.core.sorting.category import Unsorted
from bolsa.core.sorting.joining import join
from bolsa.core.sorting.suggestions import Past, Suggestion, learn
from bolsa.core.sorting.transfers import Pair, Side, propose_transfers
from bolsa.errors import InvalidInput, NotFound
from bolsa.services.changes import Done, change
from bolsa.services.clock import By
from bolsa.services.ledger import entries as entry_service
from bolsa.store.accounts import accounts
from bolsa.store.ledger import entries, payees
from bolsa.store.sorting import categories
from bolsa.store.sorting.categories import MOST_DECISIONS, UNSORTED

LIKE_PAYEE = 84


@dataclass(frozen=True)
class Pile:
    """Unsorted entries of one payee in one currency, decided together; the suggestion is that of each of them, the least certain
    first. A payee's entries of which different categories are likely are different piles."""

    payee_id: int
    payee: str
    currency: str
    entries: tuple[Unsorted, ...]
    suggestion: Suggestion | None
    certain: Mapping[int, float]  # by entry: how certain its first choice is, 0 where Bolsa asks

    @property
    def key(self) -> str:
        """What names the pile among the others."""
        likely = self.suggestion.choices[0].category_id if self.suggestion and self.suggestion.is_guess else 0
        return f"{self.payee_id}-{self.currency}-{likely}"

    @property
    def amount_minor(self) -> int:
        return sum(entry.amount_minor for entry in self.entries)

    def as_certain_as(self, least: float) -> list[int]:
        """The entries whose first choice is at least that certain."""
        return [id_ for id_, certainty in self.certain.items() if certainty >= least]


@dataclass(frozen=True)
class ToSort:
    """What waits to be sorted: proposed transfers first, then the piles, biggest first."""

    transfers: tuple[Pair, ...]
    piles: tuple[Pile, ...]
    entry_count: int


def what_to_sort(db: sqlite3.Connection, suggest_for: int = 10_000) -> ToSort:
    """Every unsorted entry, once: in a proposed transfer or in its payee's pile.

    Only the first `suggest_for` payees get suggestions, for pages that show no more.
    """
    waiting = categories.list_unsorted(db)
    pairs = propose_transfers([_side(entry) for entry in waiting])
    in_pairs = {side.entry_id for pair in pairs for side in (pair.out, pair.into)}
    by_payee: dict[tuple[int, str], list[Unsorted]] = {}
    for entry in waiting:
        if entry.entry_id not in in_pairs:
            by_payee.setdefault((entry.payee_id, entry.currency), []).append(entry)
    ordered = sorted(by_payee.values(), key=_size)
    learner = Learner(db)
    piles = [pile for i, members in enumerate(ordered) for pile in _piles(members, learner if i < suggest_for else None)]
    piles.sort(key=lambda pile: _size(pile.entries))
    return ToSort(tuple(pairs), tuple(piles), categories.count_unsorted(db))


def _side(entry: Unsorted) -> Side:
    text = f"{entry.payee} {entry.raw_text}"
    return Side(entry.entry_id, entry.account_id, entry.account, entry.day, entry.amount_minor, entry.currency, text)


def _size(members: Sequence[Unsorted]) -> tuple:
    """By this the biggest pile comes first: most entries, then most money."""
    return -len(members), -abs(sum(entry.amount_minor for entry in members)), members[0].payee


def _piles(members: list[Unsorted], learner: "Learner | None") -> list[Pile]:
    """A payee's entries, those together of which the same category is likely."""
    by_likely: dict[int, list[tuple[Unsorted, Suggestion | None]]] = {}
    for entry in members:
        found = learner.suggest_for(entry) if learner else None
        likely = found.choices[0].category_id if found and found.is_guess else 0
        by_likely.setdefault(likely, []).append((entry, found))
    return [_pile(pairs) for pairs in by_likely.values()]


def _pile(pairs: list[tuple[Unsorted, Suggestion | None]]) -> Pile:
    first = pairs[0][0]
    certain = {entry.entry_id: found.choices[0].certainty if found and found.is_guess else 0.0 for entry, found in pairs}
    told = [found for _, found in pairs if found]
    suggestion = min(told, key=lambda found: found.choices[0].certainty) if told else None
    return Pile(first.payee_id, first.payee, first.currency, tuple(entry for entry, _ in pairs), suggestion, certain)


class Learner:
    """Suggestions from the household's own decisions: of the payee itself, or of the sorted payee most like it."""

    def __init__(self, db: sqlite3.Connection):
        self.db = db
        self._keys: dict[int, str] | None = None
        self._names: dict[int, str] = {}
        self._pasts: dict[int, Past] = {}
        self._joined: dict[int, int] | None = None
        self._shops: dict[int, list[int]] = {}
        self._likes: dict[str, int | None] = {}

    def suggest_for(self, entry: Unsorted) -> Suggestion | None:
        past, like = self._past_of(entry.payee_id), ""
        if not past.cases:
            like_id = self._payee_like(entry.payee)
            if like_id is not None:
                past, like = self._past_of(like_id), self._names[like_id]
        return past.suggest(
            amount_minor=entry.amount_minor, account_id=entry.account_id, day=entry.day, currency=entry.currency, like=like
        )

    def _past_of(self, payee_id: int) -> Past:
        """What was decided on a payee, and on those that are one shop with it."""
        if self._joined is None:
            self._joined = join({id_: name for name, id_ in payees.list_payee_names(self.db).items()})
            for id_, shop in self._joined.items():
                self._shops.setdefault(shop, []).append(id_)
        shop = self._joined.get(payee_id, payee_id)
        if shop not in self._pasts:
            found = [one for id_ in self._shops.get(shop, [payee_id]) for one in categories.list_decisions(self.db, id_)]
            found.sort(key=lambda one: one.day)
            self._pasts[shop] = learn(found[-MOST_DECISIONS:])
        return self._pasts[shop]

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


def file_entries(db: sqlite3.Connection, by: By, entry_ids: list[int], category_id: int) -> Done:
    """Files unsorted entries under a category. Raises: NotFound, InvalidInput."""
    with change(db, by) as done:
        category = categories.get_category(db, category_id)
        if category.role:
            raise InvalidInput("Choose one of your own categories.", field="category")
        done.sentence = f"Filed {len(entry_ids)} {'entry' if len(entry_ids) == 1 else 'entries'} under {category.name}"
        if not categories.file_unsorted(db, entry_ids, category_id):
            raise NotFound("These entries are sorted already.")
    return done


def file_sure(db: sqlite3.Connection, by: By, least_certainty: float) -> Done:
    """Files every entry whose suggestion is at least that certain, as one step; no step if there is none."""
    with change(db, by) as done:
        sure = [(pile, ids) for pile in what_to_sort(db).piles if (ids := pile.as_certain_as(least_certainty))]
        count = sum(len(ids) for _, ids in sure)
        done.sentence = f"Filed {count} entries as suggested, in {len(sure)} piles"
        for pile, ids in sure:
            categories.file_unsorted(db, ids, known(pile.suggestion).choices[0].category_id)
    return done


def merge_transfer(db: sqlite3.Connection, by: By, out_entry_id: int, into_entry_id: int, set_by_id: int | None = None) -> Done:
    """Makes one transfer of two opposite unsorted entries; each account line keeps its own day, state and bank words.

    Raises: InvalidInput if they are not opposite sides.
    """
    with change(db, by) as done:
        out, into = entries.get_entry(db, out_entry_id), entries.get_entry(db, into_entry_id)
        sides = [entry.account_lines for entry in (out, into)]
        if any(len(lines) != 1 for lines in sides) or not all(_is_unsorted(entry) for entry in (out, into)):
            raise InvalidInput("One of the two is sorted already.")
        out_line, into_line = sides[0][0], sides[1][0]
        if out_line.amount_minor != -into_line.amount_minor or out_line.currency != into_line.currency:
            raise InvalidInput("The two amounts are not opposite.")
        if out_line.account_id == into_line.account_id:
            raise InvalidInput("Both are in the same account.")
        if accounts.get_account(db, into_line.on_account_id).everyday:
            out_line = out_line._replace(category_id=set_by_id)
        else:
            into_line = into_line._replace(category_id=set_by_id)
        merged = replace(out, lines=(out_line, into_line), memo=" · ".join(dict.fromkeys(filter(None, (out.memo, into.memo)))))
        done.sentence = f"Made one transfer of {out.payee} and {into.payee}"
        # The line keeps its id, so that the row the bank sent still leads to it.
        entries.move_line(db, into_line.stored_id, out.id)
        entries.remove_entry(db, into.id)
        entries.change_entry(db, merged)
    return done


def _is_unsorted(entry: Entry) -> bool:
    return all(line.category_id == UNSORTED for line in entry.category_lines)


def file_as_transfer(db: sqlite3.Connection, by: By, entry_ids: list[int], account_id: int, set_by_id: int | None = None) -> Done:
    """Makes transfers to or from an account of entries whose other side is not here (cash taken out, say).

    `set_by_id` names the category the money is set by from, where one side is everyday and the other apart. Raises: InvalidInput
    for a split, a transfer, or another currency.
    """
    with change(db, by) as done:
        other = accounts.get_account(db, account_id)
        done.sentence = f"Marked {len(entry_ids)} {'entry' if len(entry_ids) == 1 else 'entries'} as transfers with {other.name}"
        for entry in entries.list_entries(db, entry_ids):
            line = entry.account_lines[0]
            if len(entry.category_lines) != 1 or entry.is_transfer or line.account_id == account_id:
                raise InvalidInput("This entry cannot become a transfer with that account.")
            entry_service.refuse_made_elsewhere(db, entry)
            if line.currency != other.currency:
                raise InvalidInput("The two accounts have different currencies: enter the amount that arrived in its form.")
            account = accounts.get_account(db, line.on_account_id)
            interest, from_id = entry_service.loan_interest(db, account, other, entry.day, line.amount_minor)
            parts = (interest.as_line(line.currency, known(line.day)),) if interest else ()
            back = -line.amount_minor - sum(part.amount_minor for part in parts)
            far = entry.category_lines[0]._replace(
                category_id=None, account_id=account_id, state="pending", amount_minor=back, id=None, member_id=None, tags=()
            )
            chosen = set_by_id if set_by_id is not None else from_id
            if chosen is not None and account.everyday != other.everyday:
                far = far._replace(category_id=None if other.everyday else chosen)
                line = line._replace(category_id=chosen if other.everyday else None)
            entries.change_entry(db, replace(entry, lines=(line, far, *parts)))
    return done
