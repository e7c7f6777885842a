"""Holdings through the services: trades with their cash and lots, in any order and undone; how an account counts; net worth."""

import threading
from contextlib import closing
from dataclasses import replace
from datetime import date, timedelta

from hypothesis import given, settings
from hypothesis import strategies as st

from bolsa.core.holdings.security import Security
from bolsa.core.holdings.shares import E8
from bolsa.core.holdings.trades import KIND_BY_KEY, Trade
from bolsa.core.worth.changes import CAUSES
from bolsa.errors import Conflict, InvalidInput, NotAllowed
from bolsa.services import changes
from bolsa.services.accounts import accounts, ending, market, valuing
from bolsa.services.bringing import bringing_in, undoing
from bolsa.services.bringing.questions import Answers
from bolsa.services.checking import checking
from bolsa.services.holdings import basis, book, counting, gains, securities, shares, trading
from bolsa.services.holdings.performance import performance
from bolsa.services.holdings.trading import Cash
from bolsa.services.house import files
from bolsa.services.ledger import entries
from bolsa.services.worth import worth
from bolsa.store import invariants
from bolsa.store.accounts import accounts as account_store
from tests.formats.test_ofx_shares import investments, position
from tests.formats.test_ofx_shares import trade as ofx_trade
from tests.services.household import BY, TODAY, HouseholdCase

APRIL = date(2026, 4, 1)


class HoldingsCase(HouseholdCase):
    """A depot in home currency that is counted by its shares, with 1,000.00 of cash, and Tern Robotics at 40 and then 50."""

    def setUp(self):
        super().setUp()
        self.depot = self.an_account("Depot", "brokerage", institution="Halcyon Brokers", number="HD20881")
        counting.count_by(self.db, BY, self.depot, shares=True, cash_minor=100000)
        self.tern = securities.add_security(self.db, BY, Security(0, "Tern Robotics", "ZZ00TERN0001", currency="EUR")).made
        for day, price in ((date(2026, 1, 2), 40), (date(2026, 5, 1), 50)):
            securities.set_price(self.db, BY, self.tern, day, price * E8)

    def tearDown(self):
        self.assertEqual(invariants.find_breaches(self.db), [])
        super().tearDown()

    def trade(self, kind, shares=0, total=None, day=APRIL, security=None, **more):
        given = {"picks": more.pop("picks", ()), "cash": more.pop("cash", None)}
        kept = Trade(day, kind, round(shares * E8), security or self.tern, total, account_id=self.depot, **more)
        return trading.enter_trade(self.db, BY, kept, **given)

    def row(self, day=TODAY, security=None):
        return book.holdings_on(self.db, day).row(f"{self.depot}-{security or self.tern}")

    @property
    def cash(self):
        return accounts.get_account_state(self.db, self.depot).balance_minor


