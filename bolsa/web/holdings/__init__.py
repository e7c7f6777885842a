"""Holdings: what is held and what it gained; trades, securities, lots; shares here against shares there. Begin with views.py."""

from bolsa.services.holdings import mix_workings
from bolsa.services.holdings.workings import WORKINGS
from bolsa.web.area import Action, Area, Page
from bolsa.web.holdings import accounts, mix, securities, shares, trades, views
from bolsa.web.holdings.blueprint import blueprint

__all__ = ["AREA", "accounts", "mix", "securities", "shares", "trades", "views"]

AREA = Area(
    blueprint,
    page=Page("holdings.page", "Holdings", "h"),
    actions=(
        Action("holdings.new_trade", "Enter a trade"), Action("holdings.mix_page", "Mix and bands"),
        Action("holdings.list_securities", "Securities and prices"),
    ),
    workings=WORKINGS | mix_workings.WORKINGS,
    samples=(
        "/holdings", "/holdings?by=own2,account&since=12", "/holdings/14/3", "/holdings/gains?year=2025", "/holdings/securities",
        "/holdings/securities/3", "/holdings/mix", "/holdings/mix?sales=1", "/holdings/mix/14-3",
        "/holdings/trades/new?kind=sell&account=13&security=2", "/holdings/accounts/13", "/books/14/shares",
    ),
)  # fmt: skip
