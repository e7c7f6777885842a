"""Piles of one shop, transfers of every kind made and parted, payees merged, categories merged and deleted: all undone whole."""

from datetime import date, timedelta

from bolsa.core.budget.aims import Aim
from bolsa.core.ledger.entries import Entry, Line
from bolsa.core.months import Month
from bolsa.errors import Conflict, InvalidInput
from bolsa.services import changes
from bolsa.services.bringing import bringing_in
from bolsa.services.bringing.questions import Answers
from bolsa.services.budget import aims, budgeting, expecting, placing
from bolsa.services.changes import change
from bolsa.services.ledger import attaching, entries
from bolsa.services.ledger.entries import TypedEntry
from bolsa.services.sorting import asking, categories, category_moves, payees, sorting, tagging, transferring
from bolsa.services.sorting.learning import Learner
from bolsa.services.sorting.transferring import PairIds
from bolsa.store.accounts import accounts
from bolsa.store.budget import aims as stored_aims
from bolsa.store.ledger import entries as stored
from bolsa.store.sorting import filing
from bolsa.store.sorting.categories import UNSORTED, list_unsorted
from tests.services.household import BY, TODAY, HouseholdCase, picture
from tests.services.test_rules import RulesCase


class SortingCase(RulesCase):
    def waits(self, payee, amount_minor, day=TODAY, account=None, raw="", currency="EUR"):
        """An entry that came from a bank and waits."""
        account = account or self.current
        line = Line(amount_minor, currency, account_id=account, day=day, state="cleared", raw_text=raw or payee.upper())
        unsorted = Line(-amount_minor, currency, category_id=UNSORTED, day=day)
        with change(self.db, BY) as done:
            done.sentence = "Came"
            done.made = stored.insert_entry(self.db, Entry(day, payee, (line, unsorted)))
        return done.made

    def undoes_whole(self, done, before):
        changes.undo_step(self.db, BY, done.step_id)
        self.assertEqual(self.everything(), before)


