"""What is shown can be posted back unchanged: in every way of writing, in currencies of no, two and three digits."""

import contextlib
import tempfile
import unittest
from datetime import date
from pathlib import Path

from flask import g
from hypothesis import given
from hypothesis import strategies as st
from werkzeug.datastructures import MultiDict

from bolsa.core.reader import READERS
from bolsa.services.house import files, households
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

    @given(st.dates(date(1970, 1, 1), date(2100, 12, 31)), st.sampled_from(sorted(READERS)))
    def test_a_day_shown_in_a_field_is_read_as_the_same(self, day, locale):
        with self.app.app_context():
            g.reader = READERS[locale]
            self.assertEqual(parse_day(MultiDict({"d": day_field(day)}), "d", TODAY), day)


if __name__ == "__main__":
    unittest.main()
