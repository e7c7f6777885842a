"""Accounts, their terms and noted values, balances and rates. Begin with accounts.py."""