class Piles(SortingCase):
    def test_one_shop_in_many_towns_is_one_pile_that_can_be_parted(self):
        for shop in ("Grebe Grocer", "Tern Tools"):
            for town in ("Saltby", "Pt Halden", "Corvane", ""):
                self.waits(f"{shop} {town}".strip(), -500)
        piles = sorting.what_to_sort(self.db).piles
        self.assertEqual(sorted(len(pile.entries) for pile in piles), [4, 4])
        part = next(id_ for pile in piles for id_, name, _ in pile.spellings if name == "Tern Tools Saltby")
        sorting.keep_apart(self.db, BY, part)
        self.assertEqual(sorted(len(pile.entries) for pile in sorting.what_to_sort(self.db).piles), [1, 3, 4])
        sorting.keep_apart(self.db, BY, part, apart=False)
        self.assertEqual(len(sorting.what_to_sort(self.db).piles), 2)

    def test_names_near_each_other_are_asked_about_until_somebody_says(self):
        one, other = self.waits("Lantern Hardware", -500), self.waits("Lantern Hardwear", -600)
        del one, other
        todo = sorting.what_to_sort(self.db)
        near = sorting.near_piles(self.db, todo, todo.piles[0])
        self.assertEqual(len(near), 1)
        sorting.refuse_near(self.db, BY, todo.piles[0].payee_id, [near[0].payee_id])
        self.assertEqual(sorting.near_piles(self.db, todo, todo.piles[0]), [])

    def test_the_first_pile_is_suggested_for_though_a_bigger_shop_falls_apart(self):
        for n in range(8):
            for amount, category in ((100, "Clothes"), (9_000, "Presents")):
                self.spends(amount + n, category, payee="Quay", day=TODAY - timedelta(days=40 - n))
            self.spends(500, "Groceries", payee="Grebe", day=TODAY - timedelta(days=40 - n))
        for amount in (104, 105, 9_004, 9_005):
            self.waits("Quay", -amount)
        for _ in range(3):
            self.waits("Grebe", -500)
        piles = sorting.what_to_sort(self.db, suggest_for=1).piles
        self.assertEqual([(one.payee, len(one.entries)) for one in piles], [("Grebe", 3), ("Quay", 2), ("Quay", 2)])
        self.assertEqual(piles[0].likely_id, self.category("Groceries"))
        none = sorting.what_to_sort(self.db, suggest_for=0).piles
        self.assertEqual([(one.payee, one.suggestion) for one in none], [("Quay", None), ("Grebe", None)])

    def test_a_first_guess_by_words_is_a_choice_and_never_filed_by_itself(self):
        self.waits("Stadtapotheke Nord", -1200)
        (pile,) = sorting.what_to_sort(self.db).piles
        self.assertEqual((pile.likely_id, pile.suggestion.choices[0].category_id), (0, self.category("Health")))
        self.assertIn("first guess", pile.suggestion.reason)
        self.assertIsNone(sorting.file_sure(self.db, BY, 0.5).step_id)

    def test_what_is_said_of_a_payee_goes_before_what_is_learned(self):
        self.spends(500, "Clothes", payee="Quay")
        entry = self.waits("Quay", -700)
        payee_id = entries.get_entry(self.db, entry).payee_id
        payees.set_usual(self.db, BY, payee_id, self.category("Presents"))
        self.assertEqual(sorting.what_to_sort(self.db).piles[0].likely_id, self.category("Presents"))

    def test_the_learner_uses_nothing_of_the_entry_itself_nor_what_waits(self):
        for i in range(6):
            self.spends(500, "Clothes", payee="Quay", day=TODAY - timedelta(days=40 - i))
        for _ in range(60):
            self.waits("Quay", -500)
        found = Learner(self.db).suggest_for(list_unsorted(self.db)[0])
        self.assertEqual((found.choices[0].times, found.choices[0].cases), (6, 6))

    def test_transfers_are_learned_and_thirteen_of_one_kind_are_one_decision(self):
        for i in range(5):
            entry = self.waits("Standing Order 77", -5_000, TODAY - timedelta(days=90 - i))
            transferring.file_as_transfer(self.db, BY, [entry], self.reserve)
        self.waits("Standing Order 77", -5_000)
        (pile,) = sorting.what_to_sort(self.db).piles
        self.assertEqual((pile.likely_id, pile.suggestion.reason), (-self.reserve, "5 of 5 times going out"))
        done = sorting.file_sure(self.db, BY, 0.9)
        self.assertTrue(entries.get_entry(self.db, done.made[0]).is_transfer)
        for i in range(13):
            self.waits("Card Payment", -100 - i, TODAY - timedelta(days=i))
            self.waits("Payment Received", 100 + i, TODAY - timedelta(days=i), self.reserve)
        pairs = sorting.what_to_sort(self.db).transfers
        self.assertEqual((len(pairs), len({pair.kind for pair in pairs})), (13, 1))
        before = self.everything()
        done = transferring.merge_many(self.db, BY, [PairIds(pair.out.entry_id, pair.into.entry_id) for pair in pairs])
        self.assertEqual(sorting.what_to_sort(self.db).entry_count, 0)
        self.undoes_whole(done, before)