class Trading(HoldingsCase):
    def test_no_security_takes_anothers_name(self):
        other = securities.add_security(self.db, BY, Security(0, "Quay Fund", "", currency="EUR")).made
        for typed in (
            Security(self.tern, "Quay Fund", "ZZ00TERN0001", currency="EUR"),
            Security(other, "x", "ZZ00TERN0001", currency="EUR"),
        ):
            with self.subTest(typed), self.assertRaises(Conflict):
                securities.change_security(self.db, BY, typed)

    def test_a_purchase_moves_cash_and_is_worth_its_price(self):
        before = worth.worth_on(self.db, TODAY).now.net_minor
        self.trade("buy", 10, 40500, fee_minor=500)
        self.assertEqual((self.cash, self.row().home_minor, self.row().gain_minor), (59500, 50000, 9500))
        self.assertEqual(worth.worth_on(self.db, TODAY).now.net_minor - before, 9500)
        group = next(g for g in accounts.account_groups(self.db) for s in g.states if s.account.id == self.depot)
        self.assertEqual(group.total_minor, 109500)

    def test_every_kind_moves_the_cash_it_should_and_undo_takes_it_back(self):
        self.trade("buy", 100, 90000)
        for kind in KIND_BY_KEY.values():
            cash = self.cash
            ratio = {"ratio_new": 2, "ratio_old": 1} if kind.key == "split" else {}
            done = self.trade(kind.key, 3 if kind.shares_way else 0, 700 if kind.key not in ("out", "split") else None,
                              reason="so", day=TODAY, **ratio)  # fmt: skip
            self.assertEqual(self.cash - cash, 700 * kind.cash_way, kind.key)
            changes.undo_step(self.db, BY, done.step_id)
            self.assertEqual(self.cash, cash, kind.key)

    def test_a_late_purchase_and_one_taken_out_recompute_all_after_it(self):
        self.trade("buy", 10, 40000, day=date(2026, 2, 1))
        self.trade("sell", 10, 48000)
        self.assertEqual(gains.gains_of_year(self.db, 2026).gain_minor, 8000)
        late = self.trade("buy", 5, 15000, day=date(2026, 1, 5)).made
        self.assertEqual(gains.gains_of_year(self.db, 2026).gain_minor, 48000 - 15000 - 20000)
        trading.remove_trade(self.db, BY, late)
        self.assertEqual((gains.gains_of_year(self.db, 2026).gain_minor, self.row().shares_e8), (8000, 0))

    def test_a_split_follows_what_was_held_also_when_that_comes_late(self):
        self.trade("buy", 10, 40000)
        self.trade("split", ratio_new=3, ratio_old=1, day=date(2026, 4, 20))
        self.assertEqual(self.row().shares_e8, 30 * E8)
        step = self.trade("buy", 4, 16000, day=date(2026, 2, 1)).step_id
        self.assertEqual(self.row().shares_e8, 42 * E8)
        changes.undo_step(self.db, BY, step)
        self.assertEqual((self.row().shares_e8, self.row().cost_minor), (30 * E8, 40000))

    def test_more_than_there_is_cannot_be_sold_by_hand(self):
        self.trade("buy", 10, 40000)
        for count, day in ((11, TODAY), (10, date(2026, 3, 31))):
            with self.assertRaises(InvalidInput) as caught:
                self.trade("sell", count, 100, day=day)
            self.assertEqual(caught.exception.field, "shares")

    def test_cash_from_an_everyday_account_is_set_by_and_leaves_the_depots_as_it_was(self):
        category = self.category("Groceries")
        before = accounts.get_account_state(self.db, self.current).balance_minor
        self.trade("buy", 10, 40000, cash=Cash(self.current, category))
        self.assertEqual((self.cash, accounts.get_account_state(self.db, self.current).balance_minor), (100000, before - 40000))
        self.trade("sell", 10, 50000, day=TODAY, cash=Cash(self.current))
        self.assertEqual((self.cash, accounts.get_account_state(self.db, self.current).balance_minor), (100000, before + 10000))

    def test_the_cash_of_a_trade_is_changed_with_the_trade_alone(self):
        kept = trading.get_trade(self.db, self.trade("buy", 10, 40000).made)
        with self.assertRaises(NotAllowed):
            entries.delete_entry(self.db, BY, kept.entry_id)
        done = trading.change_trade(self.db, BY, replace(kept, total_minor=42000, day=date(2026, 4, 2)))
        self.assertEqual((self.cash, self.row().cost_minor), (58000, 42000))
        changes.undo_step(self.db, BY, done.step_id)
        self.assertEqual(self.cash, 60000)

    def test_a_reconciled_trade_is_locked_until_its_statement_is_opened(self):
        kept = trading.get_trade(self.db, self.trade("buy", 10, 40000).made)
        statement = checking.begin_statement(self.db, BY, self.depot, date(2026, 4, 30), 60000).made
        checking.reconcile(self.db, BY, statement)
        for act in (
            lambda: trading.remove_trade(self.db, BY, kept.id),
            lambda: trading.change_trade(self.db, BY, replace(kept, total_minor=41000)),
        ):
            with self.assertRaises(NotAllowed):
                act()
        self.assertEqual(self.cash, 60000)

    def test_a_stale_form_does_not_overwrite(self):
        kept = trading.get_trade(self.db, self.trade("buy", 10, 40000).made)
        seen = changes.version_of(self.db, "trade", kept.id)
        trading.change_trade(self.db, BY, replace(kept, total_minor=41000), seen=seen)
        with self.assertRaises(Conflict):
            trading.change_trade(self.db, BY, replace(kept, total_minor=42000), seen=seen)

    def test_chosen_lots_are_kept_and_must_make_what_is_sold(self):
        counting.choose_method(self.db, BY, self.depot, "chosen")
        first = self.trade("buy", 10, 30000).made
        second = self.trade("buy", 10, 45000, day=date(2026, 4, 2)).made
        with self.assertRaises(InvalidInput) as caught:
            self.trade("sell", 5, 25000, day=TODAY, picks=[(second, 4 * E8)])
        self.assertEqual(caught.exception.field, "lots")
        self.trade("sell", 5, 25000, day=TODAY, picks=[(second, 5 * E8)])
        self.assertEqual(gains.gains_of_year(self.db, 2026).gain_minor, 25000 - 22500)
        trading.remove_trade(self.db, BY, second)
        self.assertEqual(gains.gains_of_year(self.db, 2026).gain_minor, 25000 - 15000, "its lot is gone: first in, first out")
        self.assertTrue(first)

    def test_the_close_of_a_day_is_offered_for_a_week(self):
        for day, is_offered in ((date(2026, 5, 8), True), (date(2026, 5, 9), False)):
            self.assertEqual(trading.offer(self.db, self.depot, self.tern, day).priced is not None, is_offered)


