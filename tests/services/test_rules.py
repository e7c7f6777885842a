"""Rules at work: at bringing in, on the past, undone exactly; their order, their files, and what hangs on them."""

import json
from dataclasses import replace
from datetime import date, timedelta

from bolsa.core.answers.cut import Cut
from bolsa.core.sorting.rules import Action, Condition, Rule, SharePart
from bolsa.errors import Conflict, InvalidInput, UnreadableFile
from bolsa.services import changes
from bolsa.services.answers import answers
from bolsa.services.bringing import bringing_in
from bolsa.services.bringing.questions import Answers
from bolsa.services.checking import checking
from bolsa.services.ledger import entries
from bolsa.services.sorting import asking, categories, keeping_out, rule_files, rule_previewing, rules, sorting, why
from bolsa.store.accounts import accounts as stored_accounts
from bolsa.store.house import whole
from tests.services.household import BY, TODAY, HouseholdCase

CSV = "Date,Payee,Amount\n2026-05-04,MILLSTONE BAKERY 0004,-3.20\n2026-05-05,TIDEWATER POWER,-88.00\n2026-05-06,QUAY PAY,900.00\n"


class RulesCase(HouseholdCase):
    def rule(self, conditions, *actions, id_=0):
        return rules.keep_rule(self.db, BY, Rule(id_, tuple(conditions), actions)).made

    def payee(self, *texts, how="contains"):
        return Condition("payee", how, texts)

    def file(self, name):
        return Action("file", self.category(name))

    def bring(self, text=CSV):
        return bringing_in.import_file(self.db, BY, "bank.csv", text.encode(), Answers(self.current, others="new"))

    def entry(self, payee):
        row = self.db.execute(
            "SELECT e.id FROM entry e JOIN payee p ON p.id = e.payee_id WHERE p.name = ? ORDER BY e.id DESC", (payee,)
        )
        return entries.get_entry(self.db, row.fetchone()[0])

    def filed(self, payee):
        return [line.category_id for line in self.entry(payee).category_lines]

    def everything(self):
        """All the household's rows but what only the journal tells."""
        left = {"journal_step", "setting", "sitting"}
        return {t: sorted(map(tuple, self.db.execute(f"SELECT * FROM {t}")), key=repr) for t in whole.WHOLE if t not in left}


