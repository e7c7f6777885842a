"""Sorting: piles of what waits, and filing them. Suggestions: learning.py. Transfers: transferring.py. Rules: rules.py."""

import sqlite3
from collections import Counter
from collections.abc import Container, Mapping, Sequence
from dataclasses import dataclass

from bolsa.core.known import known
from bolsa.core.sorting.category import Unsorted
from bolsa.core.sorting.joining import is_near
from bolsa.core.sorting.question import Question
from bolsa.core.sorting.suggestions import Suggestion
from bolsa.core.sorting.transfers import Pair
from bolsa.core.whole_numbers import counted
from bolsa.errors import InvalidInput, NotFound
from bolsa.services.changes import Done, change
from bolsa.services.clock import By
from bolsa.services.sorting import transferring
from bolsa.services.sorting.learning import Learner
from bolsa.store.accounts import accounts
from bolsa.store.ledger import entries, payees
from bolsa.store.sorting import categories, filing, questions, rules

MOST_WORDS = 300


@dataclass(frozen=True)
class Pile:
    """Unsorted entries of one shop in one currency, decided together; the suggestion is that of each of them, the least certain
    first. A shop's entries of which different categories are likely are different piles. `spellings` are the payees it is written
    as: id, name, and how many of the entries."""

    shop_id: int
    payee_id: int
    payee: str
    currency: str
    entries: tuple[Unsorted, ...]
    spellings: tuple[tuple[int, str, int], ...]
    suggestion: Suggestion | None
    certain: Mapping[int, float]  # by entry: how certain its first choice is, 0 where Bolsa asks

    @property
    def likely_id(self) -> int:
        """The category suggested, less than 0 for a transfer with the account of that number, 0 where Bolsa asks."""
        return self.suggestion.choices[0].category_id if self.suggestion and self.suggestion.is_guess else 0

    @property
    def key(self) -> str:
        """What names the pile among the others."""
        return f"{self.shop_id}-{self.currency}-{self.likely_id}"

    @property
    def amount_minor(self) -> int:
        """What of it waits."""
        return sum(entry.waits_minor for entry in self.entries)

    def as_certain_as(self, least: float) -> list[int]:
        """The entries whose first choice is at least that certain."""
        return [id_ for id_, certainty in self.certain.items() if certainty >= least]


@dataclass(frozen=True)
class Certain:
    """What would be filed by itself at a certainty: by category (less than 0: a transfer) its piles and how many entries."""

    category_id: int
    entry_count: int
    amount_minor: int
    currency: str
    piles: tuple[tuple[Pile, tuple[int, ...]], ...]


@dataclass(frozen=True)
class ToSort:
    """What waits to be sorted: proposed transfers first, then the piles, biggest first; what is put to members waits for them."""

    transfers: tuple[Pair, ...]
    piles: tuple[Pile, ...]
    entry_count: int
    asked: tuple[Question, ...] = ()
    asked_count: int = 0  # entries that wait for a category and an answer

    def after(self, key: str) -> Pile | None:
        """The pile that follows one, the first again after the last; None if there is no other."""
        keys = [pile.key for pile in self.piles]
        at = (keys.index(key) + 1) % len(keys) if key in keys else 0
        return self.piles[at] if len(keys) > 1 else None

    def certain_at(self, least: float) -> list["Certain"]:
        """What filing all that are at least that certain would do, most entries first."""
        by_category: dict[tuple[int, str], list[tuple[Pile, tuple[int, ...]]]] = {}
        for pile in self.piles:
            ids = tuple(pile.as_certain_as(least))
            if ids:
                by_category.setdefault((pile.likely_id, pile.currency), []).append((pile, ids))
        found = []
        for (category_id, currency), piles in by_category.items():
            chosen = {id_ for _, ids in piles for id_ in ids}
            amount = sum(entry.waits_minor for pile, _ in piles for entry in pile.entries if entry.entry_id in chosen)
            found.append(Certain(category_id, len(chosen), amount, currency, tuple(piles)))
        return sorted(found, key=lambda one: -one.entry_count)


