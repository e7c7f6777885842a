"""What an account knows of its bookings."""

import unittest
from datetime import date

from bolsa.core.bringing.bookings import Booking, Told


class Bookings(unittest.TestCase):
    def test_a_corrected_booking_was_told_with_both_amounts(self):
        told = tuple(Told(n, "ofx", date(2026, 5, 4), amount, "Grebe") for n, amount in enumerate((-500, -450)))
        self.assertEqual(Booking(1, 1, told).amounts, {-500, -450})


if __name__ == "__main__":
    unittest.main()
