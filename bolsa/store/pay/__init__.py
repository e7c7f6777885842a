"""Pays, their lines, and the paydays that were confirmed. Begin with pay.py."""