class Counting(HoldingsCase):
    def test_an_account_whose_value_is_noted_is_counted_by_its_shares_and_back(self):
        noted = self.an_account("Old depot", "brokerage", opening_minor=200000)
        valuing.note_value(self.db, BY, noted, date(2026, 4, 30), 260000)
        trading.enter_trade(self.db, BY, Trade(APRIL, "opening", 40 * E8, self.tern, -150000, account_id=noted))
        self.assertEqual(self.worth_of(noted), 260000, "nothing moves by itself")
        done = counting.count_by(self.db, BY, noted, shares=True, cash_minor=12300)
        self.assertEqual(self.worth_of(noted), 40 * 5000 + 12300)
        with self.assertRaises(Conflict):
            counting.count_by(self.db, BY, noted, shares=True)
        with self.assertRaises(InvalidInput):
            valuing.note_value(self.db, BY, noted, TODAY, 1)
        self.assertEqual(invariants.find_breaches(self.db), [])
        changes.undo_step(self.db, BY, done.step_id)
        self.assertEqual(self.worth_of(noted), 260000)
        counting.count_by(self.db, BY, noted, shares=True, cash_minor=0)
        counting.count_by(self.db, BY, noted, shares=False)
        self.assertEqual(self.worth_of(noted), 260000)

    def worth_of(self, account_id):
        return next(row.home_minor for row in worth.worth_on(self.db, TODAY).rows if row.account_id == account_id)

    def test_it_closes_only_when_nothing_lies_in_it(self):
        self.trade("buy", 10, 40000)
        with self.assertRaises(InvalidInput) as caught:
            ending.close_account(self.db, BY, self.depot, TODAY, rest_to=self.current)
        self.assertIn("10 Tern Robotics still lie in Depot", caught.exception.sentence)
        self.trade("sell", 10, 50000, day=TODAY)
        ending.close_account(self.db, BY, self.depot, TODAY, rest_to=self.current)
        with self.assertRaises(InvalidInput):
            self.trade("buy", 1, 100)

    def test_deleted_and_brought_back_it_is_what_it_was(self):
        self.trade("buy", 10, 40000)
        before = worth.worth_on(self.db, TODAY).now.net_minor
        step = ending.delete_account(self.db, BY, self.depot, "Depot").step_id
        self.assertEqual(invariants.find_breaches(self.db), [])
        changes.undo_step(self.db, BY, step)
        self.assertEqual((worth.worth_on(self.db, TODAY).now.net_minor, self.row().cost_minor), (before, 40000))

    def test_a_change_of_method_is_previewed_as_it_comes_out(self):
        self.trade("buy", 10, 30000)
        self.trade("buy", 10, 45000, day=date(2026, 4, 2))
        self.trade("sell", 10, 50000, day=TODAY)
        shown = {one.key: (one.cost_minor, one.gained) for one in counting.counting_of(self.db, BY, self.depot).methods}
        self.assertEqual(shown["first"], (45000, {2026: 20000}))
        self.assertEqual(shown["highest"], (30000, {2026: 5000}))
        self.assertEqual(shown["average"], (37500, {2026: 12500}))
        for key, (cost, gained) in shown.items():
            counting.choose_method(self.db, BY, self.depot, key)
            self.assertEqual((self.row().cost_minor, gains.gains_of_year(self.db, 2026).gain_minor), (cost, gained[2026]))


