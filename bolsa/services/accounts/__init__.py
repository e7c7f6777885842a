"""Accounts, what they are worth, closing and deleting them. Begin with accounts.py."""