class Transfers(SortingCase):
    def test_a_transfer_that_no_bank_told_of_is_parted_without_moving_a_balance(self):
        fund = self.an_account("Kiln fund", "savings")
        typed = TypedEntry(TODAY, "Transfer", -5_000, other_account_id=fund)
        entry = entries.record_entry(self.db, BY, self.current, typed).made
        before, everything = [accounts.sum_balance(self.db, id_, TODAY) for id_ in (self.current, fund)], self.everything()
        done = transferring.part_transfer(self.db, BY, entry)
        self.assertIn("its sides wait to be sorted", done.sentence)
        self.assertEqual([accounts.sum_balance(self.db, id_, TODAY) for id_ in (self.current, fund)], before)
        self.assertEqual(len(list_unsorted(self.db)), 2)
        self.undoes_whole(done, everything)

    def test_beside_a_side_the_bank_told_of_what_is_only_awaited_goes(self):
        fund = self.an_account("Kiln fund", "savings")
        entry = self.waits("To Reserve", -5_000)
        transferring.file_as_transfer(self.db, BY, [entry], fund)
        done = transferring.part_transfer(self.db, BY, entry)
        self.assertIn("what was awaited in Kiln fund is gone", done.sentence)
        self.assertEqual(accounts.sum_balance(self.db, fund, TODAY), 0)
        self.assertEqual([one.entry_id for one in list_unsorted(self.db)], [entry])

    def test_with_a_fee_in_two_parts_and_parted_again(self):
        out, into = self.waits("Transfer out", -10_050), self.waits("Transfer in", 10_000, account=self.reserve)
        (pair,) = sorting.what_to_sort(self.db).transfers
        self.assertEqual(pair.fee_minor, 50)
        with self.assertRaises(InvalidInput):
            transferring.merge_transfer(self.db, BY, out, into)
        before = self.everything()
        done = transferring.merge_transfer(self.db, BY, out, into, fee_category_id=self.category("Bank charges"))
        self.assertEqual([line.amount_minor for line in entries.get_entry(self.db, out).category_lines], [50])
        self.undoes_whole(done, before)
        transferring.merge_transfer(self.db, BY, out, into, fee_category_id=self.category("Bank charges"))
        transferring.part_transfer(self.db, BY, out)
        waiting = {(one.account_id, one.amount_minor, one.payee) for one in list_unsorted(self.db)}
        self.assertEqual(waiting, {(self.current, -10_050, "Transfer out"), (self.reserve, 10_000, "Transfer in")})
        third = (
            self.waits("Transfer", -300),
            self.waits("In", 100, account=self.reserve),
            self.waits("In", 200, account=self.reserve),
        )
        (pair,) = [pair for pair in sorting.what_to_sort(self.db).transfers if pair.more]
        self.assertEqual(pair.entry_ids, set(third))
        transferring.merge_transfer(self.db, BY, third[0], third[1], more_id=third[2])
        self.assertEqual(len(entries.get_entry(self.db, third[0]).account_lines), 3)
        self.assertEqual(self.balance(self.reserve), 10_300)

    def test_the_other_side_that_waits_is_taken_instead_of_a_new_one(self):
        out, into = self.waits("Quay", -700), self.waits("From somewhere", 700, TODAY - timedelta(days=7), self.reserve)
        transferring.file_as_transfer(self.db, BY, [out], self.reserve)
        self.assertEqual(self.balance(self.reserve), 700)
        with self.assertRaises(Exception):  # noqa: B017 (NotFound: it is one entry now)
            entries.get_entry(self.db, into)

    def test_notes_papers_and_questions_of_both_sides_stay(self):
        out, into = self.waits("Transfer", -700), self.waits("Transfer", 700, account=self.reserve)
        attaching.attach(self.db, BY, into, "advice.png", picture())
        asking.ask(self.db, BY, [into], 2, "what is it?")
        with change(self.db, BY):
            filing.add_notes(self.db, [into], "for the roof")
        before = self.everything()
        done = transferring.merge_transfer(self.db, BY, out, into)
        self.assertEqual(entries.get_entry(self.db, out).note, "for the roof")
        self.assertEqual([one.name for one in attaching.list_attachments(self.db, out)], ["advice.png"])
        self.assertEqual([one.answer for one in asking.list_of_entry(self.db, out)], ["made a transfer"])
        self.undoes_whole(done, before)

    def test_refused_pairs_stay_refused_and_filed_ones_are_suspected(self):
        out = self.spends(9_000, "Household", payee="Transfer to Reserve")
        into = self.waits("Transfer from Current", 9_000, account=self.reserve)
        (found,) = transferring.list_misfiled(self.db, TODAY)
        self.assertEqual((found.pair.out.entry_id, found.pair.into.entry_id), (out, into))
        before = self.everything()
        done = transferring.make_of_filed(self.db, BY, out, into)
        self.assertEqual(transferring.list_misfiled(self.db, TODAY), [])
        self.undoes_whole(done, before)
        transferring.refuse(self.db, BY, [PairIds(out, into)])
        self.assertEqual(transferring.list_misfiled(self.db, TODAY), [])

    def test_a_lone_half_is_listed_once_its_bank_was_heard(self):
        entry = self.waits("To Reserve", -500, TODAY - timedelta(days=20))
        transferring.file_as_transfer(self.db, BY, [entry], self.reserve)
        self.assertEqual(transferring.list_lone(self.db, TODAY), [])
        bringing_in.import_file(self.db, BY, "r.csv", b"Date,Payee,Amount\n2026-05-10,INTEREST,0.10\n", Answers(self.reserve))
        self.assertEqual([one.entry_id for one in transferring.list_lone(self.db, TODAY)], [entry])


