"""Entries and their lines, the quick line, days in words, payees' names. Begin with entries.py."""
