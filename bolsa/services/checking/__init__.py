"""Statements checked, differences explained and cured. Begin with checking.py."""
