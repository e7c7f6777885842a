"""Statements, ticks and locks. Begin with statements.py."""
