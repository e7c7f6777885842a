"""Books: accounts.py the table and its forms, values.py noted values and rates, register.py one account's entries, entry.py
the form of one, bringing.py files and connections, checking.py statements, shares.py share positions. They share one
blueprint; each adds its views."""

from bolsa.web.books import accounts, bringing, checking, entry, register, shares, values
from bolsa.web.books.blueprint import blueprint

__all__ = ["accounts", "blueprint", "bringing", "checking", "entry", "register", "shares", "values"]