class AtBringingIn(RulesCase):
    def test_rules_run_before_suggestions_and_what_they_did_is_said(self):
        asks = Action("ask", 2, "what was it?")
        self.rule([self.payee("millstone")], self.file("Groceries"), Action("tag", text="bread"), Action("member", 2))
        self.rule([Condition("text", "starts", ("TIDEWATER",))], self.file("Power and water"), asks, Action("keep_out"))
        self.rule([Condition("direction", "in")], self.file("Pay"), Action("rename", text="Quay Works"))
        done = self.bring()
        self.assertEqual((done.ruled, done.touched_by_rules), (3, 3))
        self.assertEqual(self.filed("Millstone Bakery"), [self.category("Groceries")])
        line = self.entry("Millstone Bakery").category_lines[0]
        self.assertEqual((line.tags, line.member_id), (("bread",), 2))
        self.assertEqual(self.filed("Quay Works"), [self.category("Pay")])
        self.assertEqual([one.question.note for one in asking.list_open(self.db, 2)], ["what was it?"])
        self.assertTrue(why.is_kept_out(self.db, self.entry("Tidewater Power").id))
        said = why.why(self.db, self.entry("Millstone Bakery"))
        self.assertEqual((said.way, said.rule_id), ("rule", 1))
        self.assertIn("file under Groceries", said.words)

    def test_the_batch_taken_out_takes_all_of_it_along_and_returns(self):
        self.rule([self.payee("e")], self.file("Groceries"), Action("tag", text="x"), Action("ask", 2), Action("keep_out"))
        before = self.everything()
        done = self.bring()
        changes.undo_step(self.db, BY, done.step_id)
        after = self.everything()
        for table in ("entry", "line", "line_tag", "question", "kept_out", "filing", "rule_met"):
            self.assertEqual(after[table], before[table], table)
        self.assertEqual(self.bring().ruled, 2)

    def test_a_split_and_a_transfer_by_rule(self):
        parts = (SharePart(self.category("Groceries"), share_e6=250_000), SharePart(self.category("Household")))
        self.rule([self.payee("millstone")], Action("split", parts=parts))
        self.rule([self.payee("tidewater")], Action("transfer", self.reserve))
        self.rule(
            [Condition("amount", "above", least=50_000, currency="EUR")],
            Action("split", parts=(SharePart(parts[0].category_id, 95_000), parts[1])),
        )
        done = self.bring()
        self.assertEqual([line.amount_minor for line in self.entry("Millstone Bakery").category_lines], [80, 240])
        self.assertEqual(len(self.entry("Tidewater Power").account_lines), 2)
        self.assertEqual(self.balance(self.reserve), 8_800)
        self.assertEqual(self.filed("Quay Pay"), [1])  # the fixed part is more than the entry: it waits
        self.assertEqual(done.ruled, 2)

    def test_a_transfer_by_rule_takes_the_other_side_that_came_with_it(self):
        self.rule([Condition("text", "contains", ("TO RESERVE",))], Action("transfer", self.reserve))
        self.rule([Condition("account", ids=(self.reserve,))], Action("ask", 2), Action("tag", text="r"))
        bringing_in.import_file(
            self.db, BY, "r.csv", b"Date,Payee,Amount\n2026-05-05,FROM CURRENT,250.00\n", Answers(self.reserve)
        )
        self.bring("Date,Payee,Amount\n2026-05-04,TO RESERVE,-250.00\n2026-05-04,TO RESERVE,-30.00\n")
        self.assertEqual((self.balance(), self.balance(self.reserve)), (100_000 - 28_000, 28_000))
        self.assertEqual(len(self.entry("To Reserve").account_lines), 2)

    def test_a_rule_that_renames_goes_on_meeting_what_its_bank_calls_so(self):
        self.rule([self.payee("millstone")], Action("rename", text="The baker"), self.file("Groceries"))
        self.assertEqual([self.bring().ruled for _ in range(1)], [1])
        again = self.bring("Date,Payee,Amount\n2026-05-09,MILLSTONE BAKERY 0004,-4.10\n")
        self.assertEqual(again.ruled, 1)
        self.assertEqual(self.filed("The baker"), [self.category("Groceries")])
        self.assertEqual(rule_previewing.preview(self.db, rules.get_rule(self.db, 1)).meets, 2)

    def test_a_rule_met_too_late_or_never_is_pointed_out(self):
        self.rule([self.payee("a")], self.file("Groceries"))
        self.rule([self.payee("millstone")], self.file("Household"))
        self.rule([self.payee("nobody")], self.file("Household"))
        for day in range(4, 8):
            self.bring(f"Date,Payee,Amount\n2026-05-0{day},MILLSTONE BAKERY,-3.2{day}\n")
        odd = {row.rule.id: row.odd for row in rules.list_rows(self.db, TODAY)}
        self.assertEqual(odd, {1: "", 2: "rule 1 comes first each time", 3: ""})
        for days, first, third in ((365, "", ""), (366, "never met in a year", "never met")):
            odd = {row.rule.id: row.odd for row in rules.list_rows(self.db, TODAY + timedelta(days=days))}
            self.assertEqual((odd[1], odd[3]), (first, third))