class Payees(SortingCase):
    def rows(self):
        return [row for row in payees.list_rows(self.db) if row.name != "Opening balance"]

    def test_a_merge_takes_everything_along_and_is_undone_whole(self):
        one, other = (entries.get_entry(self.db, self.spends(500, payee=name)).payee_id for name in ("Quay", "Quay Ltd"))
        payees.set_usual(self.db, BY, other, self.category("Clothes"))
        before = self.everything()
        done = payees.merge(self.db, BY, one, [other])
        self.assertEqual(
            [(row.name, row.entry_count, row.usual_id) for row in self.rows()],
            [("Quay", 2, self.category("Clothes"))],
        )
        with self.assertRaises(InvalidInput):
            payees.merge(self.db, BY, one, [one])
        self.undoes_whole(done, before)
        self.assertEqual([one.reason for one in payees.list_likely(self.db)], ["one shop, written in several ways"])
        payees.refuse(self.db, BY, one, [other])
        self.assertEqual(payees.list_likely(self.db), [])

    def test_a_renamed_payee_is_known_when_its_bank_writes_again(self):
        text = "Date,Payee,Amount\n2026-05-{},GREBE STR 77,-3.20\n"
        bringing_in.import_file(self.db, BY, "a.csv", text.format("04").encode(), Answers(self.current))
        (row,) = self.rows()
        payees.rename(self.db, BY, row.id, "Grebe")
        bringing_in.import_file(self.db, BY, "b.csv", text.format("05").encode(), Answers(self.current))
        self.assertEqual([(row.name, row.entry_count) for row in self.rows()], [("Grebe", 2)])
        self.assertEqual(payees.page_of(self.db, row.id, TODAY).former[0][0], "Grebe Str 77")
        self.spends(100, payee="Tern")
        with self.assertRaises(Conflict):
            payees.rename(self.db, BY, row.id, "tern")


