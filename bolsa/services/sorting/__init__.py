"""Piles, filing, transfers; the household's categories. Begin with sorting.py."""