class OnThePast(RulesCase):
    def setUp(self):
        super().setUp()
        self.ids = [self.spends(1000 + i, day=date(2026, 4, 1 + i)) for i in range(10)]

    def test_before_and_after_without_those_unticked_undone_exactly(self):
        rule = Rule(
            0,
            (self.payee("grebe"), Condition("amount", "above", least=1003, currency="EUR")),
            (self.file("Household"), Action("tag", text="x")),
        )
        found = rule_previewing.preview(self.db, rule)
        self.assertEqual((found.meets, found.change_count, found.is_all), (6, 6, True))
        self.assertEqual((found.rows[0].now, found.rows[0].then), ("Groceries", "Household #x"))
        before = self.everything()
        done = rule_previewing.keep_and_apply(self.db, BY, rule, {self.ids[4], self.ids[9]})
        self.assertEqual(done.made.filed, 4)
        self.assertEqual([entries.get_entry(self.db, id_).category_lines[0].category_id for id_ in (self.ids[4], self.ids[5])],
                         [self.category("Groceries"), self.category("Household")])  # fmt: skip
        changes.undo_step(self.db, BY, done.step_id)
        self.assertEqual(
            {t: rows for t, rows in self.everything().items() if t != "tag"},
            {t: rows for t, rows in before.items() if t != "tag"},
        )

    def test_applied_twice_is_as_applied_once(self):
        rule_id = self.rule([self.payee("grebe")], self.file("Household"))
        self.assertEqual(rule_previewing.apply_to_past(self.db, BY, rule_id).made.filed, 10)
        once = self.everything()
        self.assertEqual(rule_previewing.apply_to_past(self.db, BY, rule_id).made.filed, 0)
        self.assertEqual(self.everything(), once)

    def test_an_earlier_rule_keeps_its_say_and_deleting_changes_no_entry(self):
        self.rule([Condition("amount", "below", least=1005, currency="EUR")], self.file("Clothes"))
        second = self.rule([self.payee("grebe")], self.file("Household"))
        self.assertEqual(rule_previewing.apply_to_past(self.db, BY, second).made.filed, 5)
        found = rule_previewing.preview(self.db, rules.get_rule(self.db, second))
        self.assertEqual([(one.place, one.many, one.comes_first) for one in found.elsewhere], [(1, 5, True)])
        before = self.everything()["line"]
        rules.remove_rule(self.db, BY, second)
        self.assertEqual(self.everything()["line"], before)
        self.assertEqual(why.why(self.db, entries.get_entry(self.db, self.ids[9])).words[:24], "A rule that is no more: ")

    def test_a_reconciled_line_changes_its_category_and_nothing_else(self):
        line = entries.get_entry(self.db, self.ids[0]).account_lines[0]
        statement = checking.begin_statement(self.db, BY, self.current, TODAY, self.balance()).made
        every = [row[0] for row in self.db.execute("SELECT id FROM line WHERE account_id = ?", (self.current,))]
        checking.set_ticks(self.db, BY, statement, every, ticked=True)
        checking.reconcile(self.db, BY, statement)
        rule_id = self.rule([self.payee("grebe")], self.file("Household"))
        self.assertEqual(rule_previewing.apply_to_past(self.db, BY, rule_id).made.filed, 10)
        after = entries.get_entry(self.db, self.ids[0])
        self.assertEqual(after.account_lines[0][:5], line[:5])
        self.assertEqual(
            (after.account_lines[0].state, after.category_lines[0].category_id), ("reconciled", self.category("Household"))
        )

    def test_what_a_person_corrects_since_is_theirs(self):
        rule_id = self.rule([self.payee("grebe")], self.file("Household"))
        rule_previewing.apply_to_past(self.db, BY, rule_id)
        entries.set_category(self.db, BY, self.ids[3], self.category("Clothes"))
        said = why.why(self.db, entries.get_entry(self.db, self.ids[3]))
        self.assertEqual((said.way, said.who), ("person", "Ana"))

    def spent(self, cut):
        (found,) = {answers.answer(self.db, cut, by).total_minor for by in ("category", "payee", "tags")}
        return found

    def test_kept_out_of_the_answers_and_back(self):
        cut = Cut("spent", date(2026, 4, 1), date(2026, 4, 30))
        whole_sum = self.spent(cut)
        keeping_out.keep_out(self.db, BY, self.ids[:2], out=True)
        self.assertEqual(self.spent(cut), whole_sum - 2001)
        entries.delete_entry(self.db, BY, self.ids[0])
        self.assertEqual(self.spent(cut), whole_sum - 2001)
        trash = self.db.execute("SELECT id FROM trash").fetchone()[0]
        changes.restore_entry(self.db, BY, trash)
        self.assertEqual(self.spent(cut), whole_sum - 2001)
        keeping_out.keep_out(self.db, BY, self.ids[:2], out=False)
        self.assertEqual(self.spent(cut), whole_sum)


