"""A broker's table and letters through the services: asked about, brought in once, left out by hand, taken out again."""

from dataclasses import replace
from datetime import date
from pathlib import Path

from bolsa.demo.letters import LETTERS
from bolsa.errors import BolsaError, InvalidInput, NotFound
from bolsa.formats.trades_guess import LEFT_OUT
from bolsa.services import changes
from bolsa.services.accounts import ending
from bolsa.services.bringing import bringing_in, letters, previewing, taking_in, undoing
from bolsa.services.bringing.questions import Answers
from bolsa.services.holdings import counting, trading
from bolsa.services.ledger import attaching
from bolsa.stand_ins.mail.state import write_letters
from bolsa.store.holdings import securities, trades
from tests.services.household import BY, HouseholdCase, picture

TABLE = (
    b"Depot HD20881\nTrade date;Type;Security;Quantity;Price;Fee;Net amount;Currency\n"
    b"04.05.2026;Buy;Tern;12;32,20;1,50;-387,90;USD\n05.05.2026;Sell;Tern;-3,5;49,00;0,50;171,00;USD\n"
    b"06.05.2026;Dividend;Tern;;;;12,34;USD\n07.05.2026;Deposit;;;;;500,00;USD\n08.05.2026;Corporate action;Tern;5;;;;USD\n"
)
HELD = b"Security,Units,Cost,Acquired\nTern,40,2100.00,2019-03-04\nPetrel,12.5,,2024-02-01\n"