def what_to_sort(db: sqlite3.Connection, suggest_for: int = 10_000) -> ToSort:
    """Every unsorted entry, once: in a proposed transfer or in its shop's pile, or put to a member.

    Only the first `suggest_for` piles are sure to have suggestions, for pages that show no more.
    """
    asked, learner = questions.list_open(db), Learner(db)
    with_members = {question.entry_id for question in asked}
    pairs, by_shop = _waiting(db, learner, with_members)
    ordered = sorted(by_shop.items(), key=lambda one: _size(one[1]))
    piles: list[Pile] = []
    learns = True
    for (shop, _), members in ordered:
        # A shop's piles are not bigger than the shop: once so many are as big as the next one, the first ones are known.
        learns = learns and sum(len(pile.entries) >= len(members) for pile in piles) < suggest_for
        piles += _piles(shop, members, learner if learns else None)
    piles.sort(key=lambda pile: _size(pile.entries))
    with_others = categories.count_unsorted_among(db, with_members)
    return ToSort(tuple(pairs), tuple(piles), categories.count_unsorted(db) - with_others, tuple(asked), with_others)


def find_pile(db: sqlite3.Connection, key: str) -> Pile | None:
    """The pile of that key, found without a look at what the others suggest; None if there is none."""
    learner = Learner(db)
    _, by_shop = _waiting(db, learner, {question.entry_id for question in questions.list_open(db)})
    for (shop, currency), members in by_shop.items():
        if key.startswith(f"{shop}-{currency}-"):
            return next((pile for pile in _piles(shop, members, learner) if pile.key == key), None)
    return None


def _waiting(
    db: sqlite3.Connection, learner: Learner, with_members: Container[int]
) -> tuple[list[Pair], dict[tuple[int, str], list[Unsorted]]]:
    """What waits and is not put to a member: the transfers it proposes, and the rest by shop and currency."""
    waiting = [entry for entry in categories.list_unsorted(db) if entry.entry_id not in with_members]
    pairs = transferring.propose(db, waiting)
    in_pairs = {id_ for pair in pairs for id_ in pair.entry_ids}
    by_shop: dict[tuple[int, str], list[Unsorted]] = {}
    for entry in waiting:
        if entry.entry_id not in in_pairs:
            by_shop.setdefault((learner.shop_of(entry.payee_id), entry.currency), []).append(entry)
    return pairs, by_shop


def _size(members: Sequence[Unsorted]) -> tuple:
    """By this the biggest pile comes first: most entries, then most money."""
    return -len(members), -abs(sum(entry.waits_minor for entry in members)), members[0].payee


def _piles(shop_id: int, members: list[Unsorted], learner: Learner | None) -> list[Pile]:
    """A shop's entries, those together of which the same category is likely."""
    by_likely: dict[int, list[tuple[Unsorted, Suggestion | None]]] = {}
    for entry in members:
        found = learner.suggest_for(entry) if learner else None
        likely = found.choices[0].category_id if found and found.is_guess else 0
        by_likely.setdefault(likely, []).append((entry, found))
    return [_pile(shop_id, pairs) for pairs in by_likely.values()]


def _pile(shop_id: int, pairs: list[tuple[Unsorted, Suggestion | None]]) -> Pile:
    certain = {entry.entry_id: found.choices[0].certainty if found and found.is_guess else 0.0 for entry, found in pairs}
    told = [found for _, found in pairs if found]
    suggestion = min(told, key=lambda found: found.choices[0].certainty) if told else None
    counts = Counter((entry.payee_id, entry.payee) for entry, _ in pairs)
    spellings = tuple((id_, name, many) for (id_, name), many in counts.most_common())
    payee_id, payee, _ = min(spellings, key=lambda one: (-one[2], len(one[1])))
    currency = pairs[0][0].currency
    return Pile(shop_id, payee_id, payee, currency, tuple(entry for entry, _ in pairs), spellings, suggestion, certain)


def suggest_for_entry(db: sqlite3.Connection, entry_id: int) -> Suggestion | None:
    """What an entry likely belongs to, sorted or not, by what was decided of others; None if nothing is like it. Raises:
    NotFound, InvalidInput for a transfer."""
    entry = entries.get_entry(db, entry_id)
    if entry.is_transfer:
        raise InvalidInput("That is a transfer.")
    line = entry.account_lines[0]
    account = accounts.get_account(db, line.on_account_id)
    waiting = [part.amount_minor for part in entry.category_lines if part.category_id == categories.UNSORTED]
    seen = Unsorted(
        entry.id, line.stored_id, entry.payee_id, entry.payee, entry.memo, account.id, account.name, line.currency,
        line.day or entry.day, line.amount_minor, line.raw_text, -sum(waiting) if waiting else line.amount_minor,
    )  # fmt: skip
    return Learner(db).suggest_for(seen, is_sorted=not waiting)