class Keeping(RulesCase):
    def test_what_is_not_there_is_refused_beside_its_part(self):
        for conditions, actions, field in (
            ([self.payee("x")], (Action("file", 999),), "then-0"),
            ([Condition("account", ids=(99,))], (self.file("Groceries"),), "when-0"),
            ([self.payee("x")], (Action("file", 2),), "then-0"), ([self.payee("x")], (Action("ask", 9),), "then-0"),
            ([self.payee("x")], (Action("series", 5),), "then-0"), ([], (self.file("Groceries"),), "when"),
        ):  # fmt: skip
            with self.subTest(field=field, actions=actions), self.assertRaises(InvalidInput) as caught:
                self.rule(conditions, *actions)
            self.assertEqual(caught.exception.field, field)
        self.assertEqual(rules.list_rules(self.db), [])

    def test_the_same_rule_twice_and_a_stale_form_are_refused(self):
        first = self.rule([self.payee("x")], self.file("Groceries"))
        with self.assertRaises(InvalidInput):
            self.rule([self.payee("x")], self.file("Groceries"))
        seen = changes.version_of(self.db, "rule", first)
        self.rule([self.payee("y")], self.file("Groceries"), id_=first)
        changed = replace(rules.get_rule(self.db, first), conditions=(self.payee("z"),))
        with self.assertRaises(Conflict):
            rules.keep_rule(self.db, BY, changed, seen=seen)

    def test_order_turned_off_and_undone_in_any_order(self):
        ids = [self.rule([self.payee(name)], self.file("Groceries")) for name in ("a", "b", "c")]
        steps = [
            rules.set_rule_order(self.db, BY, [ids[2], ids[0], ids[1]]).step_id,
            rules.turn_rule(self.db, BY, ids[1],
            is_on=False).step_id,
            rules.remove_rule(self.db, BY, ids[0]).step_id,
        ]  # fmt: skip
        self.assertEqual([rule.id for rule in rules.list_rules(self.db)], [ids[2], ids[1]])
        changes.undo_step(self.db, BY, steps[1])
        changes.undo_step(self.db, BY, steps[2])
        self.assertEqual(
            [(rule.id, rule.is_on) for rule in rules.list_rules(self.db)], [(ids[2], True), (ids[0], True), (ids[1], True)]
        )

    def test_out_and_in_as_json_is_the_same(self):
        parts = (
            SharePart(self.category("Groceries"), 250),
            SharePart(self.category("Household"), share_e6=125_000),
            SharePart(self.category("Clothes")),
        )
        self.rule(
            [self.payee("heron", "tern"), Condition("amount", "between", least=100, most=200, currency="EUR")],
            self.file("Groceries"),
            Action("tag", text="x"),
        )
        self.rule(
            [Condition("account", ids=(self.current,)), Condition("weekday", ids=(5, 6)), Condition("day", least=1, most=5)],
            Action("split", parts=parts),
        )
        self.rule(
            [Condition("member", ids=(2,)), Condition("category", ids=(self.category("Clothes"),))],
            Action("ask", 1, "yes?"),
            Action("member", 1),
        )
        self.rule(
            [Condition("direction", "out")],
            Action("transfer", self.reserve, "", self.category("Set by")),
            Action("keep_out"),
            Action("rename", text="X"),
        )
        kept = [(rule.conditions, rule.actions) for rule in rules.list_rules(self.db)]
        content = rule_files.export_rules(self.db).encode()
        self.assertEqual(rule_files.import_rules(self.db, BY, content).made, 0)  # all here already
        for rule in rules.list_rules(self.db):
            rules.remove_rule(self.db, BY, rule.id)
        self.assertEqual(rule_files.import_rules(self.db, BY, content).made, 4)
        self.assertEqual([(rule.conditions, rule.actions) for rule in rules.list_rules(self.db)], kept)

    def test_a_file_that_is_none_or_names_what_is_not_here_brings_nothing(self):
        good = {"when": [{"payee": {"is": ["x"]}}], "then": [{"file": "Groceries"}]}
        for content in (
            b"", b"\xff", b"[]", b'{"bolsa_rules": 2, "rules": []}', b'{"bolsa_rules": 1, "rules": 3}', b"[" * 100_000,
            *(json.dumps({"bolsa_rules": 1, "rules": [good, bad]}).encode() for bad in (
                {}, {"when": [], "then": []}, {"when": [{"payee": "x"}], "then": [{"file": "Groceries"}]}, {**good,
                "then": [{"file": "No"}]},
                {**good, "when": [{"amount": {"above": "x", "currency": "EUR"}}]}, {**good, "when": [{"amount": {"above": "5",
                "currency": "ZZZ"}}]},
                {**good, "when": [{"weekday": ["Someday"]}]}, {**good, "then": [{"split": [{"category": "Groceries",
                "percent": "200"}]}]},
                {**good, "when": [{"day": {"from": "x"}}]}, {**good, "when": [{"payee": {"is": [7]}, "text": {"is": ["x"]}}]}, 7,
            )),
        ):  # fmt: skip
            with self.subTest(content[:80]), self.assertRaises((UnreadableFile, InvalidInput)):
                rule_files.import_rules(self.db, BY, content)
            self.assertEqual(rules.list_rules(self.db), [])

    def test_rules_that_name_an_account_end_with_it(self):
        from bolsa.services.accounts import ending

        other = self.an_account("Other")
        self.rule([Condition("account", ids=(self.current, other))], self.file("Groceries"))
        kept = self.rule([Condition("account", ids=(self.current,))], self.file("Groceries"))
        done = ending.delete_account(self.db, BY, other, "Other")
        self.assertEqual([rule.id for rule in rules.list_rules(self.db)], [kept])
        changes.undo_step(self.db, BY, done.step_id)
        self.assertEqual(len(rules.list_rules(self.db)), 2)
        self.assertIsNotNone(stored_accounts.get_account(self.db, other))


class Questions(RulesCase):
    def test_asked_answered_and_undone(self):
        entry = entries.get_entry(self.db, self.spends(500))
        entries.set_category(self.db, BY, entry.id, 1)
        asking.ask(self.db, BY, [entry.id], 2, "what?")
        with self.assertRaises(Conflict):
            asking.ask(self.db, BY, [entry.id], 2, "what?")
        todo = sorting.what_to_sort(self.db)
        self.assertEqual((todo.entry_count, todo.asked_count, len(todo.piles)), (0, 1, 0))
        done = asking.answer(self.db, BY, 1, self.category("Clothes"), "a coat")
        kept = entries.get_entry(self.db, entry.id)
        self.assertEqual((kept.category_lines[0].category_id, kept.note), (self.category("Clothes"), "a coat"))
        with self.assertRaises(Conflict):
            asking.answer(self.db, BY, 1, None, "again")
        changes.undo_step(self.db, BY, done.step_id)
        self.assertEqual(sorting.what_to_sort(self.db).asked_count, 1)
        self.assertEqual(categories.get_category(self.db, self.category("Clothes")).name, "Clothes")
