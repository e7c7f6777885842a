"""The letters that lie in the demo household's mail folder: a purchase, a distribution, and one that tells of no trade."""

from datetime import UTC, datetime

from bolsa.stand_ins.mail.state import SentLetter

BROKER = "Halcyon Brokerage <confirmations@halcyon.example>"

LETTERS = (
    SentLetter(
        "halcyon-58213",
        BROKER,
        "Confirmation of your purchase",
        datetime(2026, 5, 13, 16, 4, tzinfo=UTC),
        """Dear Noor Quist,

we have carried out your order.

Order number: 58213
Account: HD20881
Bought: 6 shares of Tern Robotics
Price: USD 32.05
Fee: USD 1.50
Total: USD 193.80
Trade date: 13 May 2026

Keep this letter for your tax return.
""",
    ),
    SentLetter(
        "halcyon-58240",
        BROKER,
        "Dividend advice",
        datetime(2026, 5, 14, 7, 30, tzinfo=UTC),
        "A dividend of Wherry Freight was paid to account HD20881. Please read the table in this letter.\n",
        """<html><body><p>A dividend was paid to your account.</p>
<table>
<tr><td>Account</td><td>HD20881</td></tr>
<tr><td>Reference</td><td>58240</td></tr>
<tr><td>Security</td><td>Wherry Freight</td></tr>
<tr><td>Shares held</td><td>57.365</td></tr>
<tr><td>Gross amount</td><td>USD 14.34</td></tr>
<tr><td>Tax withheld</td><td>USD 2.15</td></tr>
<tr><td>Net amount</td><td>USD 12.19</td></tr>
<tr><td>Payment date</td><td>14 May 2026</td></tr>
</table></body></html>
""",
    ),
    SentLetter(
        "halcyon-news",
        BROKER,
        "Our opening hours in June",
        datetime(2026, 5, 12, 9, 0, tzinfo=UTC),
        "Dear Noor Quist,\n\nour office in Port Halden is closed on Friday 5 June.\n",
    ),
)
