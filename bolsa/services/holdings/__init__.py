"""Shares here against shares there. Begin with shares.py."""
