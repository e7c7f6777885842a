"""Books: accounts.py the table and its forms, register.py one account's entries, bringing.py files and connections,
checking.py statements. They share one blueprint; each adds its views to it."""

from bolsa.web.books import accounts, bringing, checking, register
from bolsa.web.books.blueprint import blueprint

__all__ = ["accounts", "blueprint", "bringing", "checking", "register"]
