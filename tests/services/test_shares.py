"""Shares of an account: entered, listed, compared, cured with undo, brought in from a file and taken out again."""

from datetime import date

from bolsa.core.holdings.shares import E8
from bolsa.core.holdings.trades import Trade
from bolsa.errors import Conflict, InvalidInput, NotFound
from bolsa.services import changes
from bolsa.services.accounts import ending
from bolsa.services.bringing import bringing_in, previewing, undoing
from bolsa.services.bringing.questions import Answers, Choice
from bolsa.services.bringing.taking_in import answer, take_in
from bolsa.services.holdings import securities, shares, trading
from bolsa.store.accounts import accounts
from tests.formats.test_ofx_shares import investments, position, trade
from tests.services.household import BY, HouseholdCase

APRIL = date(2026, 4, 30)


class Shares(HouseholdCase):
    def setUp(self):
        super().setUp()
        self.depot = self.an_account("Depot", "brokerage", currency="USD", number="HD20881", institution="Halcyon Brokers")

    def enter(self, count, kind="buy", day=date(2026, 4, 1), name="Tern Robotics", **more):
        security_id = securities.put_named(self.db, name, "", "EUR")
        trade = Trade(day, kind, round(count * E8), security_id, -100, account_id=self.depot, **more)
        return trading.enter_trade(self.db, BY, trade)

    def listed(self, count, name="Tern Robotics", day=APRIL):
        return shares.note_positions(self.db, BY, self.depot, day, [(name, "", round(count * E8))])

    def holding(self):
        return shares.shares_page(self.db, BY, self.depot).holdings[0]

    def test_a_difference_is_found_cured_and_the_cure_undone(self):
        self.enter(40)
        self.listed(120)
        self.assertEqual((self.holding().missing_e8, shares.count_differing(self.db)), (80 * E8, {self.depot: 1}))
        suspect = self.holding().suspects[0]
        step_id = shares.cure(self.db, BY, self.depot, self.holding().security.id, suspect.key).step_id
        self.assertEqual((self.holding().missing_e8, self.holding().now_e8), (0, 120 * E8))
        self.assertEqual(shares.count_differing(self.db), {})
        with self.assertRaises(Conflict):
            shares.cure(self.db, BY, self.depot, self.holding().security.id, suspect.key)
        changes.undo_step(self.db, BY, step_id)
        self.assertEqual(self.holding().missing_e8, 80 * E8)

    def test_a_turned_purchase_is_a_sale(self):
        self.enter(40)
        self.enter(5)
        self.listed(35)
        shares.cure(self.db, BY, self.depot, self.holding().security.id, self.holding().suspects[0].key)
        move = shares.shares_page(self.db, BY, self.depot).moves[0][0]
        self.assertEqual((move.kind, move.shares_e8, move.total_minor), ("sell", -5 * E8, 100))

    def test_what_is_compared_is_the_day_of_the_list(self):
        self.enter(40)
        self.enter(3, day=date(2026, 5, 10))
        self.listed(40)
        self.assertEqual((self.holding().missing_e8, self.holding().now_e8), (0, 43 * E8))

    def test_names_are_one_security_however_written_and_a_code_is_kept(self):
        self.enter(1)
        self.listed(1, "tern robotics")
        shares.note_positions(self.db, BY, self.depot, APRIL, [("Tern Robotics", "zz00 tern 0003", E8)])
        self.assertEqual([(h.security.name, h.security.code) for h in [self.holding()]], [("Tern Robotics", "ZZ00TERN0003")])

    def test_what_makes_no_sense_is_refused_where_it_arose(self):
        for field, enter in (
            ("day", lambda: self.enter(1, day=date(2026, 6, 1))),
            ("security", lambda: self.enter(1, name=" ")),
            ("listed_on", lambda: self.listed(1, day=date(2026, 6, 1))),
            ("account", lambda: shares.note_positions(self.db, BY, self.current, APRIL, [("A", "", E8)])),
        ):
            with self.subTest(field), self.assertRaises(InvalidInput) as caught:
                enter()
            self.assertEqual(caught.exception.field, field)

    def bring(self, text):
        return bringing_in.import_file(self.db, BY, "depot.ofx", text.encode(), Answers(others="new"))

    def test_a_file_brings_moves_once_and_what_is_listed(self):
        text = investments(trade(units="40") + trade(units="2", ref="t2"), position("42"))
        done = self.bring(text)
        self.assertEqual((done.moves, done.positions, self.holding().missing_e8), (2, 1, 0))
        self.assertEqual(self.bring(text).moves, 0)
        longer = investments(trade(units="40") + trade(units="2", ref="t2") + trade(units="1", ref="t3"), position("43"))
        self.assertEqual((self.bring(longer).moves, self.holding().now_e8), (1, 43 * E8))

    def test_what_a_list_leaves_out_is_not_there_any_more(self):
        self.enter(7, name="Wherry Freight")
        self.enter(3, name="Gone Before", day=date(2026, 3, 1))
        self.enter(3, kind="sell", name="Gone Before", day=date(2026, 3, 2))
        self.bring(investments(trade(units="40"), position("40")))
        found = {h.security.name: h.missing_e8 for h in shares.shares_page(self.db, BY, self.depot).holdings}
        self.assertEqual(found, {"Gone Before": 0, "Tern Robotics": 0, "Wherry Freight": -7 * E8})

    def test_what_was_noted_by_hand_stands_again_when_a_file_that_listed_otherwise_is_taken_out(self):
        self.bring(investments(trade(units="40"), position("40")))
        self.listed(38)
        other = self.bring(investments(trade(units="40"), position("41")))
        self.assertEqual(self.holding().missing_e8, E8)
        undoing.undo_batch(self.db, BY, other.batch_id)
        self.assertEqual(self.holding().missing_e8, -2 * E8)
        self.listed(39)
        self.assertEqual(self.holding().missing_e8, -E8)

    def test_a_list_can_be_forgotten_and_the_forgetting_undone(self):
        self.enter(40)
        self.listed(30)
        step_id = shares.forget_positions(self.db, BY, self.depot, self.holding().security.id).step_id
        self.assertEqual((self.holding().declared, shares.count_differing(self.db)), (None, {}))
        changes.undo_step(self.db, BY, step_id)
        self.assertEqual(self.holding().missing_e8, -10 * E8)

    def test_a_move_is_taken_out_and_put_back(self):
        self.enter(40)
        move = shares.shares_page(self.db, BY, self.depot).moves[0][0]
        step_id = trading.remove_trade(self.db, BY, move.id).step_id
        self.assertEqual(shares.shares_page(self.db, BY, self.depot).moves, ())
        changes.undo_step(self.db, BY, step_id)
        self.assertEqual(self.holding().now_e8, 40 * E8)
        with self.assertRaises(NotFound):
            trading.remove_trade(self.db, BY, 999)

    def test_deleting_the_account_takes_its_shares_and_undo_brings_them_back(self):
        self.enter(40)
        self.listed(40)
        step_id = ending.delete_account(self.db, BY, self.depot, "Depot").step_id
        self.assertEqual(shares.count_differing(self.db), {})
        self.assertEqual(self.db.execute("SELECT count(*) FROM trade").fetchone()[0], 0)
        changes.undo_step(self.db, BY, step_id)
        self.assertEqual((self.holding().now_e8, self.holding().missing_e8), (40 * E8, 0))

    def test_a_move_typed_before_is_recognised_and_two_equal_ones_are_two(self):
        self.enter(10, day=date(2026, 4, 13))
        self.assertEqual(self.bring(investments(trade(ref="a", code=""), securities="")).moves, 1, "another security")
        twice = investments(trade(ref="") + trade(ref=""))
        self.assertEqual(self.bring(twice).moves, 1, "one of the two was typed")
        self.assertEqual(self.bring(twice).moves, 0)

    def test_a_batch_is_taken_out_but_for_what_was_changed_since(self):
        done = self.bring(investments(trade(units="40") + trade(units="5", ref="t2"), position("35")))
        shares.cure(self.db, BY, self.depot, self.holding().security.id, self.holding().suspects[0].key)
        said = undoing.undo_batch(self.db, BY, done.batch_id).made
        self.assertIn("1 trade", said)
        self.assertEqual([m.shares_e8 for m, _ in shares.shares_page(self.db, BY, self.depot).moves], [-5 * E8])

    def test_the_preview_asks_for_an_account_it_does_not_know(self):
        text = investments(trade(), position("10"), number="NEW77").encode()
        batch_id = take_in(self.db, BY, "new.ofx", text, Answers()).batch_id
        found = previewing.get_preview(self.db, batch_id).found
        self.assertEqual([(one.number, one.kind, one.rows) for one in found], [("NEW77", "brokerage", 1)])
        answer(
            self.db, BY, batch_id, Answers(accounts={"NEW77": Choice("new", name="New depot", kind="brokerage")}, others="leave")
        )
        shown = previewing.get_preview(self.db, batch_id)
        self.assertEqual((len(shown.shares[0].new), shown.to_bring), (1, 2))
        self.assertEqual(bringing_in.bring_in(self.db, BY, batch_id).made.moves, 1)
        made = accounts.find_account_named(self.db, "New depot")
        self.assertEqual(shares.shares_page(self.db, BY, made.id).holdings[0].missing_e8, 0)

    def test_an_everyday_account_takes_no_shares_and_the_file_is_kept(self):
        content = investments(trade(), number="X1").replace("USD", "EUR").encode()
        done = bringing_in.import_file(self.db, BY, "x.ofx", content, Answers(self.current, others="new"))
        self.assertEqual(done.moves, 0)
        self.assertTrue(any("holds no shares" in warning for warning in done.warnings), done.warnings)
        self.assertEqual(self.db.execute("SELECT count(*) FROM upload").fetchone()[0], 1)