class Worth(HoldingsCase):
    def test_what_changed_is_the_market_and_what_came_in(self):
        self.trade("buy", 10, 40500, fee_minor=500, day=date(2026, 3, 1))
        self.trade("in", 2, 7000, day=date(2026, 4, 20))
        changed = worth.what_changed(self.db, date(2026, 2, 28), TODAY)
        self.assertEqual(changed.of("market"), 10 * 5000 - 40500 + 2 * (5000 - 4000))
        self.assertEqual(changed.of("new"), 2 * 4000)
        self.assertEqual(sum(changed.of(cause) for cause in CAUSES), changed.home_minor)

    def test_a_foreign_depot_parts_price_and_rate(self):
        for day, rate in ((date(2026, 1, 2), 90_000_000), (date(2026, 5, 1), 80_000_000)):
            market.note_rate(self.db, BY, "USD", day, rate)
        abroad = accounts.add_account(self.db, BY, accounts.NewAccount("Abroad", "brokerage", "USD", 0, date(2026, 1, 1))).made
        wherry = securities.add_security(self.db, BY, Security(0, "Wherry Freight", "", currency="USD")).made
        securities.set_price(self.db, BY, wherry, date(2026, 2, 1), 100 * E8)
        securities.set_price(self.db, BY, wherry, date(2026, 5, 2), 120 * E8)
        trading.enter_trade(self.db, BY, Trade(date(2026, 2, 1), "opening", 10 * E8, wherry, -100000, account_id=abroad))
        row = book.holdings_on(self.db, TODAY).row(f"{abroad}-{wherry}")
        self.assertEqual((row.price_minor, row.currency_minor, row.home_minor), (16000, -10000, 96000))
        changed = worth.what_changed(self.db, date(2026, 2, 1), TODAY)
        self.assertEqual((changed.of("market"), changed.of("currency")), (16000, -10000))
        market.note_rate(self.db, BY, "USD", date(2026, 1, 2), 95_000_000)
        row = book.holdings_on(self.db, TODAY).row(f"{abroad}-{wherry}")
        self.assertEqual((row.cost_minor, row.currency_minor), (95000, -15000), "a rate that changes changes what it had cost")

    @settings(max_examples=25, deadline=None)
    @given(st.lists(st.tuples(st.sampled_from(["buy", "sell", "dividend", "in", "reinvest", "split", "fee", "undo"]),
                              st.integers(1, 9), st.integers(100, 9000), st.integers(0, 130)), max_size=9))  # fmt: skip
    def test_money_in_is_money_out_and_change_whatever_is_done(self, acts):
        steps: list[int] = []
        at_first = worth.worth_on(self.db, TODAY).now.net_minor
        for kind, count, total, days in acts:
            day = date(2026, 1, 3) + timedelta(days=days)
            if kind == "undo":
                if steps:
                    changes.undo_step(self.db, BY, steps.pop())
                continue
            ratio = {"ratio_new": 2, "ratio_old": 1} if kind == "split" else {}
            try:
                way = KIND_BY_KEY[kind].shares_way
                steps.append(self.trade(kind, count if way else 0, total if kind != "split" else None, day=day, **ratio).step_id)
            except InvalidInput:
                continue  # sold more than there was
        for first, last in ((date(2026, 1, 31), date(2026, 3, 31)), (date(2026, 3, 31), TODAY)):
            changed = worth.what_changed(self.db, first, last)
            before, after = (worth.worth_on(self.db, day).now.net_minor for day in (first, last))
            self.assertEqual((sum(changed.of(cause) for cause in CAUSES), changed.of("saved")), (after - before, 0))
        self.assertEqual(invariants.find_breaches(self.db), [])
        for step in reversed(steps):
            changes.undo_step(self.db, BY, step)
        self.assertEqual(worth.worth_on(self.db, TODAY).now.net_minor, at_first)


class Performance(HoldingsCase):
    def test_a_price_that_doubles_between_two_purchases(self):
        securities.set_price(self.db, BY, self.tern, date(2026, 3, 1), 80 * E8)
        self.trade("buy", 10, 40000, day=date(2026, 1, 2))
        self.trade("buy", 10, 80000, day=date(2026, 3, 1))
        did = performance(self.db, [self.row()], TODAY)
        self.assertAlmostEqual(did.time_weighted, 50 / 40 - 1, 9)
        self.assertEqual((did.put_in_minor, did.end_minor, did.earned_minor), (120000, 100000, -20000))
        self.assertLess(did.money_weighted, 0)

    def test_what_is_followed_beside_counts_nowhere(self):
        securities.compare_with(self.db, BY, self.tern, is_compared=True)
        other = securities.add_security(self.db, BY, Security(0, "Wherry Freight", "", currency="EUR")).made
        self.trade("buy", 10, 1000, day=date(2026, 1, 2), security=other)
        did = performance(self.db, book.holdings_on(self.db, TODAY).rows, TODAY)
        self.assertAlmostEqual(did.compared[0].total, 0.25, 6)
        self.assertEqual(did.end_minor, 1000, "priced by its trade, where nobody tells a price")


