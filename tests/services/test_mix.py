"""The mix through the services: what is said of classes and parts, refused where it does not add up, undone."""

from datetime import date
from decimal import Decimal

from bolsa.core.holdings.mix import AssetClass, MixPlan
from bolsa.core.holdings.shares import E8
from bolsa.errors import InvalidInput, NotFound
from bolsa.services import changes
from bolsa.services.holdings import mix
from tests.services.household import BY
from tests.services.test_holdings import HoldingsCase


class Mix(HoldingsCase):
    def setUp(self):
        super().setUp()
        self.trade("buy", 10, 40000)
        self.key = f"{self.depot}-{self.tern}"

    def view(self):
        return mix.mix_view(self.db, BY)

    def test_what_nobody_said_is_told_apart_and_then_looked_through(self):
        self.assertEqual((self.view().unsaid_minor, self.view().whole_minor), (50000, 60000))
        done = mix.say_parts(self.db, BY, self.key, {1: Decimal(60), 2: Decimal(40)}, "near")
        values = {line.of_class.name: line.value_minor for line in self.view().lines}
        self.assertEqual((values["Shares"], values["Bonds"], values["Cash and deposits"]), (30000, 20000, 60000))
        self.assertEqual(self.view().bands[0].there_minor, 110000, "by hand all of it is meant for the near years")
        changes.undo_step(self.db, BY, done.step_id)
        self.assertEqual(self.view().unsaid_minor, 50000)

    def test_what_does_not_make_a_hundred_is_refused(self):
        with self.assertRaises(InvalidInput) as caught:
            mix.say_parts(self.db, BY, self.key, {1: Decimal(60), 2: Decimal(39)})
        self.assertEqual(caught.exception.field, "parts")
        classes = [AssetClass(1, "Shares", 1, "far", "60"), AssetClass(2, "Bonds", 2, "middle", "39")]
        with self.assertRaises(InvalidInput) as caught:
            mix.say_classes(self.db, BY, classes)
        self.assertEqual(caught.exception.sentence, "The targets make 99 per cent, not 100.")
        with self.assertRaises(InvalidInput):
            mix.say_classes(self.db, BY, [AssetClass(1, "Shares", 1, "far", "110 - age")])
        with self.assertRaises(NotFound):
            mix.say_parts(self.db, BY, "999-all", {})

    def test_targets_go_by_the_age_of_whoever_is_said(self):
        mix.say_plan(self.db, BY, MixPlan(contribution_minor=10000, aged_id=1), 1984)
        mix.say_classes(self.db, BY, [AssetClass(1, "Shares", 1, "far", "100 - age"), AssetClass(3, "Cash", 2, "near", "age")])
        mix.say_parts(self.db, BY, self.key, {1: Decimal(100)})
        view = self.view()
        self.assertEqual([(line.of_class.name, line.target) for line in view.lines], [("Shares", 58), ("Cash", 42)])
        self.assertEqual(sum(view.next_parts.values()), 10000)
        with self.assertRaises(InvalidInput):
            mix.say_plan(self.db, BY, MixPlan(aged_id=None))

    def test_a_class_that_goes_leaves_nothing_said_and_comes_back_with_undo(self):
        mix.say_parts(self.db, BY, self.key, {1: Decimal(60), 2: Decimal(40)})
        kept = [one for one in self.view().classes if one.id != 2]
        done = mix.say_classes(self.db, BY, kept)
        self.assertEqual(self.view().unsaid_minor, 20000)
        changes.undo_step(self.db, BY, done.step_id)
        self.assertEqual(self.view().unsaid_minor, 0)

    def test_another_account_counts_when_its_parts_are_said(self):
        before = self.view().whole_minor
        mix.say_parts(self.db, BY, f"{self.current}-all", {3: Decimal(100)})
        self.assertEqual(self.view().whole_minor - before, 100000)
        self.trade("in", 1, 100, day=date(2026, 5, 2))
        self.assertEqual(self.row().shares_e8, 11 * E8)
