"""The kinds of account and what follows from each: terms, loans, noted values and their curves. Begin with account.py."""