class Suspects(HoldingsCase):
    def test_a_cost_typed_as_the_price_of_one_is_mended_and_undone_whole(self):
        self.trade("opening", 30, 4050, day=date(2026, 1, 3))
        (one,) = basis.list_suspects(self.db, TODAY)
        self.assertEqual((one.before.gain_minor, one.after.gain_minor), (150000 - 4050, 150000 - 121500))
        done = basis.mend(self.db, BY, one.key)
        self.assertEqual(self.row().gain_minor, one.after.gain_minor)
        with self.assertRaises(Conflict):
            basis.mend(self.db, BY, one.key)
        changes.undo_step(self.db, BY, done.step_id)
        self.assertEqual(self.row().gain_minor, one.before.gain_minor)
        basis.keep_as_it_is(self.db, BY, one.key)
        self.assertEqual(basis.list_suspects(self.db, TODAY), [])

    def test_other_shares_than_the_list_has_are_mended_here_too(self):
        self.trade("buy", 30, -121500, day=date(2026, 1, 3))
        self.trade("buy", 30, -121500, day=date(2026, 1, 3))
        shares.note_positions(self.db, BY, self.depot, TODAY, [("Tern Robotics", "", 30 * 10**8)])
        (one,) = basis.list_suspects(self.db, TODAY)
        self.assertEqual(one.suspect.repair, "Remove the double")
        self.assertEqual((one.before.shares_e8, one.after.shares_e8), (60 * 10**8, 30 * 10**8))
        done = basis.mend(self.db, BY, one.key)
        self.assertEqual((basis.list_suspects(self.db, TODAY), shares.list_differing(self.db)), ([], []))
        changes.undo_step(self.db, BY, done.step_id)
        self.assertEqual(basis.list_suspects(self.db, TODAY, only=(self.depot, self.tern))[0].key, one.key)
        self.assertEqual(invariants.find_breaches(self.db), [])

    def test_what_is_reconciled_or_closed_is_not_mended_behind_its_back(self):
        """Each would change cash that a statement or a closing agreed on."""
        self.trade("buy", 10, 1000, day=date(2026, 1, 3))  # of a market's price of 40: 40 times too little
        (far,) = basis.list_suspects(self.db, TODAY)
        statement = checking.begin_statement(self.db, BY, self.depot, date(2026, 4, 30), 99000).made
        locked = checking.reconcile(self.db, BY, statement).step_id
        with self.assertRaises(NotAllowed):
            basis.mend(self.db, BY, far.key)
        changes.undo_step(self.db, BY, locked)
        done = self.trade("sell", 10, 40000, day=TODAY)
        self.close_depot()
        for act in (
            lambda: basis.mend(self.db, BY, basis.list_suspects(self.db, TODAY)[0].key),
            lambda: trading.remove_trade(self.db, BY, done.made),
        ):
            with self.assertRaises(NotAllowed):
                act()
        self.assertEqual(self.cash, 139000)
        self.close_depot(None)  # such an account is not empty, as every closed one must be at the end of a test

    def close_depot(self, day=TODAY):
        """Without an ending that books its cash away: the rule must hold whatever it still has."""
        with changes.note(self.db):
            account_store.change_account(self.db, replace(account_store.get_account(self.db, self.depot), closed_on=day))

    def test_two_at_once_mend_it_once(self):
        self.trade("opening", 30, 4050, day=date(2026, 1, 3))
        key = basis.list_suspects(self.db, TODAY)[0].key
        outcomes = []

        def mend():
            with closing(files.open_household(self.path)) as db:
                try:
                    outcomes.append(basis.mend(db, BY, key).step_id)
                except Conflict:
                    outcomes.append(None)

        both = [threading.Thread(target=mend) for _ in range(2)]
        for one in both:
            one.start()
        for one in both:
            one.join()
        self.assertEqual(len([x for x in outcomes if x]), 1)


class Files(HoldingsCase):
    def bring(self, text):
        return bringing_in.import_file(self.db, BY, "depot.ofx", text.replace("USD", "EUR").encode(), Answers(others="new"))

    def test_a_statements_trades_bring_their_cash_once_and_take_it_out_again(self):
        text = investments(ofx_trade(units="4", total="-160.00"), position("4"))
        done = self.bring(text)
        self.assertEqual(self.cash, 84000)
        self.assertEqual((self.bring(text).moves, self.cash), (0, 84000))
        undoing.undo_batch(self.db, BY, done.batch_id)
        self.assertEqual((self.cash, invariants.find_breaches(self.db)), (100000, []))
        self.assertEqual((self.bring(text).moves, self.cash), (1, 84000))