class Categories(SortingCase):
    def setUp(self):
        super().setUp()
        self.month = Month.of(TODAY)
        self.spends(700, "Clothes")
        self.spends(900, "Health", day=date(2026, 3, 2))
        for name, amount, month in (
            ("Clothes", 100, Month(2026, 2)),
            ("Health", 40, Month(2026, 1)),
            ("Clothes", 120, Month(2026, 4)),
        ):
            expecting.set_expected(self.db, BY, self.category(name), month, amount)
        placing.place(self.db, BY, self.category("Clothes"), self.month, 5_000)
        self.rule([self.payee("x")], self.file("Clothes"))

    def lefts(self):
        return {row.category_id: row.left_minor for row in budgeting.budget_view(self.db, BY, self.month).budget.rows}

    def test_merging_moves_all_of_it_and_is_undone_whole(self):
        gone, into = self.category("Clothes"), self.category("Health")
        held, lefts = category_moves.held_by(self.db, gone), self.lefts()
        self.assertEqual((held.lines, held.placed_minor, held.expected, held.rules), (1, 5_000, 2, 1))
        unplaced = budgeting.budget_view(self.db, BY, self.month).budget.unplaced_minor
        before = self.everything()
        done = category_moves.merge_category(self.db, BY, gone, into)
        self.assertEqual(self.lefts()[into], lefts[gone] + lefts[into])
        self.assertEqual(budgeting.budget_view(self.db, BY, self.month).budget.unplaced_minor, unplaced)
        expected = {str(m): row.expected_minor for m in (Month(2026, 1), Month(2026, 2), Month(2026, 5))
                    for row in budgeting.budget_view(self.db, BY, m).budget.rows if row.category_id == into}  # fmt: skip
        self.assertEqual(expected, {"2026-01": 40, "2026-02": 140, "2026-05": 160})
        self.assertEqual(
            [
                action.id
                for one in self.db.execute("SELECT category_id FROM rule_action")
                for action in [type("A", (), {"id": one[0]})]
            ],
            [into],
        )
        self.undoes_whole(done, before)

    def test_an_aim_goes_along_where_the_other_has_none_and_comes_back(self):
        aims.set_aim(
            self.db, BY, self.category("Clothes"), Aim("keep", 500), account_ids=[self.an_account("Roof", kind="property")]
        )
        before = self.everything()
        done = category_moves.merge_category(self.db, BY, self.category("Clothes"), self.category("Health"))
        self.assertEqual(list(stored_aims.list_aims(self.db)), [self.category("Health")])
        self.undoes_whole(done, before)

    def test_what_lies_in_the_trash_comes_back_to_the_other(self):
        entry = self.spends(300, "Clothes")
        entries.delete_entry(self.db, BY, entry)
        category_moves.merge_category(self.db, BY, self.category("Clothes"), self.category("Health"))
        changes.restore_entry(self.db, BY, self.db.execute("SELECT id FROM trash").fetchone()[0])
        self.assertEqual(entries.get_entry(self.db, entry).category_lines[0].category_id, self.category("Health"))

    def test_deleting_lets_entries_wait_and_is_undone_whole(self):
        unplaced = budgeting.budget_view(self.db, BY, self.month).budget.unplaced_minor
        before = self.everything()
        done = category_moves.delete_category(self.db, BY, self.category("Clothes"))
        self.assertEqual(sorting.what_to_sort(self.db).entry_count, 1)
        self.assertEqual(self.db.execute("SELECT count(*) FROM rule").fetchone()[0], 0)
        after = budgeting.budget_view(self.db, BY, self.month).budget
        self.assertEqual(after.unplaced_minor, unplaced + 4_300)  # what was left of it is unplaced again
        self.undoes_whole(done, before)

    def test_another_type_itself_and_a_stale_form_are_refused(self):
        gone = self.category("Clothes")
        for into in (gone, self.category("Pay"), UNSORTED):
            with self.subTest(into), self.assertRaises(InvalidInput):
                category_moves.merge_category(self.db, BY, gone, into)
        categories.change_category(self.db, BY, gone, "Living", name="Coats")
        with self.assertRaises(Conflict):
            category_moves.merge_category(self.db, BY, gone, self.category("Health"), seen=0)

    def test_tags_are_described_merged_and_taken_off(self):
        entry = self.spends(300, "Clothes")
        line = entries.get_entry(self.db, entry).category_lines[0]
        with change(self.db, BY):
            sorting.say_of_lines(self.db, [line.stored_id], "van", None)
            sorting.say_of_lines(self.db, [line.stored_id], "bus", None)
        van, bus = (next(row.tag.id for row in tagging.list_rows(self.db) if row.tag.name == name) for name in ("van", "bus"))
        with self.assertRaises(InvalidInput):
            tagging.change_tag(self.db, BY, van, tagging.Said("van", "", "", "1x", retired=False))
        before = self.everything()
        done = tagging.change_tag(self.db, BY, bus, tagging.Said("Van", "", "", "", retired=False))
        self.assertEqual(entries.get_entry(self.db, entry).category_lines[0].tags, ("van",))
        self.undoes_whole(done, before)
        self.undoes_whole(tagging.remove_tag(self.db, BY, van), before)


class Starters(HouseholdCase):
    def test_each_set_makes_a_household(self):
        from bolsa.services.house import households

        for name in households.STARTERS:
            found = households.read_starter(name)
            self.assertTrue(any(one.type == "income" for one in found))
            self.assertTrue({"Bank charges", "Set by"} <= {one.name for one in found}, name)
        with self.assertRaises(InvalidInput):
            households.read_starter("../plain")
