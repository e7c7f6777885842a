"""Entries that wait, divided between categories; those of which a part waits."""

from datetime import timedelta

from bolsa.core.ledger.entries import Entry, Line
from bolsa.core.sorting.rules import SharePart
from bolsa.errors import InvalidInput, NotFound
from bolsa.services.changes import change
from bolsa.services.ledger import entries
from bolsa.services.sorting import category_moves, sorting, splitting, transferring, why
from bolsa.services.sorting.learning import Learner
from bolsa.store.ledger import entries as stored
from bolsa.store.sorting.categories import UNSORTED, list_unsorted
from tests.services.household import BY, TODAY
from tests.services.test_sorting import SortingCase


class Dividing(SortingCase):
    def test_a_part_of_a_pile_is_split_by_per_cent_and_undone_whole(self):
        ids = [self.waits("Boatyard", -amount) for amount in (1_000, 999, 1)]
        other = self.waits("Boatyard", -400)
        before = self.everything()
        upkeep, presents = self.category("Clothes"), self.category("Presents")
        done = splitting.split_entries(self.db, BY, ids, [SharePart(upkeep, share_e6=400_000), SharePart(presents)], "EUR")
        lines = [{line.category_id: line.amount_minor for line in stored.get_entry(self.db, id_).category_lines} for id_ in ids]
        self.assertEqual(lines, [{upkeep: 400, presents: 600}, {upkeep: 400, presents: 599}, {presents: 1}])
        self.assertEqual([entry.entry_id for entry in list_unsorted(self.db)], [other])
        self.undoes_whole(done, before)

    def test_parts_that_make_no_whole_are_refused_and_none_is_split(self):
        ids = [self.waits("Boatyard", -1_000), self.waits("Boatyard", -300)]
        upkeep, presents = self.category("Clothes"), self.category("Presents")
        before = self.everything()
        for parts, words in (
            ([SharePart(upkeep, 400), SharePart(presents)], "more than the 3.00 EUR"),
            ([SharePart(upkeep)], "at least two"),
            ([SharePart(upkeep, 100), SharePart(presents, 200)], "Leave one part open"),
            ([SharePart(UNSORTED, 100), SharePart(presents)], "one of your own"),
        ):
            with self.assertRaisesRegex(InvalidInput, words):
                splitting.split_entries(self.db, BY, ids, parts, "EUR")
        nothing = self.waits("Boatyard", 0)
        with self.assertRaisesRegex(InvalidInput, "nothing to divide"):
            splitting.split_entries(self.db, BY, [nothing], [SharePart(upkeep, share_e6=1), SharePart(presents)], "EUR")
        before = self.everything()
        with self.assertRaisesRegex(InvalidInput, "is in EUR"):
            splitting.split_entries(self.db, BY, ids, [SharePart(upkeep, 100), SharePart(presents)], "JPY")
        self.assertEqual(self.everything(), before)

    def test_of_a_part_that_waits_the_other_parts_stay(self):
        entry = self.waits("Boatyard", -1_000)
        clothes, presents, groceries = (self.category(name) for name in ("Clothes", "Presents", "Groceries"))
        splitting.split_entries(self.db, BY, [entry], [SharePart(clothes, 700), SharePart(presents)], "EUR")
        category_moves.delete_category(self.db, BY, presents)
        before = self.everything()
        done = splitting.split_entries(
            self.db, BY, [entry], [SharePart(groceries, 100), SharePart(self.category("Health"))], "EUR"
        )
        found = {line.category_id: line.amount_minor for line in stored.get_entry(self.db, entry).category_lines}
        self.assertEqual(found, {clothes: 700, groceries: 100, self.category("Health"): 200})
        self.undoes_whole(done, before)

    def test_a_payee_that_was_split_is_offered_split_again(self):
        parts = [SharePart(self.category("Clothes"), 400), SharePart(self.category("Presents"))]
        for amount, day in ((-1_000, TODAY - timedelta(days=9)), (-1_300, TODAY - timedelta(days=2))):
            entry = self.waits("Boatyard", amount, day)
            payee_id = entries.get_entry(self.db, entry).payee_id
            self.assertEqual(splitting.split_before(self.db, payee_id, "JPY"), ())
            splitting.split_entries(self.db, BY, [entry], parts, "EUR")
        self.waits("Boatyard", -5_000)
        self.assertEqual(splitting.split_before(self.db, payee_id, "EUR"), tuple(parts))
        self.spends(500, "Clothes", payee="Boatyard")
        self.assertEqual(splitting.split_before(self.db, payee_id, "EUR"), ())

    def test_what_was_split_meanwhile_is_not_split_again(self):
        entry = self.waits("Boatyard", -1_000)
        parts = [SharePart(self.category("Clothes"), 400), SharePart(self.category("Presents"))]
        splitting.split_entries(self.db, BY, [entry], parts, "EUR")
        with self.assertRaisesRegex(NotFound, "sorted already"):
            splitting.split_entries(self.db, BY, [entry], parts, "EUR")


