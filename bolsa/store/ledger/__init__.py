"""Entries, lines, payees, tags, attachments, and the register's pages over them. Begin with entries.py."""