class BrokerFiles(HouseholdCase):
    def setUp(self):
        super().setUp()
        self.depot = self.an_account("Depot", kind="brokerage", currency="USD", number="HD20881")
        counting.count_by(self.db, BY, self.depot, shares=True)

    def held(self):
        names = {one.id: one.name for one in securities.list_securities(self.db)}
        return [(names[t.security_id], t.kind, t.shares_e8 / 1e8, t.total_minor) for t in trades.list_trades(self.db, self.depot)]

    def taken(self, content=TABLE, meaning=LEFT_OUT):
        taken = taking_in.take_in(self.db, BY, "depot.csv", content)
        if taken.question:
            self.assertEqual(taken.question.asks, "columns")
            reading = previewing.get_preview(self.db, taken.batch_id).csv
            kinds = {**reading.mapping.kinds, "corporate action": meaning}
            self.assertIsNone(
                taking_in.answer(self.db, BY, taken.batch_id, Answers(columns=replace(reading.mapping, kinds=kinds)))
            )
        return taken.batch_id

    def test_a_word_is_asked_about_once_and_the_table_comes_in_once(self):
        first = self.taken()
        done = bringing_in.bring_in(self.db, BY, first).made
        self.assertEqual((done.moves, done.new), (3, 1))
        self.assertEqual([one[1:] for one in self.held()],
                         [("buy", 12.0, -38_790), ("sell", -3.5, 17_100), ("dividend", 0.0, 1234)])  # fmt: skip
        self.assertEqual(self.balance(self.depot), 50_000 - 38_790 + 17_100 + 1234)
        again = taking_in.take_in(self.db, BY, "again.csv", TABLE)
        self.assertIsNone(again.question)  # what the word means is remembered for tables of this shape
        shown = previewing.get_preview(self.db, again.batch_id)
        self.assertEqual((shown.to_bring, shown.shares[0].known, shown.csv.is_remembered), (0, 3, True))

    def test_taken_out_again_everything_is_as_before(self):
        batch = self.taken()
        bringing_in.bring_in(self.db, BY, batch)
        undoing.undo_batch(self.db, BY, batch)
        self.assertEqual((self.held(), self.balance(self.depot)), ([], 0))
        bringing_in.bring_in(self.db, BY, self.taken())
        self.assertEqual(len(self.held()), 3)

    def test_a_trade_left_out_by_hand_is_not_brought_and_may_be_taken_again(self):
        batch = self.taken()
        buy, sell, paid = previewing.get_preview(self.db, batch).shares[0].new
        for move in (buy, sell):
            previewing.overrule_trade(self.db, batch, move.id, take=False)
        previewing.overrule_trade(self.db, batch, buy.id, take=True)
        shown = previewing.get_preview(self.db, batch).shares[0]
        self.assertEqual(([m.id for m in shown.new], [m.id for m in shown.left_out]), ([buy.id, paid.id], [sell.id]))
        bringing_in.bring_in(self.db, BY, batch)
        self.assertEqual([kind for _, kind, *_ in self.held()], ["buy", "dividend"])
        with self.assertRaises(NotFound):
            previewing.overrule_trade(self.db, self.taken(), buy.id, take=False)

    def test_what_was_held_before_comes_with_its_cost_and_a_double_is_told(self):
        brought = bringing_in.import_file(self.db, BY, "held.csv", HELD, Answers(self.depot))
        self.assertEqual((brought.moves, brought.warnings), (2, ("Line 3: says no cost; Holdings will ask for it.",)))
        tern = next(t for t in trades.list_trades(self.db, self.depot) if t.total_minor)
        self.assertEqual((tern.day, tern.basis_day, tern.total_minor), (date(2026, 1, 1), date(2019, 3, 4), -210_000))
        other = HELD.replace(b"Tern,40,2100.00", b"Tern,41,2100.00")
        batch = taking_in.take_in(self.db, BY, "b.csv", other, Answers(self.depot)).batch_id
        self.assertIn(
            "40 shares of Tern are here on 2026-01-01 already", previewing.get_preview(self.db, batch).shares[0].doubts[0]
        )

    def test_an_account_without_shares_is_refused_and_a_table_may_be_said_to_be_a_banks(self):
        with self.assertRaisesRegex(InvalidInput, "holds no shares"):
            taking_in.take_in(self.db, BY, "depot.csv", TABLE, Answers(self.current))
        as_rows = b"Date,Name,Shares,Amount\n2026-05-04,Ferry,2,-12.00\n"
        self.assertEqual(bringing_in.import_file(self.db, BY, "a.csv", as_rows, Answers(self.current, holds="rows")).new, 1)

    def test_a_file_lies_with_its_trade_through_removal_and_return_and_counts_as_touched(self):
        batch = self.taken()
        bringing_in.bring_in(self.db, BY, batch)
        trade = trades.list_trades(self.db, self.depot)[0]
        done = attaching.attach_to_trade(self.db, BY, trade.id, "advice.png", picture())
        self.assertEqual(done.sentence, "Attached advice.png to Tern, bought 2026-05-04")
        removed = trading.remove_trade(self.db, BY, trade.id)
        self.assertEqual(attaching.list_of_trade(self.db, trade.id), [])
        changes.undo_step(self.db, BY, removed.step_id)
        self.assertEqual([one.name for one in attaching.list_of_trade(self.db, trade.id)], ["advice.png"])
        undoing.undo_batch(self.db, BY, batch)
        self.assertEqual([kind for _, kind, *_ in self.held()], ["buy"])  # what someone touched stays
        attaching.detach(self.db, BY, attaching.list_of_trade(self.db, trade.id)[0].id)
        self.assertEqual(attaching.list_of_trade(self.db, trade.id), [])

    def test_a_closed_account_takes_no_trades_from_files(self):
        ending.close_account(self.db, BY, self.depot, date(2026, 5, 14))
        with self.assertRaisesRegex(InvalidInput, "Depot is closed since 2026-05-14"):
            bringing_in.import_file(self.db, BY, "held.csv", HELD, Answers(self.depot))
        self.assertEqual(self.held(), [])

    def test_letters_of_a_folder_are_previews_and_nothing_else_is_touched(self):
        folder = self.folder / "mail"
        write_letters(folder, LETTERS)
        (folder / "passwd.eml").symlink_to("/etc/passwd")
        (folder / "binary.eml").write_bytes(bytes(range(256)))
        listed = {one.name: one for one in letters.list_letters(self.db, folder)}
        self.assertEqual({name for name, one in listed.items() if one.is_new}, {"halcyon-58213.eml", "halcyon-58240.eml"})
        self.assertEqual(listed["halcyon-news.eml"].problem, "It tells of no trade that can be read.")
        self.assertNotIn("passwd.eml", listed)
        for batch in letters.take_in_letters(self.db, BY, folder, []):
            bringing_in.bring_in(self.db, BY, batch)
        self.assertEqual({one[:2] for one in self.held()}, {("Tern Robotics", "buy"), ("Wherry Freight", "dividend")})
        self.assertEqual(self.balance(self.depot), -19_380 + 1219)
        self.assertEqual({one.state for one in letters.list_letters(self.db, folder)}, {"", "brought"})
        with self.assertRaisesRegex(BolsaError, "No new letter"):
            letters.take_in_letters(self.db, BY, folder, [])
        self.assertEqual(letters.list_letters(self.db, Path("/nowhere")), [])