class PartlyCase(SortingCase):
    def partly(self, payee="Boatyard", groceries=700, left=(300,), day=TODAY, tags=((),)):
        """An entry of groceries and parts that wait, each with its tags."""
        amount = groceries + sum(left)
        lines = [Line(-amount, "EUR", account_id=self.current, day=day, state="cleared", raw_text=payee.upper())]
        if groceries:
            lines.append(Line(groceries, "EUR", category_id=self.category("Groceries"), day=day))
        for part, tagged in zip(left, tags, strict=True):
            lines.append(Line(part, "EUR", category_id=UNSORTED, day=day, tags=tagged))
        with change(self.db, BY) as done:
            done.sentence = "Came"
            done.made = stored.insert_entry(self.db, Entry(day, payee, tuple(lines)))
        return done.made


class Parts(PartlyCase):
    """Entries of which a part has its category, and another lost its."""

    def test_what_waits_of_an_entry_is_counted_and_no_more(self):
        self.partly()
        todo = sorting.what_to_sort(self.db)
        (pile,) = todo.piles
        self.assertEqual((todo.entry_count, pile.amount_minor, pile.entries[0].amount_minor), (1, -300, -1_000))
        self.assertTrue(pile.entries[0].is_part)
        self.assertEqual((pile.likely_id, pile.suggestion), (0, None))  # its own other part is no past

    def test_what_is_asked_of_a_sorted_entry_is_answered_by_the_others(self):
        for n in range(3):
            self.spends(1_000, "Clothes", payee="Boatyard", day=TODAY - timedelta(days=40 - n))
        entry = self.spends(1_000, "Presents", payee="Boatyard")
        found = sorting.suggest_for_entry(self.db, entry)
        self.assertEqual((found.choices[0].category_id, found.reason), (self.category("Clothes"), "3 of 3 times"))

    def test_why_a_likely_transfer_or_what_is_asked_about_waits(self):
        for n in range(5):
            moved = self.waits("Standing Order 77", -1_000, TODAY - timedelta(days=90 - n))
            transferring.file_as_transfer(self.db, BY, [moved], self.reserve)
        said = why.why(self.db, entries.get_entry(self.db, self.waits("Standing Order 77", -1_000))).words
        self.assertRegex(said, "Likely a transfer with Reserve: 5 of 5 times")
        self.spends(1_000, "Clothes", payee="Quay")
        self.spends(1_100, "Presents", payee="Quay")
        said = why.why(self.db, entries.get_entry(self.db, self.waits("Quay", -1_000))).words
        self.assertRegex(said, "Bolsa asks, since it is not certain enough; nearest is .*: 1 of 2 times")

    def test_an_entry_of_which_two_parts_wait_is_there_once_and_divided_as_a_whole(self):
        entry = self.partly(left=(200, 100), tags=(("van",), ("cellar",)))
        todo = sorting.what_to_sort(self.db)
        self.assertEqual((todo.entry_count, [len(pile.entries) for pile in todo.piles]), (1, [1]))
        before = self.everything()
        parts = [SharePart(self.category("Clothes"), 250), SharePart(self.category("Presents"))]
        done = splitting.split_entries(self.db, BY, [entry], parts, "EUR")
        lines = stored.get_entry(self.db, entry).category_lines
        found = {line.category_id: (line.amount_minor, line.tags) for line in lines}
        both = ("cellar", "van")
        self.assertEqual(
            {id_: (amount, tuple(sorted(tags))) for id_, (amount, tags) in found.items()},
            {self.category("Groceries"): (700, ()), self.category("Clothes"): (250, both), self.category("Presents"): (50, both)},
        )
        self.undoes_whole(done, before)

    def test_a_part_is_never_half_of_a_transfer(self):
        for n in range(5):
            moved = self.waits("Standing Order 77", -1_000, TODAY - timedelta(days=90 - n))
            transferring.file_as_transfer(self.db, BY, [moved], self.reserve)
        part, whole = self.partly("Standing Order 77"), self.waits("Standing Order 77", -1_000)
        self.waits("Came in", 1_000, account=self.reserve, day=TODAY - timedelta(days=1))
        (pair,) = sorting.what_to_sort(self.db).transfers
        self.assertEqual(pair.out.entry_id, whole)
        done = sorting.file_sure(self.db, BY, 0.9)
        self.assertNotIn(part, done.made)
        self.assertTrue(any(one.entry_id == part for one in list_unsorted(self.db)))

    def test_two_parts_that_wait_and_nothing_else_become_a_transfer(self):
        entry = self.partly(groceries=0, left=(200, 100), tags=((), ()))
        transferring.file_as_transfer(self.db, BY, [entry], self.reserve)
        self.assertEqual([line.amount_minor for line in stored.get_entry(self.db, entry).lines], [-300, 300])

    def test_a_transfer_that_cannot_be_is_no_choice(self):
        yen = self.an_account("Yen", "current", currency="JPY")
        for n in range(5):
            moved = self.waits("Standing Order 77", -5_000, TODAY - timedelta(days=90 - n))
            transferring.file_as_transfer(self.db, BY, [moved], self.reserve)
        for account, currency in ((self.reserve, "EUR"), (yen, "JPY")):
            self.waits("Standing Order 77", -5_000, account=account, currency=currency)
        found = Learner(self.db)
        for entry in list_unsorted(self.db):
            suggestion = found.suggest_for(entry)
            choices = [choice.category_id for choice in suggestion.choices] if suggestion else []
            self.assertNotIn(-entry.account_id, choices)
            self.assertFalse(entry.currency == "JPY" and -self.reserve in choices)