def near_piles(db: sqlite3.Connection, todo: ToSort, pile: Pile) -> list[Pile]:
    """The other piles that are likely the same shop: their names differ by a few letters only, and nobody said they are two."""
    refused = payees.list_refused(db, "payees")
    found: dict[int, Pile] = {}
    for other in todo.piles:
        if other.shop_id == pile.shop_id or other.currency != pile.currency:
            continue
        pair = (min(pile.payee_id, other.payee_id), max(pile.payee_id, other.payee_id))
        if pair not in refused and is_near(pile.payee, other.payee):
            found.setdefault(other.shop_id, other)
    return list(found.values())


def file_entries(
    db: sqlite3.Connection, by: By, entry_ids: list[int], category_id: int, *, tag: str = "", note: str = "",
    member_id: int | None = None,
) -> Done:  # fmt: skip
    """Files unsorted entries under a category, with a tag, a note, and for whom they were, where said. Raises: NotFound,
    InvalidInput."""
    with change(db, by) as done:
        category = categories.get_category(db, category_id)
        if category.role:
            raise InvalidInput("Choose one of your own categories.", field="category")
        if len(note) > MOST_WORDS:
            raise InvalidInput(f"{MOST_WORDS} letters are enough for a note.", field="note")
        done.sentence = f"Filed {counted(len(entry_ids), 'entry', 'entries')} under {category.name}"
        line_ids = categories.list_unsorted_lines(db, entry_ids)
        if not categories.file_unsorted(db, entry_ids, category_id):
            raise NotFound("These entries are sorted already.")
        say_of_lines(db, line_ids, tag, member_id)
        if note.strip():
            filing.add_notes(db, entry_ids, note.strip())
        filing.forget_filings(db, entry_ids)
        questions.answer_all_of(db, entry_ids, by.today, f"filed under {category.name}")
    return done


def say_of_lines(db: sqlite3.Connection, line_ids: Sequence[int], tag: str, member_id: int | None) -> None:
    """Tags category lines and says for whom they were, within the caller's step."""
    if tag:
        filing.add_tags(db, [(line_id, tag) for line_id in line_ids])
    if member_id is not None:
        filing.write_members(db, [(member_id, line_id) for line_id in line_ids])


def file_sure(db: sqlite3.Connection, by: By, least_certainty: float) -> Done:
    """Files every entry whose suggestion is at least that certain, as one step; no step if there is none. Makes their ids."""
    with change(db, by) as done:
        sure = [(pile, ids) for pile in what_to_sort(db).piles if (ids := pile.as_certain_as(least_certainty))]
        done.made = [id_ for _, ids in sure for id_ in ids]
        done.sentence = f"Filed {counted(len(done.made), 'entry', 'entries')} as suggested, in {counted(len(sure), 'pile')}"
        for pile, ids in sure:
            suggestion = known(pile.suggestion)
            if pile.likely_id < 0:
                transferring.make_transfers(db, by, ids, -pile.likely_id)
            else:
                categories.file_unsorted(db, ids, pile.likely_id)
            said = {"way": "suggestion", "rule_id": None, "words": suggestion.reason, "day": by.today.isoformat()}
            category_id = pile.likely_id if pile.likely_id > 0 else None
            rules.put_filings(db, [said | {"entry_id": id_, "category_id": category_id} for id_ in ids])
    return done


def keep_apart(db: sqlite3.Connection, by: By, payee_id: int, *, apart: bool = True) -> Done:
    """Says that a payee is a shop of its own, whatever it is like; or lets it be joined again."""
    with change(db, by) as done:
        name = payees.get_payee(db, payee_id).name
        done.sentence = f"{name} is kept apart" if apart else f"{name} may be one shop with others again"
        payees.set_apart(db, payee_id, apart=apart)
    return done


def refuse_near(db: sqlite3.Connection, by: By, payee_id: int, other_ids: Sequence[int]) -> Done:
    """Says that payees whose names are near each other are different shops."""
    with change(db, by) as done:
        done.sentence = f"{payees.get_payee(db, payee_id).name} and those like it are different shops"
        payees.put_refused(db, "payees", [(payee_id, other) for other in other_ids])
    return done
