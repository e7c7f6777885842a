"""Books: accounts.py the table and its forms, values.py noted values and rates. Begin with accounts.py."""

from bolsa.services.accounts.workings import WORKINGS
from bolsa.web.accounts import accounts, values
from bolsa.web.accounts.blueprint import blueprint
from bolsa.web.area import Action, Area, Page

__all__ = ["AREA", "accounts", "values"]

AREA = Area(
    blueprint,
    workings=WORKINGS,
    page=Page("accounts.table", "Books", "b"),
    actions=(Action("accounts.new_account", "Add an account"), Action("accounts.several_accounts", "Add several accounts")),
    samples=(
        "/books",
        "/books/accounts/new",
        "/books/accounts/several",
        "/books/accounts/1/edit",
        "/books/accounts/1/end",
        "/books/7/values",
        "/books/rates",
    ),
)
