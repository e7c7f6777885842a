"""What is shown can be posted back unchanged: in every way of writing, in currencies of no, two and three digits."""

import contextlib
import re
import tempfile
import unittest
from datetime import date
from pathlib import Path

from flask import g
from hypothesis import given
from hypothesis import strategies as st
from werkzeug.datastructures import MultiDict

from bolsa.bench.fuzz.forms import forms_of
from bolsa.core.holdings.security import Security
from bolsa.core.holdings.trades import Trade
from bolsa.core.reader import READERS
from bolsa.services.accounts import accounts
from bolsa.services.accounts.accounts import NewAccount
from bolsa.services.holdings import securities, trading
from bolsa.services.house import files, households, preferences
from bolsa.services.house.households import Household
from bolsa.web.filters import amount, day_field, money
from bolsa.web.forms import parse_day, parse_money
from tests.services.household import BY, TODAY
from tests.web.served import an_app


class Readers(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.folder = tempfile.TemporaryDirectory()
        path = Path(cls.folder.name) / "a.bolsa"
        with contextlib.closing(files.make_file(path)) as db:
            households.make_household(db, BY, Household("Quay", "EUR", "UTC", TODAY), ["Ana"])
        cls.app = an_app(path)

    @classmethod
    def tearDownClass(cls):
        cls.folder.cleanup()

    @given(st.integers(-(10**11), 10**11), st.sampled_from(["EUR", "JPY", "KWD"]), st.sampled_from(sorted(READERS)))
    def test_an_amount_shown_is_read_as_the_same(self, minor, currency, locale):
        with self.app.app_context():
            g.reader = READERS[locale]
            form = MultiDict({"x": amount(minor, currency)})
            self.assertEqual(parse_money(form, "x", currency), minor)

    def test_money_has_the_digits_of_its_currency(self):
        known = {("EUR", "en_IE"): "€1,234.50", ("JPY", "en_IE"): "JP¥123,450", ("EUR", "de_DE"): "1.234,50\xa0€"}
        for (currency, locale), words in known.items():
            with self.subTest(currency=currency, locale=locale), self.app.app_context():
                g.reader = READERS[locale]
                self.assertEqual(money(123_450, currency).replace("JP¥", "JP¥"), words)

    def test_a_day_is_read_in_the_readers_order(self):
        for locale, day in (("en_IE", date(2026, 5, 4)), ("en_US", date(2026, 4, 5))):
            with self.subTest(locale), self.app.app_context():
                g.reader = READERS[locale]
                self.assertEqual(parse_day(MultiDict({"d": "4/5"}), "d", TODAY), day)

    def test_a_trade_opened_and_saved_untouched_is_unchanged_in_every_way_of_writing(self):
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "a.bolsa"
            with contextlib.closing(files.make_file(path)) as db:
                households.make_household(db, BY, Household("Quay", "EUR", "UTC", TODAY), ["Ana"])
                account_id = accounts.add_account(db, BY, NewAccount("Depot", "brokerage", opened_on=date(2026, 1, 1))).made
                security_id = securities.add_security(db, BY, Security(0, "Tern Robotics", "", currency="EUR", kind="share")).made
                typed = Trade(date(2026, 5, 4), "buy", 237_500_000, security_id, -28_500, account_id=account_id)
                trading.enter_trade(db, BY, typed)
                before = trading.list_trades(db, account_id, security_id)
                app = an_app(path)
                app.config["WTF_CSRF_ENABLED"] = False
                client = app.test_client()
                for locale in READERS:
                    preferences.choose_reader(db, locale, is_dense=False)
                    page = f"/holdings/trades/{before[0].id}"
                    form = next(one for one in forms_of(page, client.get(page).text) if dict(one.fields).get("shares"))
                    form = form.with_values(price="", reason="")  # what the walk fills in
                    reply = client.post(form.action, data=MultiDict(form.fields))
                    self.assertEqual(reply.status_code, 303, (locale, form, re.findall("role=.alert.[^<]*<[^<]*", reply.text)))
                    self.assertEqual(trading.list_trades(db, account_id, security_id), before, locale)

    @given(st.dates(date(1970, 1, 1), date(2100, 12, 31)), st.sampled_from(sorted(READERS)))
    def test_a_day_shown_in_a_field_is_read_as_the_same(self, day, locale):
        with self.app.app_context():
            g.reader = READERS[locale]
            self.assertEqual(parse_day(MultiDict({"d": day_field(day)}), "d", TODAY), day)


if __name__ == "__main__":
    unittest.main()
